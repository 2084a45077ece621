package wirekettle.core.contract;

/** Who sends first and whether the other side answers (WSDL 1.1, 2.4). */
public enum OperationKind {
    /** We ask, the service answers. */
    REQUEST_REPLY("request and reply"),
    /** We send, nothing comes back. */
    ONE_WAY("one way"),
    /** The service asks, we would answer; shown, not called. */
    SOLICIT("the service asks"),
    /** The service sends; shown, not called. */
    NOTIFICATION("the service tells");

    private final String label;

    OperationKind(String label) {
        this.label = label;
    }

    /** Returns the kind in words. */
    public String label() {
        return label;
    }

    /** Tells whether we may call it. */
    public boolean callable() {
        return this == REQUEST_REPLY || this == ONE_WAY;
    }
}
