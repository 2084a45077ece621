package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.CompiledAnswer;
import wirekettle.core.flow.compile.NamedSource;
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
        Answer its = new Answer(status(item), headers(item), answer.stage().document(), made.get(0)[0]);
        String wrong = item.wrong(its);
        if (wrong != null) {
            throw new Failed(Failure.of(FailureClass.VALIDATION, Answer.MISFIT, wrong, answer.id()));
        }
        item.answers(its);
        return StepResult.ON;
    }

    private int status(Item item) throws Failed {
        if (answer.status() == null) {
            return 200;
        }
        String text = NamedTexts.of(answer.status(), item, "no HTTP status", answer.id());
        if (text.matches("[2-5]\\d\\d")) {
            return Integer.parseInt(text);
        }
        throw wrong("no HTTP status", "“" + text + "” is no HTTP status");
    }

    private Map<String, String> headers(Item item) throws Failed {
        Map<String, String> all = new LinkedHashMap<>();
        for (NamedSource each : answer.headers()) {
            String text = NamedTexts.of(each.value(), item, "no HTTP header", answer.id());
            if (!text.matches("[\\x20-\\x7e]*")) {
                throw wrong("no HTTP header", "the header " + each.name() + " holds other than printable ASCII");
            }
            if (!text.isEmpty()) {
                all.put(each.name(), text);
            }
        }
        return all;
    }

    private Failed wrong(String cause, String message) {
        return new Failed(Failure.of(FailureClass.MAPPING, cause, message, answer.id()));
    }
}
