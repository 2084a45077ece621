package wirekettle.core.flow.run;

import java.util.List;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.flow.compile.CompiledBranch;
import wirekettle.core.soap.FailureClass;

/** Goes the first way whose condition holds. */
final class BranchStep implements Step {
    private final CompiledBranch branch;
    private final Step[] blocks;

    BranchStep(CompiledBranch branch, Steps steps) {
        this.branch = branch;
        this.blocks =
                branch.ways().stream().map(way -> steps.block(way.block())).toArray(Step[]::new);
    }

    @Override
    public StepResult run(Item item) throws Failed, Stopped {
        // a record that comes back from a batch is in its way already
        Integer known =
                item.known() || item.company().member() != null ? item.replay().way(item.path(), branch.id()) : null;
        int way = known == null ? chosen(item) : known;
        item.replay().takes(item.path(), branch.id(), way);
        return way < 0 || way >= blocks.length ? StepResult.ON : blocks[way].run(item);
    }

    private int chosen(Item item) throws Failed {
        List<CompiledBranch.Way> ways = branch.ways();
        for (int i = 0; i < ways.size(); i++) {
            CompiledBranch.Way way = ways.get(i);
            try {
                if (way.when() == null || way.when().test(item.scope())) {
                    return i;
                }
            } catch (ExpressionProblem e) {
                String cause = "the condition of a way cannot be decided";
                throw new Failed(Failure.of(FailureClass.MAPPING, cause, e.getMessage(), branch.id())
                        .blaming(way.way().id()));
            }
        }
        return -1;
    }
}
