package wirekettle.core.flow.run;

/** A run that ends or pauses while a record waits: the record has no end yet. */
final class Stopped extends Exception {
    Stopped() {
        super("the run stops", null, false, false);
    }
}
