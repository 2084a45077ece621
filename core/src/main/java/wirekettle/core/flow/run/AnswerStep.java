package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.CompiledAnswer;
import wirekettle.core.soap.FailureClass;

/** Makes what the caller gets. */
final class AnswerStep implements Step {
    private final CompiledAnswer answer;

    AnswerStep(CompiledAnswer answer) {
        this.answer = answer;
    }

    @Override
    public StepResult run(Item item) throws Failed {
        List<MappingProblem> problems = new ArrayList<>();
        List<String[]> made = answer.body().rows(item.scope(), problems);
        if (!problems.isEmpty()) {
            throw new Failed(Failure.of(problems, answer.id()));
        }
        item.answers(new Answer(status(item), answer.stage().document(), made.get(0)[0]));
        return StepResult.ON;
    }

    private int status(Item item) throws Failed {
        if (answer.status() == null) {
            return 200;
        }
        try {
            String text = String.valueOf(answer.status().raw(item.scope())).strip();
            if (text.matches("[2-5]\\d\\d")) {
                return Integer.parseInt(text);
            }
            throw new Failed(Failure.of(
                    FailureClass.MAPPING, "no HTTP status", "“" + text + "” is no HTTP status", answer.id()));
        } catch (ExpressionProblem e) {
            throw new Failed(Failure.of(FailureClass.MAPPING, "no HTTP status", e.getMessage(), answer.id()));
        }
    }
}
