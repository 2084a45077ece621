package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.CompiledWrite;

/** Makes the rows of a record; they leave when it has come to its end. */
final class WriteStep implements Step {
    private final CompiledWrite write;

    WriteStep(CompiledWrite write) {
        this.write = write;
    }

    @Override
    public StepResult run(Item item) throws Failed {
        List<MappingProblem> problems = new ArrayList<>();
        List<String[]> rows = write.rows().rows(item.scope(), problems);
        if (!problems.isEmpty() && !write.stage().leavesUnfit()) {
            throw new Failed(Failure.of(problems, write.id()));
        }
        item.writes(write.id(), rows);
        return StepResult.ON;
    }
}
