package wirekettle.core.fill;

/**
 * Something wrong with one field of one record.
 *
 * @param field the path of the field or the column's name
 * @param value the value to blame, empty when there is none
 * @param fillId the fill to blame, null when the field has none
 * @param code a stable word: required, empty, conversion, invalid, expression
 * @param message what is wrong, a few words after the field's name
 */
public record MappingProblem(String field, String value, String fillId, String code, String message) {
    /** Returns the last name of the field's path. */
    public String shortField() {
        return field.substring(Math.max(field.lastIndexOf('/'), field.lastIndexOf('}')) + 1);
    }

    /** Returns the sentence shown to people. */
    public String sentence() {
        return shortField() + ": " + (value.isEmpty() ? "" : "“" + value + "” ") + message;
    }

    /** Returns what problems of one kind share, to group by. */
    public String group() {
        return shortField() + ": "
                + message.replaceAll("“[^”]*”", "…").replaceAll("\\d+ (characters|digits|decimals),", "… $1,");
    }
}
