package wirekettle.core.fill;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.expression.WirePath;
import wirekettle.core.value.Grouping;
import wirekettle.core.value.Node;

/** The nodes a target repeats for, compiled: which, in what order, grouped by what. Safe for several threads. */
public final class RepeatedNodes {
    private final WirePath path;
    private final String as;
    private final Expressions.Compiled where;
    private final List<Sorting> order = new ArrayList<>();
    private final List<String> groupBy;

    private record Sorting(ValueSource by, boolean descending) {}

    private record Sorted(Node node, List<String> keys) {}

    private RepeatedNodes(WirePath path, String as, Expressions.Compiled where, List<String> groupBy) {
        this.path = path;
        this.as = as;
        this.where = where;
        this.groupBy = groupBy;
    }

    public static RepeatedNodes of(Fill fill, Expressions expressions, Set<String> known) throws ExpressionProblem {
        FilledBy.Repeat repeat = fill.repeat();
        WirePath path = ValueSource.path(repeat.from(), known);
        String as = variable(fill);
        Fill.Each each = repeat.each() == null ? new Fill.Each(null, null, null) : repeat.each();
        Set<String> inside = inside(fill, known);
        boolean filters = each.where() != null && !each.where().isBlank();
        RepeatedNodes made =
                new RepeatedNodes(path, as, filters ? expressions.compile(each.where(), inside) : null, each.groupBy());
        for (Fill.By by : each.order()) {
            Fill key = WirePath.isPath(by.by())
                    ? Fill.wire(fill.id(), fill.target(), by.by())
                    : Fill.expression(fill.id(), fill.target(), by.by());
            made.order.add(new Sorting(ValueSource.of(key, expressions, inside), Boolean.TRUE.equals(by.descending())));
        }
        return made;
    }

    /** Returns the name each node is bound to. */
    public static String variable(Fill fill) {
        String as = fill.repeat().as();
        return as == null ? "item" : as;
    }

    /** Returns what is known inside a repeat. */
    public static Set<String> inside(Fill fill, Set<String> known) {
        if (known == null) {
            return null;
        }
        Set<String> inside = new TreeSet<>(known);
        inside.add(variable(fill));
        return inside;
    }

    /** Returns the tree its nodes are in, null when there is none. */
    public Node tree(Scope outer) {
        return outer.get(path.variable());
    }

    /** Returns the scope inside the repeat for one node. */
    public Scope scope(Scope outer, Node node) {
        return outer.inside(as, node);
    }

    public List<Node> nodes(Scope outer) throws FillFailure {
        List<Node> found = path.all(outer);
        if (where == null && order.isEmpty() && groupBy.isEmpty()) {
            return found;
        }
        try {
            if (where != null) {
                List<Node> kept = new ArrayList<>();
                for (Node node : found) {
                    if (where.test(scope(outer, node))) {
                        kept.add(node);
                    }
                }
                found = kept;
            }
            if (!groupBy.isEmpty()) {
                found = Grouping.of(found, groupBy);
            }
            return order.isEmpty() ? found : sorted(found, outer);
        } catch (ExpressionProblem e) {
            throw new FillFailure("expression", "", e.getMessage());
        }
    }

    private List<Node> sorted(List<Node> nodes, Scope outer) throws ExpressionProblem {
        List<Sorted> all = new ArrayList<>();
        for (Node node : nodes) {
            Scope inside = scope(outer, node);
            List<String> keys = new ArrayList<>();
            for (Sorting sorting : order) {
                String key = sorting.by().raw(inside);
                keys.add(key == null ? "" : key);
            }
            all.add(new Sorted(node, keys));
        }
        Comparator<Sorted> all0 = (a, b) -> 0;
        for (int i = 0; i < order.size(); i++) {
            int at = i;
            Comparator<Sorted> by = (a, b) -> compare(a.keys().get(at), b.keys().get(at));
            all0 = all0.thenComparing(order.get(i).descending() ? by.reversed() : by);
        }
        all.sort(all0);
        return all.stream().map(Sorted::node).toList();
    }

    /** Numbers by their size and before everything else, texts by their characters. */
    private static int compare(String a, String b) {
        BigDecimal first = number(a);
        BigDecimal second = number(b);
        if (first != null && second != null) {
            return first.compareTo(second);
        }
        return first != null ? -1 : second != null ? 1 : a.compareTo(b);
    }

    private static BigDecimal number(String text) {
        String plain = text.strip();
        return plain.length() < 40 && plain.matches("[+-]?\\d+(\\.\\d+)?") ? new BigDecimal(plain) : null;
    }
}
