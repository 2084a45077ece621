package wirekettle.core.flow.compile;

import wirekettle.core.expression.WirePath;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.value.Layout;

/**
 * A compiled Read stage.
 *
 * @param key the wire to the business key, or null
 */
public record CompiledRead(Frame frame, WirePath key) implements Compiled {
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
        return new CompiledRead(at.frame(stage, reach, after), key);
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
