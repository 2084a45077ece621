package wirekettle.core.flow.run;

/**
 * What a caller of the flow gets.
 *
 * @param status the HTTP status
 * @param form json or xml
 * @param body the text
 */
public record Answer(int status, String form, String body) {}
