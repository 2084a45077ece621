package wirekettle.core.xml;

/**
 * How much XML is accepted before reading stops.
 *
 * @param maxBytes largest document, in bytes
 * @param maxDepth deepest nesting of elements
 * @param maxElements largest number of elements
 */
public record XmlLimits(long maxBytes, int maxDepth, int maxElements) {
    /** For service descriptions and schemas: large, but never deep. */
    public static final XmlLimits DOCUMENTS = new XmlLimits(64L << 20, 400, 3_000_000);

    /** For messages on the wire. */
    public static final XmlLimits MESSAGES = new XmlLimits(32L << 20, 400, 500_000);
}
