package wirekettle.core.flow.run;

import java.time.Instant;
import java.util.List;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Node;

/**
 * What the ledger keeps of one record.
 *
 * @param ordinal its place in the input, from 1
 * @param key its business key, or null
 * @param fingerprint a hash of the input
 * @param outcome what became of it
 * @param rows how many rows it gave
 * @param failureClass why it failed, or null
 * @param cause the short cause failures are grouped by, or null
 * @param message the sentence, or null
 * @param stage the stage it failed at, or null
 * @param blame the fill or condition to blame, or null
 * @param note something unusual that did not fail it, or null
 * @param input the record, kept when it was not written
 * @param attempts every try to call
 * @param exchange the last exchange where the call's retention keeps it, or null
 */
public record LedgerLine(
        long ordinal,
        String key,
        String fingerprint,
        Outcome outcome,
        int rows,
        FailureClass failureClass,
        String cause,
        String message,
        String stage,
        String blame,
        String note,
        Node input,
        List<Attempt> attempts,
        Exchange exchange) {
    /**
     * One try to call.
     *
     * @param number from 1
     * @param started when
     * @param millis how long it took
     * @param status the HTTP status, 0 when none was seen
     * @param sent whether the request may have reached the other side
     * @param failure what went wrong, or null
     */
    public record Attempt(int number, Instant started, long millis, int status, boolean sent, String failure) {}

    /**
     * One request with its reply.
     *
     * @param address where it went
     * @param request the request's text
     * @param status the HTTP status, 0 when none was seen
     * @param reply the reply's text, null when there was none
     */
    public record Exchange(String address, byte[] request, int status, byte[] reply) {
        /** How much of a text is kept, in bytes. */
        public static final int MOST_BYTES = 1 << 20;
    }
}
