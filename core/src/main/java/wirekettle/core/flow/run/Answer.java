package wirekettle.core.flow.run;

import wirekettle.core.value.DocumentForm;

/**
 * What a caller of the flow gets.
 *
 * @param status the HTTP status
 * @param form how the body is written
 * @param body the text
 */
public record Answer(int status, DocumentForm form, String body) {}
