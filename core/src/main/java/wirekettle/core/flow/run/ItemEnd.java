package wirekettle.core.flow.run;

/**
 * How an item of a record ended, where that is not simply done.
 *
 * @param path where in the record it is
 * @param ended how it ended
 * @param stage the stage it ended at, or null
 * @param message why, or null
 */
public record ItemEnd(String path, End ended, String stage, String message) {
    /** How many are kept of one record. */
    public static final int MOST = 1_000;
}
