package wirekettle.core.flow.file;

/**
 * A text with a name: an HTTP header (RFC 9110, 6.3) of an answer, or an application property of a message (AMQP 1.0,
 * part 3, 3.2.5).
 *
 * @param value a path or XPath 3.1 whose text it is; it is left out where that is empty
 */
public record NamedText(String name, String value) {}
