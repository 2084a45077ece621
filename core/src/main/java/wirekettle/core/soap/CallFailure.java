package wirekettle.core.soap;

import wirekettle.core.soap.security.Masking;

/**
 * A call that failed: its class, a short cause failures are grouped by, a sentence, and whether it may have arrived.
 */
public final class CallFailure extends Exception {
    private final FailureClass failureClass;
    private final String cause;
    private final boolean sent;
    private final boolean answered;
    private final transient SoapFault fault;

    /**
     * Makes a failure.
     *
     * @param cause a short label, the same for failures of one kind
     * @param sent whether any byte may have reached the other side
     * @param answered whether the other side answered in a way that tells what became of the request
     */
    public CallFailure(
            FailureClass failureClass, String cause, String message, boolean sent, boolean answered, SoapFault fault) {
        super(message, null, false, false);
        this.failureClass = failureClass;
        this.cause = cause;
        this.sent = sent;
        this.answered = answered;
        this.fault = fault;
    }

    /** Returns this failure with secrets hidden in its message. */
    CallFailure masked(Masking masking) {
        String message = masking.mask(getMessage());
        SoapFault told = fault == null ? null : fault.masked(masking);
        return message.equals(getMessage()) && told == fault
                ? this
                : new CallFailure(failureClass, masking.mask(cause), message, sent, answered, told);
    }

    /** Returns the class. */
    public FailureClass failureClass() {
        return failureClass;
    }

    /** Returns the short cause. */
    public String causeLabel() {
        return cause;
    }

    /** Tells whether the request may have reached the other side. */
    public boolean sent() {
        return sent;
    }

    /** Tells whether an answer was seen; if not and the request was sent, its effect is in doubt. */
    public boolean answered() {
        return answered;
    }

    /** Returns the fault, or null. */
    public SoapFault fault() {
        return fault;
    }
}
