package wirekettle.core.record;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.expression.WirePath;
import wirekettle.core.fill.CompiledFill;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.FillFailure;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.value.Node;
import wirekettle.core.value.ScalarType;

/**
 * Turns what is in reach after a call into rows. One row for each node of the row path, or one row a record. A wire
 * that shares its beginning with the row path follows the current row and its ancestors. Safe for several threads.
 */
public final class RecordPlan implements RowMaker {
    /**
     * A column of the target and what fills it.
     *
     * @param fill the fill; its target is the column's name
     * @param type the column's type
     * @param required whether an empty value rejects the record
     */
    public record Target(Fill fill, ScalarType type, boolean required) {}

    private record Compiled(Target target, WirePath wire, int shared, CompiledFill fill, Expressions.Compiled when) {}

    private final WirePath rows;
    private final List<Compiled> columns = new ArrayList<>();
    private final List<MappingProblem> design = new ArrayList<>();

    /**
     * Compiles the columns.
     *
     * @param rowPath the repeating element, null or empty for one row a record
     * @param known the variables in reach, null when any is accepted
     */
    public RecordPlan(String rowPath, List<Target> targets, Set<String> known, MappingContext context) {
        rows = rowPath == null || rowPath.isBlank() ? null : WirePath.parse(rowPath);
        Set<String> inReach = known;
        if (known != null && rows != null) {
            inReach = new java.util.TreeSet<>(known);
            inReach.add("row");
        }
        for (Target target : targets) {
            Fill fill = target.fill();
            try {
                WirePath wire = fill.wire() == null ? null : WirePath.parse(fill.wire());
                int shared = wire == null || rows == null ? -1 : rows.sharedWith(wire);
                Expressions.Compiled when = fill.when() == null || fill.when().isBlank()
                        ? null
                        : context.expressions().compile(fill.when(), inReach);
                columns.add(new Compiled(target, wire, shared, CompiledFill.of(fill, context, inReach), when));
            } catch (ExpressionProblem | IllegalArgumentException e) {
                design.add(new MappingProblem(fill.target(), "", fill.id(), "expression", e.getMessage()));
            }
        }
    }

    @Override
    public List<MappingProblem> designProblems() {
        return List.copyOf(design);
    }

    @Override
    public List<String> names() {
        return columns.stream().map(c -> c.target().fill().target()).toList();
    }

    @Override
    public List<String[]> rows(Scope scope, List<MappingProblem> problems) {
        List<String[]> made = new ArrayList<>();
        if (rows == null) {
            made.add(row(scope, List.of(), problems));
            return made;
        }
        for (List<Node> chain : rows.chains(scope)) {
            made.add(row(scope.inside("row", chain.get(chain.size() - 1)), chain, problems));
        }
        return made;
    }

    @Override
    public boolean manyRows() {
        return rows != null;
    }

    private String[] row(Scope scope, List<Node> chain, List<MappingProblem> problems) {
        String[] values = new String[columns.size()];
        for (int i = 0; i < values.length; i++) {
            values[i] = value(columns.get(i), scope, chain, problems);
        }
        return values;
    }

    private static String value(Compiled column, Scope scope, List<Node> chain, List<MappingProblem> problems) {
        Fill fill = column.target().fill();
        try {
            String value = null;
            if (column.when() == null || column.when().test(scope)) {
                value = column.shared() < 0
                        ? column.fill().column(scope)
                        : column.fill().columnOf(shared(column, chain), scope);
            }
            if (value == null || value.isEmpty()) {
                boolean reject = column.fill().whenEmpty() == Fill.WhenEmpty.Use.REJECT;
                if (column.target().required() || reject) {
                    problems.add(new MappingProblem(
                            fill.target(), "", fill.id(), "empty", "is required and the reply has no value for it"));
                }
                return value;
            }
            String wrong = ScalarCheck.problem(column.target().type(), value);
            if (wrong != null) {
                problems.add(new MappingProblem(fill.target(), value, fill.id(), "invalid", wrong));
            }
            return value;
        } catch (FillFailure e) {
            MappingProblem problem = e.of(fill.target(), fill.id());
            problems.add(problem);
            return problem.value().isEmpty() ? null : problem.value();
        } catch (ExpressionProblem e) {
            problems.add(
                    new MappingProblem(fill.target(), "", fill.id(), "expression", "its condition: " + e.getMessage()));
            return null;
        }
    }

    /** A wire that begins as the row path does follows the row and what is above it. */
    private static Node shared(Compiled column, List<Node> chain) {
        return column.wire().first(chain.get(column.shared()), column.shared());
    }
}
