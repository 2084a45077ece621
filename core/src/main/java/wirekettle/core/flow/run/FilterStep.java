package wirekettle.core.flow.run;

import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.flow.compile.CompiledFilter;
import wirekettle.core.soap.FailureClass;

/** Lets records on for which a condition holds. */
final class FilterStep implements Step {
    private final CompiledFilter filter;

    FilterStep(CompiledFilter filter) {
        this.filter = filter;
    }

    @Override
    public StepResult run(Item item) throws Failed {
        try {
            if (filter.when().test(item.scope())) {
                return StepResult.ON;
            }
            item.leavesAt(filter.id());
            return StepResult.LEFT_OUT;
        } catch (ExpressionProblem e) {
            String cause = "the condition cannot be decided";
            throw new Failed(Failure.of(FailureClass.MAPPING, cause, e.getMessage(), filter.id())
                    .blaming(filter.id()));
        }
    }
}
