package wirekettle.connect.queue;

import java.nio.charset.StandardCharsets;
import java.util.Map;
import wirekettle.core.value.DocumentForm;

/**
 * A message (AMQP 1.0, part 3, 3.2).
 *
 * @param id what its sender calls it (message-id), null where it says nothing
 * @param correlation what it answers (correlation-id), or null
 * @param replyTo the queue its answer is wanted at (reply-to), or null
 * @param type the content type, or null
 * @param body what is in it
 * @param properties its application properties, as text
 * @param deliveries how often it was given to somebody, this time included
 * @param problem why its body cannot be taken, null where it can
 */
public record QueueMessage(
        String id,
        String correlation,
        String replyTo,
        String type,
        byte[] body,
        Map<String, String> properties,
        int deliveries,
        String problem) {
    /** Returns a message to be sent. */
    public static QueueMessage of(DocumentForm form, String body, String correlation, Map<String, String> properties) {
        String type = form == DocumentForm.XML ? "application/xml" : "application/json";
        return new QueueMessage(
                null, correlation, null, type, body.getBytes(StandardCharsets.UTF_8), Map.copyOf(properties), 0, null);
    }

    /** Returns its body as text. */
    public String text() {
        return new String(body, StandardCharsets.UTF_8);
    }
}
