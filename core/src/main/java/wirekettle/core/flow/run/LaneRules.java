package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.Compiled;
import wirekettle.core.flow.compile.CompiledLane;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/** Applies the rules of a failure lane. Safe for several threads. */
final class LaneRules {
    private record Rule(CompiledLane.Rule compiled, Step block) {}

    private final List<Rule> rules = new ArrayList<>();
    private final Compiled stage;
    private final Steps steps;

    /** Takes a lane; {@code stage} is the one it belongs to, null for the flow's. */
    LaneRules(CompiledLane lane, Compiled stage, Steps steps) {
        this.stage = stage;
        this.steps = steps;
        for (CompiledLane.Rule rule : lane.rules()) {
            if (rule.rule().then() == Lane.Then.ASK) {
                continue; // what is in doubt no lane catches: see Inquiry
            }
            rules.add(new Rule(rule, steps.block(rule.block())));
        }
    }

    /** How often each rule has tried again for one record at one stage. */
    static final class Tries {
        private final int[] done;

        private Tries(int rules) {
            done = new int[rules];
        }
    }

    Tries tries() {
        return new Tries(rules.size());
    }

    /**
     * Does what the first rule that fits says.
     *
     * @param mark where the record was before the stage
     * @return how the record goes on behind the stage; null when the stage is to be tried again
     * @throws Failed when no rule fits, when one rejects, and when the lane itself fails
     */
    StepResult take(Failed failed, Item item, Item.Mark mark, Tries tries) throws Failed, Stopped {
        if (failed.settled()) {
            throw failed;
        }
        Failure failure = failed.failure();
        Scope failing = item.scope()
                .with("failure", failure.node())
                .with("fault", failure.fault() == null ? Node.branch(Name.of("fault"), List.of()) : failure.fault());
        for (int i = 0; i < rules.size(); i++) {
            CompiledLane.Rule rule = rules.get(i).compiled();
            boolean fits = rule.rule().on().isEmpty() || rule.rule().on().contains(failure.failureClass());
            if (!fits || !holds(rule, failing)) {
                continue;
            }
            steps.watch().takes(rule.rule().id(), item.path(), failing);
            switch (rule.rule().then()) {
                case AGAIN -> {
                    if (!failed.repeatable() || tries.done[i] >= rule.rule().times()) {
                        continue;
                    }
                    long pause = (long) rule.rule().backOffMillis() << Math.min(tries.done[i]++, 10);
                    if (!steps.stop().waited(pause)) {
                        throw new Stopped();
                    }
                    item.back(mark);
                    item.triesAgain();
                    return null;
                }
                case USE -> {
                    Node value = value(rule, failing);
                    item.back(mark);
                    item.bind(stage.stage().as(), value);
                    item.saves();
                    return StepResult.ON;
                }
                case GO_ON -> {
                    return goOn(rules.get(i), item, mark, failing);
                }
                case REJECT -> {
                    int before = item.mark().rows();
                    item.scope(failing);
                    // what was to be answered before it failed is not any more
                    item.answers(null);
                    rules.get(i).block().run(item);
                    item.forgetRowsBefore(before);
                    throw failed.asEnd(false);
                }
                default -> throw failed.asEnd(true);
            }
        }
        throw failed;
    }

    private StepResult goOn(Rule rule, Item item, Item.Mark mark, Scope failing) throws Failed, Stopped {
        item.back(mark);
        item.scope(failing);
        StepResult go = rule.block().run(item);
        String as = stage.stage().as();
        Node made = as == null ? null : item.scope().get(as);
        boolean its = made != null && made != failing.get(as);
        item.scope(mark.scope());
        if (its) {
            item.bind(as, made);
        }
        item.saves();
        return go;
    }

    private static boolean holds(CompiledLane.Rule rule, Scope failing) throws Failed {
        if (rule.when() == null) {
            return rule.rule().when() == null || rule.rule().when().isBlank();
        }
        try {
            return rule.when().test(failing);
        } catch (ExpressionProblem e) {
            throw new Failed(
                    Failure.of(
                            FailureClass.MAPPING,
                            "a lane's condition cannot be decided",
                            e.getMessage(),
                            rule.rule().id()),
                    false);
        }
    }

    /** Returns the value a rule makes. */
    static Node value(CompiledLane.Rule rule, Scope failing) throws Failed {
        List<MappingProblem> problems = new ArrayList<>();
        Node value = rule.value() == null ? null : rule.value().node(failing, problems);
        if (value == null || !problems.isEmpty()) {
            throw new Failed(
                    problems.isEmpty()
                            ? Failure.of(
                                    FailureClass.MAPPING,
                                    "a lane's value cannot be made",
                                    "it is not sound",
                                    rule.rule().id())
                            : Failure.of(problems, rule.rule().id()),
                    false);
        }
        return value;
    }
}
