package wirekettle.core.mapping;

/** An expression that cannot be compiled, or that failed for a record. */
public final class ExpressionProblem extends Exception {
    private final int column;

    /** Makes a problem; {@code column} is from 1, 0 when unknown. */
    public ExpressionProblem(String message, int column) {
        super(message, null, false, false);
        this.column = column;
    }

    /** Returns the column of the expression where it is wrong, from 1, 0 when unknown. */
    public int column() {
        return column;
    }
}
