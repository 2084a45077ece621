package wirekettle.core.flow.compile;

import java.util.List;
import java.util.Objects;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Script;
import wirekettle.core.fill.FilledBy;
import wirekettle.core.flow.file.MapStage;
import wirekettle.core.record.RowMaker;
import wirekettle.core.value.Series;

/**
 * A compiled Map stage: either the script or the fills make its variable.
 *
 * @param script the script, or null
 * @param record what makes the record by fills, or null
 * @param draws the series it draws a number from
 */
public record CompiledMap(Frame frame, Script script, RowMaker record, List<Series> draws) implements Compiled {
    static CompiledMap of(MapStage stage, Reach reach, Compilation at) {
        if (stage.language() == null) {
            at.needsColumns(stage);
            boolean rows = stage.rows() != null && !stage.rows().isBlank();
            RowMaker record = at.maker(stage, reach);
            Shape shape = new Shape.OfColumns(stage.columns(), rows);
            Reach after = at.making(stage, reach, "made by fills", shape);
            return new CompiledMap(at.frame(stage, reach, after), null, record, draws(stage, at));
        }
        Script script = null;
        try {
            String input = stage.input() != null
                    ? stage.input()
                    : reach.variables().size() > 1 ? reach.variables().get(1).name() : "";
            script = Script.of(
                    stage.language(),
                    stage.text(),
                    input,
                    reach.names(),
                    at.around().context().expressions());
        } catch (ExpressionProblem e) {
            at.problem(stage.id(), (e.line() > 0 ? "line " + e.line() + ": " : "") + e.getMessage());
        }
        Reach after = at.making(stage, reach, "made by a script", new Shape.Open());
        return new CompiledMap(at.frame(stage, reach, after), script, null, List.of());
    }

    private static List<Series> draws(MapStage stage, Compilation at) {
        return stage.fills().stream()
                .map(fill -> fill.by() instanceof FilledBy.Number number
                        ? at.around().context().series().get(String.valueOf(number.series()))
                        : null)
                .filter(Objects::nonNull)
                .distinct()
                .toList();
    }

    @Override
    public boolean usable() {
        return script != null || record != null;
    }

    @Override
    public MapStage stage() {
        return (MapStage) frame.stage();
    }
}
