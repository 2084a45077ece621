package wirekettle.core.flow.compile;

import java.util.List;
import wirekettle.core.expression.Expressions;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.record.RowMaker;

/**
 * A compiled failure lane.
 *
 * @param rules its rules in order
 */
public record CompiledLane(List<Rule> rules) {
    /**
     * One rule.
     *
     * @param rule the rule as it is written
     * @param when its condition, or null
     * @param value what makes the value it uses, or null
     * @param block the stages it runs
     * @param reach what is in reach in it
     * @param outcomes what the answer of a rule that asks tells, null for others
     */
    public record Rule(
            Lane.Rule rule,
            Expressions.Compiled when,
            RowMaker value,
            CompiledBlock block,
            Reach reach,
            CompiledOutcomes outcomes) {}

    /** Returns the rule that asks what became of a change in doubt, or null. */
    public Rule asking() {
        return rules.stream()
                .filter(rule -> rule.rule().then() == Lane.Then.ASK)
                .findFirst()
                .orElse(null);
    }
}
