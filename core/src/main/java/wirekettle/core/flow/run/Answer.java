package wirekettle.core.flow.run;

import java.util.Map;
import wirekettle.core.value.DocumentForm;

/**
 * What a caller of the flow gets.
 *
 * @param status the HTTP status
 * @param headers its own HTTP headers
 * @param form how the body is written
 * @param body the text
 */
public record Answer(int status, Map<String, String> headers, DocumentForm form, String body) {
    /** The cause of a record whose answer will not do for whoever waits. */
    public static final String MISFIT = "the answer does not fit";
}
