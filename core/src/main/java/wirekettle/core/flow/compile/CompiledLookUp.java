package wirekettle.core.flow.compile;

import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.WirePath;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.ValueSource;
import wirekettle.core.flow.file.LookUpStage;
import wirekettle.core.value.Layout;

/**
 * A compiled Look up stage.
 *
 * @param key what gives the key, null when it is not sound
 */
public record CompiledLookUp(Frame frame, ValueSource key) implements Compiled {
    static CompiledLookUp of(LookUpStage stage, Reach reach, Compilation at) {
        if (stage.dataset() == null || stage.dataset().isBlank()) {
            at.problem(stage.id(), "no dataset is looked into: pick one");
        }
        Layout layout = at.around().layouts().get(String.valueOf(stage.dataset()));
        if (stage.column() == null || stage.column().isBlank()) {
            at.problem(stage.id(), "no column is named that holds the key: pick one");
        } else if (layout != null
                && layout.columns().stream().noneMatch(c -> c.name().equals(stage.column()))) {
            at.problem(stage.id(), stage.column() + " is not a field of the dataset");
        }
        ValueSource key = null;
        if (stage.key() == null || stage.key().isBlank()) {
            at.problem(stage.id(), "it has no key yet: say what is looked for");
        } else {
            try {
                Fill fill = WirePath.isPath(stage.key())
                        ? Fill.wire(stage.id(), stage.column(), stage.key())
                        : Fill.expression(stage.id(), stage.column(), stage.key());
                key = ValueSource.of(fill, at.around().context().expressions(), reach.names());
            } catch (ExpressionProblem e) {
                at.problem(stage.id(), "the key: " + e.getMessage());
            }
        }
        Shape shape = layout == null ? new Shape.Open() : new Shape.OfLayout(layout, false);
        Reach after = at.making(stage, reach, "looked up in " + stage.dataset(), shape);
        return new CompiledLookUp(at.frame(stage, reach, after), key);
    }

    @Override
    public boolean usable() {
        return key != null && stage().dataset() != null && stage().column() != null;
    }

    @Override
    public LookUpStage stage() {
        return (LookUpStage) frame.stage();
    }
}
