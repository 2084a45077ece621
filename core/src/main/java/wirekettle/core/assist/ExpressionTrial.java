package wirekettle.core.assist;

import java.util.Comparator;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.FillFailure;
import wirekettle.core.fill.RepeatedNodes;
import wirekettle.core.value.Node;

/** Tries one expression for one record, in the place where it would stand. */
public final class ExpressionTrial {
    /**
     * What became of it.
     *
     * @param value its value, null when there is no record or it failed
     * @param problem what is wrong, or null
     * @param line where, from 1, 0 when unknown
     * @param column where, from 1, 0 when unknown
     */
    public record Result(String value, String problem, int line, int column) {}

    private ExpressionTrial() {}

    /**
     * Tries an expression.
     *
     * @param fills the fills beside it: repeats around its target give it their variables
     * @param target the target it is for, or null
     * @param known the variables in reach
     * @param scope the record, null to look only whether it is sound
     */
    public static Result of(
            String expression,
            List<Fill> fills,
            String target,
            Set<String> known,
            Scope scope,
            Expressions expressions) {
        Set<String> inReach = new TreeSet<>(known);
        Scope at = scope;
        List<Fill> around = fills.stream()
                .filter(f -> f.repeat() != null
                        && target != null
                        && (target.equals(f.target()) || target.startsWith(f.target() + "/")))
                .sorted(Comparator.comparingInt(f -> f.target().length()))
                .toList();
        try {
            for (Fill repeat : around) {
                RepeatedNodes nodes = RepeatedNodes.of(repeat, expressions, inReach);
                inReach.add(RepeatedNodes.variable(repeat));
                List<Node> found = at == null ? List.of() : nodes.nodes(at);
                at = found.isEmpty() ? null : nodes.scope(at, found.get(0));
            }
            Expressions.Compiled compiled = expressions.compile(expression, inReach);
            return new Result(at == null ? null : compiled.text(at), null, 0, 0);
        } catch (ExpressionProblem e) {
            return new Result(null, e.getMessage(), e.line(), e.column());
        } catch (FillFailure e) {
            return new Result(null, e.getMessage(), 0, 0);
        }
    }
}
