package wirekettle.core.xml;

/**
 * Something unusual found while reading documents.
 *
 * @param severity how much it matters
 * @param code a stable word for the kind of finding
 * @param message what, and what follows from it
 * @param document the document it is in
 * @param line the line, from 1, 0 when unknown
 * @param column the column, from 1, 0 when unknown
 */
public record Finding(Severity severity, String code, String message, String document, int line, int column) {
    /** How much a finding matters. */
    public enum Severity {
        /** Worth knowing. */
        NOTE,
        /** Repaired or left out; the rest is usable. */
        WARNING,
        /** Something that is needed is missing or wrong; parts that need it are marked. */
        ERROR
    }

    /** Returns a finding placed at an element. */
    public static Finding at(Severity severity, String code, String message, String document, XmlElement element) {
        return new Finding(severity, code, message, document, element.line(), element.column());
    }

    /** Returns a finding from a document that could not be read. */
    public static Finding of(XmlProblem problem) {
        return new Finding(
                Severity.ERROR,
                problem.code(),
                problem.getMessage(),
                problem.document(),
                problem.line(),
                problem.column());
    }
}
