package wirekettle.core.flow.run;

/**
 * One effect of a record: ledgers know it by this, with the run and the record's ordinal.
 *
 * @param path where in the record, a step for each item it is in; empty for the record itself
 * @param stage the stage
 * @param number counts the effects at that place and stage, from 1
 */
public record Effect(String path, String stage, int number) {
    /** Returns an effect of the record itself. */
    public static Effect of(String stage, int number) {
        return new Effect("", stage, number);
    }
}
