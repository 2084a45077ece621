package wirekettle.core.flow.run;

/** What one stage does for a record. Safe for several threads. */
interface Step {
    /**
     * Does it.
     *
     * @throws Failed when the record goes no further here
     * @throws Stopped when the run ends before it is known what becomes of the record
     */
    StepResult run(Item item) throws Failed, Stopped;
}
