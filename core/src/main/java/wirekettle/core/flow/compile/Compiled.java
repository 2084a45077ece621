package wirekettle.core.flow.compile;

import wirekettle.core.flow.file.Stage;

/** A compiled stage. What it does for a record is said by its step. Safe for several threads. */
public interface Compiled {
    /** Returns what every compiled stage has. */
    Frame frame();

    /** Tells whether there is enough to run. */
    boolean usable();

    /** Returns the stage as it is written. */
    default Stage stage() {
        return frame().stage();
    }

    /** Returns the stage's id. */
    default String id() {
        return stage().id();
    }
}
