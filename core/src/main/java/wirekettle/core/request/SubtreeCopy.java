package wirekettle.core.request;

import java.util.function.Consumer;
import java.util.function.Predicate;
import wirekettle.core.fill.Fill;
import wirekettle.core.schema.SheetField;

/** Makes the fills of a whole-subtree wire: every field below the target from the field of the same name. */
final class SubtreeCopy {
    private static final int DEEPEST = 20;

    private final Consumer<Fill> into;
    private final Predicate<String> filled;

    /** Makes a copy whose fills go to {@code into}; what is filled already keeps its fill. */
    SubtreeCopy(Consumer<Fill> into, Predicate<String> filled) {
        this.into = into;
        this.filled = filled;
    }

    /** Makes the fills below one target; a fill's id is that of the wire, so that every problem leads to it. */
    void of(Fill copy, SheetField target) {
        if (target.rule() != null) {
            throw new IllegalStateException("a field that holds text is wired, not copied");
        }
        below(copy, target, copy.copy(), 0);
    }

    private void below(Fill copy, SheetField target, String from, int depth) {
        for (SheetField child : target.children()) {
            if (child.kind() == SheetField.Kind.ANY || child.recursive() || depth > DEEPEST) {
                continue;
            }
            boolean attribute = child.kind() == SheetField.Kind.ATTRIBUTE;
            String source = from + (attribute ? "/@" : "/") + child.name().local();
            String path = child.path();
            if (!filled.test(path)) {
                fill(copy, child, source, path, depth);
            }
        }
    }

    private void fill(Fill copy, SheetField child, String source, String path, int depth) {
        boolean repeats = child.max() != 1;
        String each = "copied_" + depth;
        if (repeats) {
            into.accept(Fill.repeat(copy.id(), path, source, each));
        }
        String from = repeats ? "$" + each : source;
        if (child.rule() != null && !repeats) {
            into.accept(Fill.wire(copy.id(), path, from));
        }
        if (!child.children().isEmpty()) {
            below(copy, child, from, depth + 1);
        }
    }
}
