package wirekettle.core.flow.run;

/** A step that failed for a record. Costs no stack trace: failing is a usual end. */
final class Failed extends Exception {
    private final transient Failure failure;
    private final transient boolean settled;
    private final transient boolean stopping;
    private final transient boolean repeatable;
    private final transient boolean leaves;

    private Failed(Failure failure, boolean settled, boolean stopping, boolean repeatable, boolean leaves) {
        super(failure.message(), null, false, false);
        this.failure = failure;
        this.settled = settled;
        this.stopping = stopping;
        this.repeatable = repeatable;
        this.leaves = leaves;
    }

    Failed(Failure failure) {
        this(failure, true);
    }

    /** Makes one; {@code repeatable} tells whether the step may be tried again: nothing it did took effect. */
    Failed(Failure failure, boolean repeatable) {
        this(failure, failure.doubtful(), false, repeatable && !failure.doubtful(), false);
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
        return new Failed(failure, true, stop, false, leaves);
    }

    /** Returns this as a failure after which what was done stays as it is. */
    Failed leaving() {
        return new Failed(failure, settled, stopping, repeatable, true);
    }

    /** Tells whether what was done stays as it is. */
    boolean leaves() {
        return leaves;
    }
}
