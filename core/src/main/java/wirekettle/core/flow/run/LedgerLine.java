package wirekettle.core.flow.run;

import java.math.BigDecimal;
import java.util.List;
import java.util.Map;
import wirekettle.core.value.Node;

/**
 * How one record ended.
 *
 * @param ordinal its place in the input, from 1
 * @param key its business key, or null
 * @param fingerprint a hash of the input
 * @param end how it ended
 * @param rows how many rows it gave
 * @param failure why it failed, or null
 * @param stage the stage it ended at, null for one that came to the end
 * @param note something unusual that did not fail it, or null
 * @param saved whether a failure lane saved it
 * @param input the record, kept when it was not done
 * @param passages its effects
 * @param entered the numbers of the stages it came to
 * @param items how its items ended that are not simply done
 * @param batches the places it had in batches
 * @param sums what it adds to the sums of the flow
 * @param numbers the numbers of series drawn for it, with what became of them
 * @param carried what the next record of its key is given; null for nothing
 */
public record LedgerLine(
        long ordinal,
        String key,
        String fingerprint,
        End end,
        int rows,
        Failure failure,
        String stage,
        String note,
        boolean saved,
        Node input,
        List<Passage> passages,
        int[] entered,
        List<ItemEnd> items,
        List<BatchPlace> batches,
        Map<String, BigDecimal> sums,
        List<DrawnNumber> numbers,
        Node carried) {
    /** Tells whether it is of a record, and not of what is run once. */
    public boolean isOfRecord() {
        return ordinal > 0;
    }

    /** Returns this with what it adds to the sums of the flow. */
    LedgerLine adding(Map<String, BigDecimal> its) {
        return with(its, numbers, carried);
    }

    /** Returns this with what the next record of its key is given. */
    public LedgerLine carrying(Node its) {
        return with(sums, numbers, its);
    }

    /** Returns this with numbers drawn for it. */
    public LedgerLine drawing(List<DrawnNumber> its) {
        return with(sums, its, carried);
    }

    private LedgerLine with(Map<String, BigDecimal> itsSums, List<DrawnNumber> itsNumbers, Node itsCarried) {
        return new LedgerLine(
                ordinal,
                key,
                fingerprint,
                end,
                rows,
                failure,
                stage,
                note,
                saved,
                input,
                passages,
                entered,
                items,
                batches,
                itsSums,
                itsNumbers,
                itsCarried);
    }

    /** Returns the numbers of gapless series that it gives back, or does not. */
    public List<DrawnNumber> numbers(DrawnNumber.Fate fate) {
        return numbers.stream()
                .filter(each -> each.series().gapless() && each.fate() == fate)
                .toList();
    }

    /** Returns the line of a record that came to the end. */
    static LedgerLine done(Item item, int rows) {
        return of(item, End.DONE, rows, null, null);
    }

    /** Returns the line of a record that a filter left out. */
    static LedgerLine leftOut(Item item, String filter, int rows) {
        return of(item, End.LEFT_OUT, rows, null, filter);
    }

    /** Returns the line of a record that failed. */
    static LedgerLine failed(Item item, Failure failure, int rows) {
        return of(item, failure.doubtful() ? End.IN_DOUBT : End.REJECTED, rows, failure, failure.stage());
    }

    /** Returns the line of a record behind an earlier one of its key that failed. */
    static LedgerLine heldBack(Item item, Failure failure) {
        return of(item, End.HELD_BACK, 0, failure, failure.stage());
    }

    private static LedgerLine of(Item item, End end, int rows, Failure failure, String stage) {
        return new LedgerLine(
                item.ordinal(),
                item.key(),
                item.fingerprint(),
                end,
                rows,
                failure,
                stage,
                item.note(),
                item.saved(),
                end == End.DONE || end == End.LEFT_OUT ? null : item.record(),
                item.passages(),
                item.entered(),
                item.items(),
                item.company().places(),
                Map.of(),
                item.numbers().settled(end),
                null);
    }

    /** Returns how many tries its calls took. */
    public int calls() {
        int calls = 0;
        for (Passage passage : passages) {
            calls += passage.attempts().size();
        }
        return calls;
    }
}
