package wirekettle.core.flow.compile;

import java.util.List;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.WirePath;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.ValueSource;
import wirekettle.core.flow.file.LookUpStage;
import wirekettle.core.value.CodeTable;
import wirekettle.core.value.Column;
import wirekettle.core.value.Layout;
import wirekettle.core.value.ScalarType;

/**
 * A compiled Look up stage.
 *
 * @param key what gives the key, null when it is not sound
 * @param codes the code table looked into, null where a dataset is
 */
public record CompiledLookUp(Frame frame, ValueSource key, CodeTable.Index codes) implements Compiled {
    private static final Layout OF_CODES = new Layout(List.of(
            new Column("code", "code", ScalarType.STRING, null, true),
            new Column("value", "value", ScalarType.STRING, null, false)));

    static CompiledLookUp of(LookUpStage stage, Reach reach, Compilation at) {
        CodeTable.Index codes = stage.codes() == null ? null : codes(stage, at);
        Layout layout = stage.codes() == null ? layout(stage, at) : OF_CODES;
        ValueSource key = null;
        if (stage.key() == null || stage.key().isBlank()) {
            at.problem(stage.id(), "it has no key yet: say what is looked for");
        } else {
            try {
                Fill fill = WirePath.isPath(stage.key())
                        ? Fill.wire(stage.id(), "key", stage.key())
                        : Fill.expression(stage.id(), "key", stage.key());
                key = ValueSource.of(fill, at.around().context().expressions(), reach.names());
            } catch (ExpressionProblem e) {
                at.problem(stage.id(), "the key: " + e.getMessage());
            }
        }
        Shape shape = layout == null ? new Shape.Open() : new Shape.OfLayout(layout, false);
        Reach after = at.making(
                stage, reach, stage.into() == null ? "a row looked up" : "looked up in " + stage.into(), shape);
        return new CompiledLookUp(at.frame(stage, reach, after), key, codes);
    }

    private static CodeTable.Index codes(LookUpStage stage, Compilation at) {
        CodeTable table = at.around().context().tables().get(stage.codes());
        if (table == null) {
            at.problem(stage.id(), "the code table “" + stage.codes() + "” is not there: pick another");
            return null;
        }
        try {
            return table.index();
        } catch (IllegalArgumentException e) {
            at.problem(stage.id(), "the code table “" + stage.codes() + "”: " + e.getMessage());
            return null;
        }
    }

    private static Layout layout(LookUpStage stage, Compilation at) {
        if (stage.dataset() == null || stage.dataset().isBlank()) {
            at.problem(stage.id(), "nothing is looked into: pick a dataset or a code table");
        }
        Layout layout = at.around().layouts().get(String.valueOf(stage.dataset()));
        if (stage.column() == null || stage.column().isBlank()) {
            at.problem(stage.id(), "no column is named that holds the key: pick one");
        } else if (layout != null
                && layout.columns().stream().noneMatch(c -> c.name().equals(stage.column()))) {
            at.problem(stage.id(), stage.column() + " is not a field of the dataset");
        }
        return layout;
    }

    @Override
    public boolean usable() {
        boolean dataset = stage().dataset() != null && stage().column() != null;
        return key != null && (codes != null || stage().codes() == null && dataset);
    }

    @Override
    public LookUpStage stage() {
        return (LookUpStage) frame.stage();
    }
}
