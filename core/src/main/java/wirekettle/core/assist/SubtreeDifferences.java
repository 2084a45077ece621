package wirekettle.core.assist;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.schema.SheetField;

/**
 * How the fields below a target compare with those below a source, by their names.
 *
 * @param same fields both have, as {@code town}, {@code line/no}
 * @param onlySource fields of the source with no place in the target
 * @param onlyTarget optional fields of the target the source does not have
 * @param missing required fields of the target the source does not have
 */
public record SubtreeDifferences(
        List<String> same, List<String> onlySource, List<String> onlyTarget, List<String> missing) {
    private static final int DEEPEST = 20;

    /** Compares; the source's fields by their paths below it. */
    public static SubtreeDifferences of(SheetField target, Map<String, String> source) {
        SubtreeDifferences made =
                new SubtreeDifferences(new ArrayList<>(), new ArrayList<>(), new ArrayList<>(), new ArrayList<>());
        Set<String> known = new HashSet<>();
        made.compare(target, "", source, known, true, 0);
        source.keySet().stream().filter(path -> !known.contains(path)).forEach(made.onlySource()::add);
        return made;
    }

    private void compare(
            SheetField field, String above, Map<String, String> source, Set<String> known, boolean needed, int depth) {
        for (SheetField child : field.children()) {
            if (child.kind() == SheetField.Kind.ANY || child.recursive() || depth > DEEPEST) {
                continue;
            }
            boolean attribute = child.kind() == SheetField.Kind.ATTRIBUTE;
            String path = above + (attribute ? "@" : "") + child.name().local();
            boolean there = source.containsKey(path);
            boolean required = needed && child.required();
            known.add(path);
            if (child.holdsText()) {
                (there ? same : required ? missing : onlyTarget).add(path);
            }
            compare(child, path + "/", source, known, required || there, depth + 1);
        }
    }
}
