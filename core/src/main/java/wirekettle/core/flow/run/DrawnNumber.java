package wirekettle.core.flow.run;

import wirekettle.core.value.Series;

/**
 * A number a stage drew for an item.
 *
 * @param series of which series
 * @param number the number
 * @param year the year it was drawn in
 * @param path where in the record its item is; empty for the record itself
 * @param stage the stage
 * @param fate what became of it
 */
public record DrawnNumber(Series series, long number, int year, String path, String stage, Fate fate) {
    /** What becomes of a number. */
    public enum Fate {
        /** Its item is on its way. */
        OPEN,
        /** It counts: something may have been done with it. */
        USED,
        /** Nothing was done with it: it can be drawn again. */
        GIVEN_BACK
    }

    /** Returns it with another fate. */
    DrawnNumber with(Fate other) {
        return new DrawnNumber(series, number, year, path, stage, other);
    }
}
