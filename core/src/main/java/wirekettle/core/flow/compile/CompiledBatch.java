package wirekettle.core.flow.compile;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Expressions;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.RepeatedNodes;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.BatchStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Stage;

/**
 * A compiled Batch.
 *
 * @param by what records have in common that go together, null for nothing
 * @param block what happens for the records together
 * @param held the variables of a record that its item holds
 * @param verdict what the reply says of each, null when there is none or it is not sound
 * @param undo what takes an accepted record back; without stages for nothing
 */
public record CompiledBatch(
        Frame frame,
        Expressions.Compiled by,
        CompiledBlock block,
        List<String> held,
        Verdict verdict,
        CompiledBlock undo)
        implements Compiled {
    /** The names of what is said of a record in its verdict, beside the line itself. */
    public static final List<String> SAID = List.of("position", "end", "reason");

    /**
     * A compiled verdict; {@code itemKey} and {@code lineKey} are null where lines answer by position, {@code refused}
     * and {@code reason} where nothing is said.
     */
    public record Verdict(
            RepeatedNodes lines,
            Expressions.Compiled itemKey,
            Expressions.Compiled lineKey,
            Expressions.Compiled accepted,
            Expressions.Compiled refused,
            Expressions.Compiled reason) {}

    static CompiledBatch of(BatchStage stage, Reach reach, Compilation at) {
        List<Variable> held = new ArrayList<>();
        Reach inside = at.base();
        for (Variable variable : reach.variables()) {
            if (at.base().get(variable.name()) == null) {
                held.add(variable);
            }
        }
        if (stage.batch() == null || stage.batch().isBlank()) {
            at.problem(stage.id(), "the records together have no name: give them one");
        } else if (reach.get(stage.batch()) != null) {
            at.problem(stage.id(), "$" + stage.batch() + " is there already: give the batch another name");
        } else {
            Shape shape = new Shape.OfItems(new Shape.OfItem(List.of("position"), held));
            inside = inside.with(new Variable(stage.batch(), "the records together", stage.id(), shape, false));
        }
        Expressions.Compiled by = at.condition(stage.id(), null, stage.by(), reach);
        if (stage.stages().isEmpty()) {
            at.problem(stage.id(), "nothing happens for the records together yet: add a stage");
        }
        within(stage.stages(), stage, at);
        CompiledBlock block = at.block(stage.stages(), inside);
        if (stage.mostBytes() != null && block.steps().stream().noneMatch(CompiledCall.class::isInstance)) {
            at.problem(stage.id(), "it has no call whose message could be measured: take the limit of bytes away");
        }
        Verdict verdict = null;
        Reach after = reach;
        if (stage.verdict() != null) {
            Shape line = CompiledSplit.shape(stage.verdict().lines(), block.after());
            List<Variable> its = List.of(new Variable(BatchStage.LINE, "its line", stage.id(), line, true));
            after = at.making(stage, reach, "what became of it", new Shape.OfItem(SAID, its));
            verdict = verdict(stage, block.after(), held, line, at);
        }
        CompiledBlock undo = at.block(stage.undo(), stage.undo().isEmpty() ? after : at.failing(after));
        return new CompiledBatch(
                at.frame(stage, reach, after),
                by,
                block,
                held.stream().map(Variable::name).toList(),
                verdict,
                undo);
    }

    /** What stands within must make sense for several records. */
    private static void within(List<Stage> stages, BatchStage batch, Compilation at) {
        for (Stage stage : stages) {
            if (stage instanceof AnswerStage) {
                at.problem(stage.id(), "an Answer stands where a record is alone: put it behind the Batch");
            }
            if (stage instanceof CallStage call && !call.undo().isEmpty()) {
                at.problem(
                        stage.id(),
                        "a call of a Batch cannot be taken back as a whole: give the Batch an undo, it is for each"
                                + " record");
            }
            within(stage.inside(), batch, at);
        }
    }

    private static Verdict verdict(BatchStage stage, Reach after, List<Variable> held, Shape line, Compilation at) {
        BatchStage.Verdict said = stage.verdict();
        for (String name : List.of(BatchStage.LINE, BatchStage.ITEM)) {
            if (after.get(name) != null) {
                at.problem(stage.id(), "$" + name + " is what the verdict calls it: give the variable another name");
                return null;
            }
        }
        Reach lines = after.with(new Variable(BatchStage.LINE, "a line", stage.id(), line, false));
        Shape item = new Shape.OfItem(List.of("position"), held);
        Reach items = at.base().with(new Variable(BatchStage.ITEM, "a record", stage.id(), item, false));
        at.places().put(BatchStage.verdictOf(stage.id()), lines.with(items.get(BatchStage.ITEM)));
        if (said.lines() == null || said.lines().isBlank()) {
            at.problem(stage.id(), "the verdict has no lines: name the repeated field that answers for the records");
            return null;
        }
        try {
            Fill repeat = Fill.repeat(stage.id(), stage.id(), said.lines(), BatchStage.LINE);
            RepeatedNodes over = RepeatedNodes.of(repeat, at.around().context().expressions(), after.names());
            Verdict made = new Verdict(
                    over,
                    compiled(said.itemKey(), "the record's key", items.names(), at),
                    compiled(said.lineKey(), "the line's key", lines.names(), at),
                    compiled(said.accepted(), "accepted when", lines.names(), at),
                    compiled(said.refused(), "refused when", lines.names(), at),
                    compiled(said.reason(), "the reason", lines.names(), at));
            if (made.accepted() == null) {
                at.problem(stage.id(), "the verdict does not say when a record is accepted");
                return null;
            }
            if ((made.itemKey() == null) != (made.lineKey() == null)) {
                at.problem(
                        stage.id(),
                        "to find a record's line by a key, say it for the record and for the line; for lines in the"
                                + " records' order leave both empty");
                return null;
            }
            return made;
        } catch (ExpressionProblem e) {
            at.problem(stage.id(), "the verdict: " + e.getMessage());
            return null;
        }
    }

    private static Expressions.Compiled compiled(String text, String what, Set<String> names, Compilation at)
            throws ExpressionProblem {
        if (text == null || text.isBlank()) {
            return null;
        }
        try {
            return at.around().context().expressions().compile(text, names);
        } catch (ExpressionProblem e) {
            throw new ExpressionProblem(what + ": " + e.getMessage(), e.line(), e.column());
        }
    }

    /** Returns its first call, which a limit of bytes is for; null when there is none. */
    public CompiledCall measured() {
        return block.steps().stream()
                .filter(CompiledCall.class::isInstance)
                .map(CompiledCall.class::cast)
                .findFirst()
                .orElse(null);
    }

    /** Tells whether something within changes data: then nobody may send it again who does not know what became of it. */
    public boolean changes() {
        return changes(stage().stages());
    }

    private static boolean changes(List<Stage> stages) {
        return stages.stream()
                .anyMatch(each ->
                        each instanceof CallStage call && !call.delivery().reads() || changes(each.inside()));
    }

    @Override
    public boolean usable() {
        return (stage().verdict() == null || verdict != null)
                && (stage().by() == null || stage().by().isBlank() || by != null)
                && !block.steps().isEmpty()
                && block.steps().stream().allMatch(Compiled::usable);
    }

    @Override
    public BatchStage stage() {
        return (BatchStage) frame.stage();
    }
}
