package wirekettle.core.flow.compile;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.WirePath;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.RepeatedNodes;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.MakesRecord;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.record.RowMaker;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.Grouping;

/**
 * A compiled Split with its Gather.
 *
 * @param over the nodes its items are, null when they cannot be found
 * @param block what happens for each
 * @param made the variables of the block that stand in what is gathered
 * @param shape what makes a shape of its own of them, null where there is none or it is not sound
 */
public record CompiledSplit(Frame frame, RepeatedNodes over, CompiledBlock block, List<String> made, RowMaker shape)
        implements Compiled {
    static CompiledSplit of(SplitStage stage, Reach reach, Compilation at) {
        RepeatedNodes over = over(stage, reach, at);
        Reach inside = reach;
        if (stage.item() == null || stage.item().isBlank()) {
            at.problem(stage.id(), "an item has no name: give it one");
        } else if (reach.get(stage.item()) != null) {
            at.problem(stage.id(), "$" + stage.item() + " is there already: give an item another name");
        } else {
            inside = reach.with(
                    new Variable(stage.item(), "each " + stage.over(), stage.id(), shape(stage.over(), reach), false));
        }
        if (stage.stages().isEmpty()) {
            at.problem(stage.id(), "nothing happens for its items yet: add a stage");
        }
        if (stage.inside().stream().anyMatch(AnswerStage.class::isInstance)) {
            at.problem(stage.id(), "an Answer stands where the record is whole: put it behind the Split");
        }
        CompiledBlock block = at.block(stage.stages(), inside);
        List<Variable> made = new ArrayList<>();
        for (Variable variable : block.after().variables()) {
            if (reach.get(variable.name()) == null) {
                made.add(variable);
            }
        }
        String title = "gathered from " + stage.over();
        Reach after = stage.gather() == null
                ? reach
                : at.making(stage, reach, title, new Shape.OfItems(new Shape.OfItem(List.of("position", "end"), made)));
        at.places().put(SplitStage.gathering(stage.id()), after);
        MakesRecord shaped = stage.shape();
        RowMaker shape = null;
        if (shaped != null && after != reach) {
            shape = at.maker(shaped, after);
            Shape its = new Shape.OfColumns(shaped.columns(), false);
            after = reach.with(new Variable(stage.as(), title, stage.id(), its, false));
        }
        return new CompiledSplit(
                at.frame(stage, reach, after),
                over,
                block,
                made.stream().map(Variable::name).toList(),
                shape);
    }

    private static RepeatedNodes over(SplitStage stage, Reach reach, Compilation at) {
        if (stage.over() == null || stage.over().isBlank()) {
            at.problem(stage.id(), "it says nothing of its items: name a repeated field, as $loan/line");
            return null;
        }
        try {
            Fill repeat = Fill.repeat(stage.id(), stage.id(), stage.over(), stage.item());
            return RepeatedNodes.of(repeat, at.around().context().expressions(), reach.names());
        } catch (ExpressionProblem e) {
            at.problem(stage.id(), "its items: " + e.getMessage());
            return null;
        }
    }

    /** What is known of an item: that of the field its path leads to. */
    static Shape shape(String over, Reach reach) {
        if (over == null || !WirePath.isPath(over)) {
            return new Shape.Open();
        }
        WirePath path = WirePath.parse(over);
        Variable from = reach.get(path.variable());
        Shape shape = from == null ? new Shape.Open() : from.shape();
        if (shape instanceof Shape.OfLayout its && its.grouped() && path.steps().equals(List.of(Grouping.LINE))) {
            return new Shape.OfLayout(its.layout(), false);
        }
        if (shape instanceof Shape.OfItems its && path.steps().equals(List.of("item"))) {
            return its.item();
        }
        if (shape instanceof Shape.OfSheet its) {
            SheetField field = below(its.sheet(), path.steps());
            return field == null ? new Shape.Open() : new Shape.OfSheet(field);
        }
        return new Shape.Open();
    }

    private static SheetField below(SheetField from, List<String> steps) {
        SheetField at = from;
        for (String step : steps) {
            SheetField next = null;
            for (SheetField child : at.children()) {
                if (child.kind() == SheetField.Kind.ELEMENT
                        && child.name().local().equals(step)) {
                    next = child;
                    break;
                }
            }
            if (next == null) {
                return null;
            }
            at = next;
        }
        return at;
    }

    @Override
    public boolean usable() {
        return over != null
                && (stage().shape() == null || shape != null)
                && !block.steps().isEmpty()
                && block.steps().stream().allMatch(Compiled::usable);
    }

    @Override
    public SplitStage stage() {
        return (SplitStage) frame.stage();
    }
}
