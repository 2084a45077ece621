package wirekettle.core.flow.run;

/** Whether a record goes on behind a step. */
enum Go {
    /** To the next step. */
    ON,
    /** Nowhere: a filter left it out. */
    LEFT_OUT
}
