package wirekettle.core.flow.compile;

import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.WirePath;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.ValueSource;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.record.RowMaker;

/**
 * A compiled Answer stage.
 *
 * @param status what gives the HTTP status, null for 200
 * @param body what makes the answer, null when it cannot work
 */
public record CompiledAnswer(Frame frame, ValueSource status, RowMaker body) implements Compiled {
    static CompiledAnswer of(AnswerStage stage, Reach reach, Compilation at) {
        at.needsColumns(stage);
        ValueSource status = null;
        if (stage.status() != null && !stage.status().isBlank()) {
            try {
                Fill fill = WirePath.isPath(stage.status())
                        ? Fill.wire(stage.id(), "status", stage.status())
                        : Fill.expression(stage.id(), "status", stage.status());
                status = ValueSource.of(fill, at.around().context().expressions(), reach.names());
            } catch (ExpressionProblem e) {
                at.problem(stage.id(), "the status: " + e.getMessage());
            }
        }
        return new CompiledAnswer(at.frame(stage, reach, reach), status, at.maker(stage, reach));
    }

    @Override
    public boolean usable() {
        return body != null;
    }

    @Override
    public AnswerStage stage() {
        return (AnswerStage) frame.stage();
    }
}
