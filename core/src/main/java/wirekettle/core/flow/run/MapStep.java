package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.CompiledMap;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Node;

/** Makes a record or document by a script or by fills. */
final class MapStep implements Step {
    private final CompiledMap map;

    MapStep(CompiledMap map) {
        this.map = map;
    }

    @Override
    public StepResult run(Item item) throws Failed {
        if (map.script() != null) {
            try {
                item.bind(map.stage().as(), map.script().result(item.scope()));
                return StepResult.ON;
            } catch (ExpressionProblem e) {
                String cause = "$" + map.stage().as() + " could not be made";
                String message = (e.line() > 0 ? "line " + e.line() + ": " : "") + e.getMessage();
                throw new Failed(Failure.of(FailureClass.MAPPING, cause, message, map.id()));
            }
        }
        if (map.record() == null) {
            String cause = "$" + map.stage().as() + " could not be made";
            throw new Failed(Failure.of(FailureClass.MAPPING, cause, "the stage is not sound", map.id()));
        }
        List<MappingProblem> problems = new ArrayList<>();
        Node made = map.record().node(item.scope(), problems);
        if (!problems.isEmpty()) {
            throw new Failed(Failure.of(problems, map.id()));
        }
        item.bind(map.stage().as(), made);
        return StepResult.ON;
    }
}
