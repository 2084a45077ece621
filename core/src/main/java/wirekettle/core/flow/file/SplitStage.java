package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonValue;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.function.UnaryOperator;

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
     * @param as the variable with an {@code item} for each item
     * @param whenSomeFail what becomes of the record when items fail
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Gather(String as, WhenSomeFail whenSomeFail) {
        /** Fills in what may be left out. */
        public Gather {
            whenSomeFail = whenSomeFail == null ? WhenSomeFail.REJECT : whenSomeFail;
        }
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
