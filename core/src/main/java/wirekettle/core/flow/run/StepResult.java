package wirekettle.core.flow.run;

/** Where a record goes behind a step. */
enum StepResult {
    /** To the next step. */
    ON,
    /** Nowhere: a filter left it out. */
    LEFT_OUT,
    /** Nowhere yet: it waits in a batch, and comes back to it. */
    WAITS
}
