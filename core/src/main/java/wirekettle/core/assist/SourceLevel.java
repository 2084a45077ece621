package wirekettle.core.assist;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.UnaryOperator;
import wirekettle.core.expression.Scope;
import wirekettle.core.expression.WirePath;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.RepeatedNodes;
import wirekettle.core.value.Grouping;
import wirekettle.core.value.Node;
import wirekettle.core.value.ValueFormat;

/**
 * What can be wired at one point, with values seen in samples: fields that stand once, and repeated nodes, each a level
 * of its own.
 *
 * @param path the path to the repeated nodes from the level around them; null for what is in reach at the start
 * @param as the variable each of them is bound to
 * @param value the nodes themselves where they are leaves, else null
 * @param fields what stands once in each
 * @param repeated what repeats in each
 */
record SourceLevel(
        String path, String as, Suggester.Source value, List<Suggester.Source> fields, List<SourceLevel> repeated) {
    private static final int MOST_VALUES = 50;
    private static final int MOST_FIELDS = 2_000;
    private static final int DEEPEST = 10;

    /** Puts levels together from sample nodes. */
    static final class Reader {
        private final SuggestionSources from;
        private final Set<String> headerNames = new TreeSet<>();
        private final Set<String> lineNames = new TreeSet<>();

        Reader(SuggestionSources from) {
            this.from = from;
            if (from.lines() != null) {
                from.samples().forEach(s -> WirePath.parse(from.lines().replaceFirst("/[^/]*$", ""))
                        .all(s)
                        .forEach(this::compareLines));
                headerNames.removeAll(lineNames);
            }
        }

        /** What differs among the rows of one group belongs to its lines, what never does to its header. */
        private void compareLines(Node header) {
            Map<String, Set<String>> said = new LinkedHashMap<>();
            int lines = 0;
            for (Node line : header.children()) {
                if (line.name().local().equals(Grouping.LINE)) {
                    lines++;
                    line.children().forEach(f -> said.computeIfAbsent(f.name().local(), n -> new HashSet<>())
                            .add(f.text()));
                }
            }
            if (lines > 1) {
                said.forEach((name, values) -> (values.size() > 1 ? lineNames : headerNames).add(name));
            }
        }

        /** Returns what is in reach at the start: everything below the variables. */
        SourceLevel start() {
            SourceLevel level = new SourceLevel(null, null, null, new ArrayList<>(), new ArrayList<>());
            Set<String> taken = new TreeSet<>(from.variables());
            for (String variable : from.variables()) {
                List<Node> nodes = new ArrayList<>();
                for (Scope sample : from.samples()) {
                    Node node = sample.get(variable);
                    if (node != null) {
                        nodes.add(node);
                    }
                }
                collect(nodes, "$" + variable, p -> p, level, taken, 0);
            }
            return level;
        }

        /** Returns the level inside a repeat that is already filled. */
        SourceLevel inside(Fill repeat, List<Node> nodes) {
            String as = RepeatedNodes.variable(repeat);
            String path = repeat.repeat().from();
            return level(nodes, path, as, path, new TreeSet<>(from.variables()), 0);
        }

        private SourceLevel level(
                List<Node> nodes, String path, String as, String origin, Set<String> taken, int depth) {
            Set<String> inside = new TreeSet<>(taken);
            inside.add(as);
            boolean leaves = nodes.stream().allMatch(n -> n.children().isEmpty());
            String name = path.substring(path.lastIndexOf('/') + 1);
            SourceLevel level = new SourceLevel(
                    path,
                    as,
                    leaves ? source("$" + as, name, origin, nodes) : null,
                    new ArrayList<>(),
                    new ArrayList<>());
            UnaryOperator<String> told = p -> origin + p.substring(as.length() + 1);
            collect(nodes, "$" + as, told, level, inside, depth);
            return level;
        }

        /** Sorts what is below some nodes; a path's origin says where it lies from the start. */
        private void collect(
                List<Node> nodes,
                String wire,
                UnaryOperator<String> origin,
                SourceLevel into,
                Set<String> taken,
                int depth) {
            Map<String, List<Node>> found = new LinkedHashMap<>();
            Set<String> several = new HashSet<>();
            for (Node node : nodes) {
                Set<String> here = new HashSet<>();
                node.attributes()
                        .forEach(a -> found.computeIfAbsent("@" + a.name().local(), n -> new ArrayList<>())
                                .add(a));
                for (Node child : node.children()) {
                    String name = child.name().local();
                    found.computeIfAbsent(name, n -> new ArrayList<>()).add(child);
                    if (!here.add(name)) {
                        several.add(name);
                    }
                }
            }
            boolean header = from.lines() != null && from.lines().equals(origin.apply(wire) + "/" + Grouping.LINE);
            boolean line = origin.apply(wire).equals(from.lines());
            found.forEach((name, its) -> {
                String path = wire + "/" + name;
                boolean leaf = its.stream().allMatch(n -> n.children().isEmpty());
                if (into.fields().size() >= MOST_FIELDS
                        || header && lineNames.contains(name)
                        || line && headerNames.contains(name)) {
                    return;
                }
                if (several.contains(name) || origin.apply(path).equals(from.lines())) {
                    into.repeated().add(level(its, path, free(name, taken), origin.apply(path), taken, depth + 1));
                } else if (leaf) {
                    into.fields().add(source(path, name, origin.apply(path), its));
                } else if (depth < DEEPEST) {
                    collect(its, path, origin, into, taken, depth + 1);
                }
            });
        }

        private static String free(String name, Set<String> taken) {
            String as = name;
            for (int n = 2; taken.contains(as); n++) {
                as = name + n;
            }
            return as;
        }

        private Suggester.Source source(String wire, String name, String origin, List<Node> nodes) {
            ValueFormat format = from.formats().apply(origin);
            List<String> values =
                    nodes.stream().limit(MOST_VALUES).map(Node::text).toList();
            return new Suggester.Source(wire, name.replace("@", ""), format, values);
        }
    }
}
