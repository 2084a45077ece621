package wirekettle.core.flow.compile;

import java.util.List;
import wirekettle.core.expression.Expressions;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.BatchStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.file.WriteStage;

/**
 * What the answer of a rule that asks tells, compiled.
 *
 * @param done that the change took place; null where it is not sound
 * @param notDone that it did not, or null
 * @param conflicting that a person has to look at it, or null
 */
public record CompiledOutcomes(
        Expressions.Compiled done, Expressions.Compiled notDone, Expressions.Compiled conflicting) {

    /** Compiles it; {@code owner} is the stage whose lane the rule stands in, null for the flow. */
    static CompiledOutcomes of(Lane.Rule rule, Stage owner, Reach asked, Compilation at) {
        boolean changes = owner instanceof CallStage call && !call.delivery().reads();
        if (!changes) {
            at.problem(rule.id(), "only a call that changes data can be in doubt: put this rule at such a call");
        } else if (owner.lane().rules().stream()
                        .filter(each -> each.then() == Lane.Then.ASK)
                        .count()
                > 1) {
            at.problem(rule.id(), "one rule asks what became of a call: remove the others");
        }
        if (rule.stages().stream().noneMatch(CompiledOutcomes::calls)) {
            at.problem(rule.id(), "it asks nobody yet: add a call of an operation that reads");
        }
        rule.stages().forEach(each -> onlyReads(each, at));
        if (blank(rule.outcomes().done())) {
            at.problem(rule.id(), "say by which answer the change is done");
        }
        return new CompiledOutcomes(
                at.condition(rule.id(), null, rule.outcomes().done(), asked),
                at.condition(rule.id(), null, rule.outcomes().notDone(), asked),
                at.condition(rule.id(), null, rule.outcomes().conflicting(), asked));
    }

    private static boolean blank(String text) {
        return text == null || text.isBlank();
    }

    private static boolean calls(Stage stage) {
        return stage instanceof CallStage || stage.inside().stream().anyMatch(CompiledOutcomes::calls);
    }

    private static void onlyReads(Stage stage, Compilation at) {
        if (stage instanceof CallStage call && !call.delivery().reads()) {
            at.problem(stage.id(), "what asks about a change must not change anything: mark it as one that reads");
        }
        List<Class<? extends Stage>> others = List.of(WriteStage.class, AnswerStage.class, BatchStage.class);
        if (others.contains(stage.getClass())) {
            at.problem(stage.id(), "where it is asked what became of a call, nothing is written, answered or batched");
        }
        stage.inside().forEach(inner -> onlyReads(inner, at));
    }
}
