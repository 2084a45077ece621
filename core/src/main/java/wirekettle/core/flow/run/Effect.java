package wirekettle.core.flow.run;

/**
 * One effect of a record: ledgers know it by this, with the run and the record's ordinal.
 *
 * @param path where in the record, a step for each item it is in; empty for the record itself
 * @param stage the stage
 * @param number counts the effects at that place and stage, from 1
 */
public record Effect(String path, String stage, int number) {
    private static final String UNDO = ":undo";
    private static final String EARLIER = "earlier/";

    /** Returns the path at which a call of an item at a path is reversed. */
    static String undoing(String path, String call) {
        return (path.isEmpty() ? "" : path + "/") + call + UNDO;
    }

    /** Returns the path at which something an earlier run did for the record is reversed, from where it was done. */
    static String earlier(String path) {
        return EARLIER + path;
    }

    /** Tells whether it reverses what an earlier run did. */
    public boolean undoesEarlier() {
        return path.startsWith(EARLIER);
    }

    /** Tells whether a path is another one, or within it. */
    static boolean within(String path, String around) {
        return around.isEmpty() || path.equals(around) || path.startsWith(around + "/");
    }

    /** Tells whether it reverses another effect. */
    public boolean undoes() {
        return path.endsWith(UNDO) || path.contains(UNDO + "/");
    }

    /** Returns an effect of the record itself. */
    public static Effect of(String stage, int number) {
        return new Effect("", stage, number);
    }
}
