package wirekettle.core.flow.compile;

/**
 * A variable in reach.
 *
 * @param name without the dollar sign
 * @param title what it is, in a few words: from loans, the reply
 * @param stage the id of the stage that makes it, null for what is there from the start
 * @param shape what is known of its tree
 * @param mayBeEmpty whether it may not have been made: in another way, or because its stage failed
 */
public record Variable(String name, String title, String stage, Shape shape, boolean mayBeEmpty) {
    Variable maybe() {
        return new Variable(name, title, stage, shape, true);
    }
}
