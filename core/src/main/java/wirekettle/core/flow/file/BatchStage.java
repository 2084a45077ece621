package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonValue;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.function.UnaryOperator;

/**
 * Lets several records go through its stages together; behind it each goes on alone, with its verdict.
 *
 * @param batch the variable that holds the records in its stages, without the dollar sign: an {@code item} for each,
 *     with the variables of the record
 * @param most how many records go together at most, 1 to 1,000
 * @param mostBytes how many bytes the message of its first call may have as it is sent, null for no limit
 * @param by XPath 3.1: only records that have the same value go together; null for all
 * @param waitMillis how long a record waits for company at most, in milliseconds
 * @param stages what happens for the records together
 * @param verdict what the reply says of each record, null when what comes to the end is done for all
 * @param halve whether a batch that is refused as a whole is tried again in halves, to find the record that is at fault
 * @param undo what takes an accepted record back when it is rejected later
 * @param lane what happens when the batch, or the record alone, fails, or null
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record BatchStage(
        String id,
        String batch,
        Integer most,
        Integer mostBytes,
        String by,
        Integer waitMillis,
        List<Stage> stages,
        Verdict verdict,
        Boolean halve,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<Stage> undo,
        Lane lane)
        implements Stage {
    /** The variable an item of the batch is bound to where the verdict compares it. */
    public static final String ITEM = "item";

    /** The variable a line of the reply is bound to. */
    public static final String LINE = "line";

    /** What can be said of one record. */
    public enum Said {
        /** It was taken. */
        ACCEPTED,
        /** It was not taken: the record fails. */
        REFUSED,
        /** Nobody knows. */
        IN_DOUBT;

        /** Returns the word used in files and the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT).replace('_', '-');
        }
    }

    /**
     * What the reply says of each record.
     *
     * @param as the variable a record goes on with, without the dollar sign
     * @param lines a path to the repeated lines: {@code $reply/paper}
     * @param itemKey XPath 3.1 over {@code $item}, the record as it was in the batch; null when lines answer by position
     * @param lineKey XPath 3.1 over {@code $line} that gives the same for the line of that record
     * @param accepted XPath 3.1 over {@code $line}: the record was taken
     * @param refused XPath 3.1 over {@code $line}: it was not; null for every line that does not accept
     * @param reason XPath 3.1 over {@code $line}: why not
     * @param silent what holds for a record without a line
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Verdict(
            String as,
            String lines,
            String itemKey,
            String lineKey,
            String accepted,
            String refused,
            String reason,
            Said silent) {
        /** Fills in what may be left out. */
        public Verdict {
            silent = silent == null ? Said.IN_DOUBT : silent;
        }

        /** Tells whether lines are found by a key, not by their position. */
        public boolean byKey() {
            return itemKey != null && !itemKey.isBlank() || lineKey != null && !lineKey.isBlank();
        }
    }

    /** Fills in what may be left out. */
    public BatchStage {
        most = most == null ? 100 : Math.max(1, Math.min(1_000, most));
        mostBytes = mostBytes == null ? null : Math.max(1, mostBytes);
        waitMillis = waitMillis == null ? 5_000 : Math.max(0, Math.min(3_600_000, waitMillis));
        stages = stages == null ? List.of() : List.copyOf(stages);
        undo = undo == null ? List.of() : List.copyOf(undo);
    }

    @Override
    public String as() {
        return verdict == null ? null : verdict.as();
    }

    /** Returns the id of the place where the verdict of a Batch is read. */
    public static String verdictOf(String batch) {
        return batch + "/verdict";
    }

    /** Tells whether a batch refused as a whole is halved. */
    public boolean halves() {
        return Boolean.TRUE.equals(halve);
    }

    @Override
    public List<Stage> inside() {
        List<Stage> all = new ArrayList<>(stages);
        all.addAll(undo);
        all.addAll(lane == null ? List.of() : lane.stages());
        return all;
    }

    @Override
    public BatchStage failing(Lane other) {
        return new BatchStage(id, batch, most, mostBytes, by, waitMillis, stages, verdict, halve, undo, other);
    }

    @Override
    public Stage mapped(UnaryOperator<Stage> change) {
        return new BatchStage(
                id,
                batch,
                most,
                mostBytes,
                by,
                waitMillis,
                stages.stream().map(change).toList(),
                verdict,
                halve,
                undo.stream().map(change).toList(),
                Lane.mapped(lane, change));
    }
}
