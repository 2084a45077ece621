package wirekettle.core.flow.compile;

import java.util.List;
import wirekettle.core.expression.WirePath;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.value.Column;
import wirekettle.core.value.Layout;
import wirekettle.core.value.ScalarType;

/**
 * A compiled Read stage.
 *
 * @param key the wire to the business key, or null
 * @param carried what a record hands on to the next one of its key; empty for nothing
 */
public record CompiledRead(Frame frame, WirePath key, List<CompiledValue> carried) implements Compiled {
    static CompiledRead of(ReadStage stage, Reach reach, Compilation at) {
        boolean named = stage.dataset() != null && !stage.dataset().isBlank();
        if (!named) {
            at.problem(stage.id(), "no dataset is read: pick one");
        }
        Layout layout = at.around().layouts().get(String.valueOf(stage.dataset()));
        boolean grouped = !stage.groupBy().isEmpty();
        for (String field : stage.groupBy()) {
            if (layout != null
                    && layout.columns().stream().noneMatch(c -> c.name().equals(field))) {
                at.problem(stage.id(), "rows are grouped by " + field + ", which is not a field of the dataset");
            }
        }
        Shape shape = layout == null ? new Shape.Open() : new Shape.OfLayout(layout, grouped);
        Reach after = at.making(stage, reach, "from " + stage.dataset(), shape);
        WirePath key = null;
        if (stage.key() != null && !stage.key().isBlank()) {
            try {
                key = WirePath.parse(stage.key());
            } catch (IllegalArgumentException e) {
                at.problem(stage.id(), "the key: " + e.getMessage());
            }
        }
        if (stage.keepsOrder() && key == null) {
            at.problem(stage.id(), "records go one after the other per key, and there is no key: name its field");
        }
        return new CompiledRead(at.frame(stage, reach, carrying(stage, after, at)), key, List.of());
    }

    private static Reach carrying(ReadStage stage, Reach after, Compilation at) {
        ReadStage.Carry carry = stage.carry();
        if (carry == null) {
            return after;
        }
        if (!stage.keepsOrder()) {
            at.problem(
                    stage.id(),
                    "records hand something on to the next one of their key: let them go one after the other per key");
        }
        if (carry.as() == null || carry.as().isBlank() || after.get(carry.as()) != null) {
            at.problem(stage.id(), "what is handed on has no name, or one that is used: " + carry.as());
            return after;
        }
        List<Column> columns = carry.values().stream()
                .filter(value -> value.name() != null && !value.name().isBlank())
                .map(value -> new Column(value.name(), value.name(), ScalarType.STRING, null, false))
                .toList();
        Shape shape = new Shape.OfColumns(columns, false);
        return after.with(new Variable(carry.as(), "of the record before, of its key", stage.id(), shape, true));
    }

    /** Returns this with what its records hand on, which is known at their ends. */
    CompiledRead carrying(Reach end, Compilation at) {
        return stage().carry() == null
                ? this
                : new CompiledRead(
                        frame,
                        key,
                        CompiledValue.of(stage().carry().values(), stage().id(), "value handed on", end, at));
    }

    @Override
    public boolean usable() {
        return stage().dataset() != null && !stage().dataset().isBlank();
    }

    @Override
    public ReadStage stage() {
        return (ReadStage) frame.stage();
    }
}
