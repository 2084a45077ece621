package wirekettle.core.flow.run;

import java.math.BigDecimal;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.flow.file.Stage;

/**
 * The progress of a run. Except for records read, only records with a durable ledger line are counted. Immutable.
 *
 * @param read records read so far
 * @param ends how many ended in which way, by the ordinal of {@link End}
 * @param saved how many of those done a failure lane saved
 * @param rows rows written
 * @param calls tries to call
 * @param stages counts by stage
 * @param sums what the flow adds up, by its name and the end of the records
 */
public record Totals(
        long read,
        List<Long> ends,
        long saved,
        long rows,
        long calls,
        Map<String, OfStage> stages,
        Map<String, Map<String, BigDecimal>> sums) {
    /** Nothing yet. */
    public static final Totals NONE = new Totals(0, List.of(0L, 0L, 0L, 0L, 0L), 0, 0, 0, Map.of(), Map.of());

    /** Fills in what ledgers of before do not have. */
    public Totals {
        sums = sums == null ? Map.of() : sums;
    }

    /**
     * Counts of one stage.
     *
     * @param entered records that came to it
     * @param ended records that ended at it: failed, left out or in doubt
     * @param calls tries to call
     */
    public record OfStage(long entered, long ended, long calls) {}

    /** Returns how many records ended in a way. */
    public long of(End end) {
        return ends.get(end.ordinal());
    }

    /** Returns how many records ended. */
    public long ended() {
        return ends.stream().mapToLong(Long::longValue).sum();
    }

    /** Returns how many records were read and have not ended. */
    public long onTheirWay() {
        return read - ended();
    }

    /** Returns these totals with more records read. */
    Totals reading(long records) {
        return new Totals(Math.max(read, records), ends, saved, rows, calls, stages, sums);
    }

    /** Returns these totals with records that ended; {@code all} gives the stages their numbers. */
    Totals with(List<LedgerLine> lines, List<Stage> all) {
        if (lines.isEmpty()) {
            return this;
        }
        long[] more = new long[End.values().length];
        long newRows = 0;
        long newCalls = 0;
        long newSaved = 0;
        Map<String, Map<String, BigDecimal>> newSums = new LinkedHashMap<>();
        sums.forEach((name, its) -> newSums.put(name, new LinkedHashMap<>(its)));
        long[][] at = new long[all.size()][3];
        Map<String, Integer> numbers = new LinkedHashMap<>();
        for (int i = 0; i < all.size(); i++) {
            numbers.put(all.get(i).id(), i);
        }
        for (LedgerLine line : lines) {
            newRows += line.rows();
            if (line.isOfRecord()) {
                more[line.end().ordinal()]++;
                line.sums().forEach((name, value) -> newSums.computeIfAbsent(name, n -> new LinkedHashMap<>())
                        .merge(line.end().word(), value, BigDecimal::add));
            }
            newSaved += line.saved() && line.end() == End.DONE ? 1 : 0;
            for (int number : line.entered()) {
                at[number][0]++;
            }
            Integer ended = line.stage() == null ? null : numbers.get(line.stage());
            if (ended != null) {
                at[ended][1]++;
            }
            for (Passage passage : line.passages()) {
                newCalls += passage.attempts().size();
                at[numbers.get(passage.stage())][2] += passage.attempts().size();
            }
        }
        List<Long> newEnds = new java.util.ArrayList<>();
        for (int i = 0; i < more.length; i++) {
            newEnds.add(ends.get(i) + more[i]);
        }
        Map<String, OfStage> counts = new LinkedHashMap<>();
        for (int i = 0; i < all.size(); i++) {
            OfStage before = stages.getOrDefault(all.get(i).id(), new OfStage(0, 0, 0));
            counts.put(
                    all.get(i).id(),
                    new OfStage(before.entered() + at[i][0], before.ended() + at[i][1], before.calls() + at[i][2]));
        }
        return new Totals(
                read, List.copyOf(newEnds), saved + newSaved, rows + newRows, calls + newCalls, counts, newSums);
    }
}
