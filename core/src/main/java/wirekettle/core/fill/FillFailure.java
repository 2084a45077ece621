package wirekettle.core.fill;

/** A fill that cannot give a value for one record; the message follows the field's name. */
public final class FillFailure extends Exception {
    private final String code;
    private final String value;

    public FillFailure(String code, String value, String message) {
        super(message, null, false, false);
        this.code = code;
        this.value = value;
    }

    /** Returns this as the problem of a field. */
    public MappingProblem of(String field, String fillId) {
        return new MappingProblem(field, value, fillId, code, getMessage());
    }
}
