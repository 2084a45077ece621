package wirekettle.core.xml;

/** A document that cannot be read: what is wrong, and at which line and column (both from 1, 0 when unknown). */
public final class XmlProblem extends Exception {
    private final String code;
    private final String document;
    private final int line;
    private final int column;

    /** Makes a problem with a stable {@code code} such as {@code not-xml} or {@code dtd-refused}. */
    public XmlProblem(String code, String message, String document, int line, int column) {
        super(message);
        this.code = code;
        this.document = document;
        this.line = line;
        this.column = column;
    }

    /** Returns the stable code. */
    public String code() {
        return code;
    }

    /** Returns the document's name as the user knows it. */
    public String document() {
        return document;
    }

    /** Returns the line, from 1. */
    public int line() {
        return line;
    }

    /** Returns the column, from 1. */
    public int column() {
        return column;
    }

    /** Returns the whole sentence: document, place and reason. */
    public String sentence() {
        return document + (line > 0 ? " line " + line + " column " + column : "") + ": " + getMessage();
    }
}
