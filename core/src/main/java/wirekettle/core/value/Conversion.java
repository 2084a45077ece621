package wirekettle.core.value;

/** Turns one text into another. Safe for several threads. */
@FunctionalInterface
public interface Conversion {
    /** Returns the converted text, or throws when {@code text} cannot be read. */
    String convert(String text) throws ConversionException;
}
