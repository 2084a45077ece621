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

    /**
     * Makes the fills below one target; their id is that of the fill that copies, so that every problem leads to it.
     */
    void of(String id, String from, SheetField target) {
        if (target.rule() != null) {
            throw new IllegalStateException("a field that holds text is wired, not copied");
        }
        below(id, target, from, 0);
    }

    private void below(String id, SheetField target, String from, int depth) {
        for (SheetField child : target.children()) {
            if (child.kind() == SheetField.Kind.ANY || child.recursive() || depth > DEEPEST) {
                continue;
            }
            boolean attribute = child.kind() == SheetField.Kind.ATTRIBUTE;
            String source = from + (attribute ? "/@" : "/") + child.name().local();
            String path = child.path();
            if (!filled.test(path)) {
                fill(id, child, source, path, depth);
            }
        }
    }

    private void fill(String id, SheetField child, String source, String path, int depth) {
        boolean repeats = child.max() != 1;
        String each = "copied_" + depth;
        if (repeats) {
            into.accept(Fill.repeat(id, path, source, each));
        }
        String from = repeats ? "$" + each : source;
        if (child.rule() != null && !repeats) {
            into.accept(Fill.wire(id, path, from));
        }
        if (!child.children().isEmpty()) {
            below(id, child, from, depth + 1);
        }
    }
}
