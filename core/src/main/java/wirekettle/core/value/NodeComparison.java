package wirekettle.core.value;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;

/**
 * What differs between two trees, by structure: prefixes, white space around values and the order of attributes do not
 * matter; children of one name are compared in their order.
 */
public final class NodeComparison {
    private static final int MOST = 1_000;

    private final Set<String> ignored;
    private final List<Difference> differences = new ArrayList<>();

    private NodeComparison(Set<String> ignored) {
        this.ignored = ignored;
    }

    /** What happened to a place. */
    public enum Kind {
        /** Only the second has it. */
        ADDED,
        /** Only the first has it. */
        REMOVED,
        /** Both have it with different values. */
        CHANGED
    }

    /**
     * One difference.
     *
     * @param path local names from the root, {@code crate[2]} for the second of that name, {@code @no} for an attribute
     * @param before the value in the first, empty when there is none
     * @param after the value in the second, empty when there is none
     */
    public record Difference(Kind kind, String path, String before, String after) {}

    /**
     * Compares two trees.
     *
     * @param ignored local names of elements and attributes whose content does not matter
     * @return the differences in document order, at most 1,000
     */
    public static List<Difference> of(Node before, Node after, Set<String> ignored) {
        NodeComparison comparison = new NodeComparison(ignored);
        String root = before.name().local();
        if (!before.name().equals(after.name())) {
            comparison.add(
                    Kind.CHANGED, root, before.name().toString(), after.name().toString());
        }
        comparison.compare(before, after, root);
        return comparison.differences;
    }

    private void compare(Node before, Node after, String path) {
        if (ignored.contains(before.name().local())) {
            return;
        }
        if (before.nil() != after.nil()) {
            add(
                    Kind.CHANGED,
                    path,
                    before.nil() ? "nil" : before.text().strip(),
                    after.nil() ? "nil" : after.text().strip());
        } else if (!before.text().strip().equals(after.text().strip())) {
            add(Kind.CHANGED, path, before.text().strip(), after.text().strip());
        }
        String typeBefore = before.type() == null ? "" : before.type().toString();
        String typeAfter = after.type() == null ? "" : after.type().toString();
        if (!typeBefore.equals(typeAfter)) {
            add(Kind.CHANGED, path + "/@type", typeBefore, typeAfter);
        }
        pairs(before.attributes(), after.attributes(), path, "/@");
        pairs(before.children(), after.children(), path, "/");
    }

    private void pairs(List<Node> before, List<Node> after, String path, String step) {
        Map<Name, List<Node>> left = byName(before);
        Map<Name, List<Node>> right = byName(after);
        left.forEach((name, nodes) -> {
            List<Node> others = right.getOrDefault(name, List.of());
            for (int i = 0; i < nodes.size(); i++) {
                String at =
                        path + step + name.local() + (nodes.size() > 1 || others.size() > 1 ? "[" + (i + 1) + "]" : "");
                if (i < others.size()) {
                    compare(nodes.get(i), others.get(i), at);
                } else {
                    alone(Kind.REMOVED, nodes.get(i), at);
                }
            }
        });
        right.forEach((name, nodes) -> {
            int known = left.getOrDefault(name, List.of()).size();
            for (int i = known; i < nodes.size(); i++) {
                alone(
                        Kind.ADDED,
                        nodes.get(i),
                        path + step + name.local() + (nodes.size() > 1 ? "[" + (i + 1) + "]" : ""));
            }
        });
    }

    private static Map<Name, List<Node>> byName(List<Node> nodes) {
        Map<Name, List<Node>> all = new LinkedHashMap<>();
        nodes.forEach(
                node -> all.computeIfAbsent(node.name(), n -> new ArrayList<>()).add(node));
        return all;
    }

    private void alone(Kind kind, Node node, String path) {
        if (!ignored.contains(node.name().local())) {
            String value = node.children().isEmpty() ? node.text().strip() : "…";
            add(kind, path, kind == Kind.REMOVED ? value : "", kind == Kind.ADDED ? value : "");
        }
    }

    private void add(Kind kind, String path, String before, String after) {
        if (differences.size() < MOST) {
            differences.add(new Difference(kind, path, before, after));
        }
    }
}
