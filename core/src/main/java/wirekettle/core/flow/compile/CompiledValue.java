package wirekettle.core.flow.compile;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Expressions;
import wirekettle.core.flow.file.NamedValue;

/** A value taken of each record at its end, compiled. */
public record CompiledValue(String name, Expressions.Compiled of) {
    /**
     * Compiles values; those that are not sound are problems, and left out.
     *
     * @param stage the id their problems have
     * @param what each of them is, in a word
     */
    static List<CompiledValue> of(List<NamedValue> values, String stage, String what, Reach reach, Compilation at) {
        List<CompiledValue> sound = new ArrayList<>();
        Set<String> names = new HashSet<>();
        for (NamedValue value : values) {
            if (value.name() == null
                    || !value.name().matches("[\\p{L}_][\\p{L}\\p{N}_.-]*")
                    || !names.add(value.name())) {
                at.problem(
                        stage, "a " + what + " has no name, or one that is used twice or has a space: " + value.name());
                continue;
            }
            if (value.of() == null || value.of().isBlank()) {
                at.problem(stage, "the " + what + " " + value.name() + " does not say of what");
                continue;
            }
            try {
                Expressions expressions = at.around().context().expressions();
                sound.add(new CompiledValue(value.name(), expressions.compile(value.of(), reach.names())));
            } catch (ExpressionProblem e) {
                at.problem(stage, "the " + what + " " + value.name() + ": " + e.getMessage());
            }
        }
        return List.copyOf(sound);
    }
}
