package wirekettle.core.flow.run;

import java.util.List;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledLane;
import wirekettle.core.flow.compile.CompiledOutcomes;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/**
 * Asks what became of a change that is in doubt, as a rule of its call says. Every time it is asked anew: an answer of
 * before may be older than what it asks about. Safe for several threads.
 */
final class Inquiry {
    private final CompiledLane.Rule rule;
    private final CompiledCall call;
    private final Steps steps;
    private final Step block;

    private Inquiry(CompiledLane.Rule rule, CompiledCall call, Steps steps) {
        this.rule = rule;
        this.call = call;
        this.steps = steps;
        this.block = steps.block(rule.block());
    }

    /** Returns the inquiry of a call, null where no rule says how. */
    static Inquiry of(CompiledCall call, Steps steps) {
        CompiledLane lane = call.frame().lane();
        CompiledLane.Rule asking = lane == null ? null : lane.asking();
        return asking == null ? null : new Inquiry(asking, call, steps);
    }

    /**
     * Asks about a change that may have taken place.
     *
     * @param doubt what is known of it
     * @return what stands for the reply when it is done; null when it is not done, and may be sent
     * @throws Failed in doubt, when nobody could be asked, and when the answer does not tell
     */
    Node ask(Item item, Failure doubt) throws Failed, Stopped {
        Item asking = item.asking(failing(item, doubt));
        try {
            block.run(asking);
        } catch (Failed failed) {
            Failure why = failed.failure();
            throw inDoubt(why.failureClass(), "could not be asked", why.message());
        } finally {
            item.takes(asking);
        }
        Scope answered = asking.scope();
        CompiledOutcomes outcomes = rule.outcomes();
        boolean done = holds(outcomes.done(), answered);
        boolean notDone = holds(outcomes.notDone(), answered);
        if (done && notDone || holds(outcomes.conflicting(), answered)) {
            throw inDoubt(FailureClass.CONDITION, "conflicting", "the answer is conflicting: a person has to look");
        }
        if (!done && !notDone) {
            throw inDoubt(
                    FailureClass.CONDITION, "not told", "the answer tells neither that it is done nor that it is not");
        }
        return notDone ? null : instead(answered);
    }

    /** Shows for a sample what would be asked: nothing is sent. */
    void show(Item item) {
        Failure supposed = Failure.of(FailureClass.TIMEOUT, "no answer", "the answer never came", call.id())
                .inDoubt();
        Item asking = item.asking(failing(item, supposed)).looked();
        try {
            block.run(asking);
        } catch (Failed | Stopped | SampleWalk.NoReply e) {
            // it is shown as far as it comes
        }
        steps.watch().shows(rule.rule().id(), item.path(), asking.scope());
    }

    private static Scope failing(Item item, Failure doubt) {
        return item.scope()
                .apart()
                .with("failure", doubt.node())
                .with("fault", Node.branch(Name.of("fault"), List.of()));
    }

    private boolean holds(Expressions.Compiled condition, Scope answered) throws Failed {
        try {
            return condition != null && condition.test(answered);
        } catch (ExpressionProblem e) {
            throw inDoubt(FailureClass.MAPPING, "a condition cannot be decided", e.getMessage());
        }
    }

    /** Returns what stands for the reply that never came. */
    private Node instead(Scope answered) throws Failed {
        if (rule.value() == null) {
            return Node.branch(Name.of("row"), List.of());
        }
        try {
            return LaneRules.value(rule, answered);
        } catch (Failed failed) {
            throw inDoubt(
                    failed.failure().failureClass(),
                    "nothing stands for the reply",
                    "it is done, but nothing can stand for its reply: "
                            + failed.failure().message());
        }
    }

    private Failed inDoubt(FailureClass kind, String cause, String message) {
        String whole = "asked what became of " + call.stage().operation() + ": " + message;
        return new Failed(Failure.of(kind, cause, whole, call.id()).inDoubt());
    }
}
