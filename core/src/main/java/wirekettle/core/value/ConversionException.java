package wirekettle.core.value;

/** A text that cannot be read as what it should be. */
public final class ConversionException extends Exception {
    private final String value;

    /** Says that {@code value} is not {@code expected}. */
    public ConversionException(String value, String expected) {
        super("“" + value + "” is not " + expected, null, false, false);
        this.value = value;
    }

    /** Returns the text that could not be read. */
    public String value() {
        return value;
    }
}
