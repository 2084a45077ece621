package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonValue;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.function.UnaryOperator;
import wirekettle.core.fill.Fill;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.value.Column;
import wirekettle.core.value.DocumentForm;

/**
 * Runs its stages for each item of a repeated field, several at once; what they made is gathered in the items' order.
 *
 * @param over a path to repeated nodes: {@code $loan/line}
 * @param item the variable an item is bound to, without the dollar sign
 * @param atOnce how many items are worked on at one time, 1 to 64
 * @param stages what happens for each item
 * @param gather what becomes of what they made, null when nothing leaves the items
 * @param lane what happens when it fails, or null
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record SplitStage(
        String id, String over, String item, Integer atOnce, List<Stage> stages, Gather gather, Lane lane)
        implements Stage {
    /** What becomes of a record some of whose items fail. */
    public enum WhenSomeFail {
        /** It goes on with what there is. */
        GO_ON,
        /** It is rejected; what was done stays, and is named. */
        REJECT,
        /** What its items did is taken back, last first, and it is rejected. */
        UNDO;

        /** Returns the word used in files and the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT).replace('_', '-');
        }
    }

    /**
     * The end of a Split.
     *
     * @param as the variable with an {@code item} for each item, or of the shape its columns say
     * @param whenSomeFail what becomes of the record when items fail
     * @param columns the fields of a shape of its own, a name may be a place; empty for an item each
     * @param fills what fills them; the items are in reach as the variable
     * @param groups the levels of the shape that repeat
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Gather(
            String as,
            WhenSomeFail whenSomeFail,
            @JsonInclude(JsonInclude.Include.NON_EMPTY) List<Column> columns,
            @JsonInclude(JsonInclude.Include.NON_EMPTY) List<Fill> fills,
            @JsonInclude(JsonInclude.Include.NON_EMPTY) List<DocumentPlan.Group> groups) {
        /** Fills in what may be left out. */
        public Gather {
            whenSomeFail = whenSomeFail == null ? WhenSomeFail.REJECT : whenSomeFail;
            columns = columns == null ? List.of() : List.copyOf(columns);
            fills = fills == null ? List.of() : List.copyOf(fills);
            groups = groups == null ? List.of() : List.copyOf(groups);
        }

        /** Gathers an item each. */
        public Gather(String as, WhenSomeFail whenSomeFail) {
            this(as, whenSomeFail, null, null, null);
        }
    }

    /** The shape of its own that is made of items. */
    private record Shaped(String id, Gather gather) implements MakesRecord {
        @Override
        public String rows() {
            return null;
        }

        @Override
        public List<Column> columns() {
            return gather.columns();
        }

        @Override
        public List<Fill> fills() {
            return gather.fills();
        }

        @Override
        public DocumentForm document() {
            return DocumentForm.XML;
        }

        @Override
        public List<DocumentPlan.Group> groups() {
            return gather.groups();
        }
    }

    /** Returns the id of the place where the items of a Split are gathered. */
    public static String gathering(String split) {
        return split + "/gather";
    }

    /** Returns what makes a shape of its own of the items, null where an item each is gathered. */
    public MakesRecord shape() {
        return gather == null || gather.columns().isEmpty() && gather.fills().isEmpty() ? null : gathered();
    }

    /** Returns the record that is made of the items; without columns when an item each is gathered. */
    public MakesRecord gathered() {
        return new Shaped(gathering(id), gather);
    }

    @Override
    public List<Fill> fills() {
        return gather == null ? List.of() : gather.fills();
    }

    @Override
    public SplitStage filled(List<Fill> others) {
        return gather == null
                ? this
                : new SplitStage(
                        id,
                        over,
                        item,
                        atOnce,
                        stages,
                        new Gather(gather.as(), gather.whenSomeFail(), gather.columns(), others, gather.groups()),
                        lane);
    }

    /** Fills in what may be left out. */
    public SplitStage {
        atOnce = atOnce == null ? 4 : Math.max(1, Math.min(64, atOnce));
        stages = stages == null ? List.of() : List.copyOf(stages);
    }

    @Override
    public String as() {
        return gather == null ? null : gather.as();
    }

    /** Tells whether a record goes on although items failed. */
    public boolean goesOn() {
        return gather != null && gather.whenSomeFail() == WhenSomeFail.GO_ON;
    }

    /** Tells whether what items did is taken back when some fail. */
    public boolean undoes() {
        return gather != null && gather.whenSomeFail() == WhenSomeFail.UNDO;
    }

    @Override
    public List<Stage> inside() {
        List<Stage> all = new ArrayList<>(stages);
        all.addAll(lane == null ? List.of() : lane.stages());
        return all;
    }

    @Override
    public SplitStage failing(Lane other) {
        return new SplitStage(id, over, item, atOnce, stages, gather, other);
    }

    @Override
    public Stage mapped(UnaryOperator<Stage> change) {
        List<Stage> changed = stages.stream().map(change).toList();
        return new SplitStage(id, over, item, atOnce, changed, gather, Lane.mapped(lane, change));
    }
}
