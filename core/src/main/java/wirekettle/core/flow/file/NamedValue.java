package wirekettle.core.flow.file;

/**
 * A value a flow takes of each record at its end.
 *
 * @param name under which it is in reach afterwards
 * @param of XPath 3.1 over what the record knows at its end
 */
public record NamedValue(String name, String of) {}
