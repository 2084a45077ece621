package wirekettle.core.flow.compile;

import wirekettle.core.expression.Expressions;
import wirekettle.core.flow.file.FilterStage;

/**
 * A compiled Filter stage.
 *
 * @param when the condition, null when it is not sound
 */
public record CompiledFilter(Frame frame, Expressions.Compiled when) implements Compiled {
    static CompiledFilter of(FilterStage stage, Reach reach, Compilation at) {
        if (stage.when() == null || stage.when().isBlank()) {
            at.problem(stage.id(), "it has no condition yet: say which records go on");
        }
        Expressions.Compiled when = at.condition(stage.id(), stage.id(), stage.when(), reach);
        return new CompiledFilter(at.frame(stage, reach, reach), when);
    }

    @Override
    public boolean usable() {
        return when != null;
    }

    @Override
    public FilterStage stage() {
        return (FilterStage) frame.stage();
    }
}
