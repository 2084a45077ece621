package wirekettle.core.flow.compile;

import java.util.List;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.WirePath;
import wirekettle.core.flow.file.Paging;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.Column;
import wirekettle.core.value.Layout;
import wirekettle.core.value.ScalarType;

/**
 * A compiled Read stage.
 *
 * @param key the wire to the business key, or null
 * @param from the operation that gives the records, null where a dataset does
 * @param watermark how far one has come with a record, or null
 * @param carried what a record hands on to the next one of its key; empty for nothing
 */
public record CompiledRead(
        Frame frame, WirePath key, CompiledCall from, Expressions.Compiled watermark, List<CompiledValue> carried)
        implements Compiled {
    static CompiledRead of(ReadStage stage, Reach reach, Compilation at) {
        CompiledCall from = from(stage, reach, at);
        Shape shape = stage.input() != null
                ? ofInput(stage, at)
                : from == null ? ofDataset(stage, at) : ofRows(stage, from, at);
        Reach after = at.making(stage, reach, from(stage), shape);
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
        Variable record = after.get(String.valueOf(stage.as()));
        Expressions.Compiled watermark = from == null || record == null
                ? null
                : at.condition(stage.id(), null, stage.from().watermark(), reach.with(record));
        return new CompiledRead(at.frame(stage, reach, carrying(stage, after, at)), key, from, watermark, List.of());
    }

    private static String from(ReadStage stage) {
        boolean operation = stage.from() != null && stage.from().call() != null;
        if (stage.input() != null) {
            return "what a caller sends";
        }
        return "from " + (operation ? stage.from().call().operation() : stage.dataset());
    }

    private static Shape ofInput(ReadStage stage, Compilation at) {
        if (stage.input().columns().isEmpty()) {
            at.problem(stage.id(), "nothing is said of what callers send: add its fields");
        }
        if (stage.dataset() != null || stage.from() != null) {
            at.problem(stage.id(), "records come from callers, and from somewhere else too: take one of them away");
        }
        if (!stage.groupBy().isEmpty()) {
            at.problem(stage.id(), "what a caller sends is one record: it is not grouped");
        }
        return new Shape.OfColumns(stage.input().columns(), false);
    }

    private static Shape ofDataset(ReadStage stage, Compilation at) {
        boolean named = stage.dataset() != null && !stage.dataset().isBlank();
        if (!named) {
            at.problem(stage.id(), "no dataset is read: pick one");
        }
        Layout layout = at.around().layouts().get(String.valueOf(stage.dataset()));
        for (String field : stage.groupBy()) {
            if (layout != null
                    && layout.columns().stream().noneMatch(c -> c.name().equals(field))) {
                at.problem(stage.id(), "rows are grouped by " + field + ", which is not a field of the dataset");
            }
        }
        return layout == null
                ? new Shape.Open()
                : new Shape.OfLayout(layout, !stage.groupBy().isEmpty());
    }

    /** Compiles the call that gives the records; null where a dataset does. */
    private static CompiledCall from(ReadStage stage, Reach reach, Compilation at) {
        ReadStage.FromOperation from = stage.from();
        if (from == null) {
            return null;
        }
        if (from.call() == null) {
            at.problem(stage.id(), "no operation gives the records: pick one");
            return null;
        }
        if (!stage.groupBy().isEmpty()) {
            at.problem(stage.id(), "rows of an operation are not grouped: pick the element that is a whole record");
        }
        Paging pages = from.call().pages() == null
                ? new Paging(Paging.By.ONCE, from.rows(), null, null, null, null, null)
                : from.call().pages().of(from.rows());
        Reach asking = from.watermark() == null || from.watermark().isBlank()
                ? reach
                : reach.with(new Variable(
                        ReadStage.FromOperation.WATERMARK, "how far it was read", stage.id(), new Shape.Open(), true));
        return at.source(from.call().paged(pages), asking);
    }

    /** Returns the shape of the element that is a record. */
    private static Shape ofRows(ReadStage stage, CompiledCall from, Compilation at) {
        if (from.reply() == null || from.pages() == null || from.pages().rows() == null) {
            return new Shape.Open();
        }
        SheetField row = from.reply();
        for (String step : from.pages().rows().steps()) {
            SheetField found = null;
            for (SheetField child : row.children()) {
                found = found == null
                                && child.name() != null
                                && child.name().local().equals(step)
                        ? child
                        : found;
            }
            if (found == null) {
                at.problem(
                        stage.id(), "the reply has no " + stage.from().rows() + ": pick the element that is a record");
                return new Shape.Open();
            }
            row = found;
        }
        return new Shape.OfSheet(row);
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
                        from,
                        watermark,
                        CompiledValue.of(stage().carry().values(), stage().id(), "value handed on", end, at));
    }

    @Override
    public boolean usable() {
        if (stage().input() != null) {
            return !stage().input().columns().isEmpty();
        }
        return stage().from() != null
                ? from != null && from.usable()
                : stage().dataset() != null && !stage().dataset().isBlank();
    }

    @Override
    public ReadStage stage() {
        return (ReadStage) frame.stage();
    }
}
