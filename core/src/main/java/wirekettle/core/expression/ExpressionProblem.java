package wirekettle.core.expression;

/** An expression that cannot be compiled, or that failed for a record. */
public final class ExpressionProblem extends Exception {
    private final int line;
    private final int column;

    /** Makes a problem on the only line; {@code column} is from 1, 0 when unknown. */
    public ExpressionProblem(String message, int column) {
        this(message, 0, column);
    }

    /** Makes a problem; {@code line} and {@code column} are from 1, 0 when unknown. */
    public ExpressionProblem(String message, int line, int column) {
        super(message, null, false, false);
        this.line = line;
        this.column = column;
    }

    /** Returns the line where it is wrong, from 1, 0 when unknown. */
    public int line() {
        return line;
    }

    /** Returns the column where it is wrong, from 1, 0 when unknown. */
    public int column() {
        return column;
    }
}
