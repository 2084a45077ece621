package wirekettle.core.flow.run;

/** A step that failed for a record. Costs no stack trace: failing is a usual end. */
final class Failed extends Exception {
    private final transient Failure failure;
    private final transient boolean settled;
    private final transient boolean stopping;
    private final transient boolean repeatable;

    private Failed(Failure failure, boolean settled, boolean stopping, boolean repeatable) {
        super(failure.message(), null, false, false);
        this.failure = failure;
        this.settled = settled;
        this.stopping = stopping;
        this.repeatable = repeatable;
    }

    Failed(Failure failure) {
        this(failure, true);
    }

    /** Makes one; {@code repeatable} tells whether the step may be tried again: nothing it did took effect. */
    Failed(Failure failure, boolean repeatable) {
        this(failure, failure.doubtful(), false, repeatable && !failure.doubtful());
    }

    /** Returns the failure. */
    Failure failure() {
        return failure;
    }

    /** Tells whether it is the record's end: no lane outside is asked. */
    boolean settled() {
        return settled;
    }

    /** Tells whether the step may be tried again. */
    boolean repeatable() {
        return repeatable;
    }

    /** Tells whether the run is to stop. */
    boolean stopping() {
        return stopping;
    }

    /** Returns this as the record's end. */
    Failed asEnd(boolean stop) {
        return new Failed(failure, true, stop, false);
    }
}
