package wirekettle.core.flow.compile;

import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.WirePath;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.ValueSource;

/** A text with a name, and what gives it; the value is null where it cannot work. */
public record NamedSource(String name, ValueSource value) {
    /** Returns what gives a text that is no field of its own; what is wrong with it is a problem of the stage. */
    static ValueSource of(String stage, String what, String given, Reach reach, Compilation at) {
        try {
            Fill fill = WirePath.isPath(given) ? Fill.wire(stage, what, given) : Fill.expression(stage, what, given);
            return ValueSource.of(fill, at.around().context().expressions(), reach.names());
        } catch (ExpressionProblem e) {
            at.problem(stage, "the " + what + ": " + e.getMessage());
            return null;
        }
    }
}
