package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.List;
import wirekettle.core.soap.Transport;

/**
 * How a Call is delivered.
 *
 * @param effect reads or changes; decides whether it may be sent again
 * @param atOnce how many calls at the same time, 1 to 64
 * @param retries how often a failed call is tried again where that is allowed, 0 to 10
 * @param backOffMillis wait before the first retry, doubled each time
 * @param resendChanges whether an operation that changes data may be sent again although it may have arrived
 * @param strict whether a reply that is not valid against the contract fails the call
 * @param keep which exchanges are kept: none, failures (and the first ten), all
 * @param connectMillis time limit to connect
 * @param firstByteMillis time limit until the answer begins
 * @param wholeMillis time limit until the answer is complete
 * @param failedWhen conditions under which a reply counts as failed
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record Delivery(
        String effect,
        Integer atOnce,
        Integer retries,
        Integer backOffMillis,
        Boolean resendChanges,
        Boolean strict,
        String keep,
        Integer connectMillis,
        Integer firstByteMillis,
        Integer wholeMillis,
        List<Condition> failedWhen) {
    /**
     * A "counts as failed when" condition.
     *
     * @param id stable for the life of the condition
     * @param expression XPath 3.1 over the reply; true means failed
     * @param message what the ledger groups by
     */
    public record Condition(String id, String expression, String message) {}

    /** Changes data, four at once, two retries, failures kept. */
    public static final Delivery DEFAULT =
            new Delivery(null, null, null, null, null, null, null, null, null, null, null);

    /** Fills in what may be left out. */
    public Delivery {
        effect = effect == null ? "changes" : effect;
        atOnce = atOnce == null ? 4 : Math.max(1, Math.min(64, atOnce));
        retries = retries == null ? 2 : Math.max(0, Math.min(10, retries));
        backOffMillis = backOffMillis == null ? 200 : Math.max(0, backOffMillis);
        resendChanges = resendChanges != null && resendChanges;
        strict = strict != null && strict;
        keep = keep == null ? "failures" : keep;
        connectMillis = connectMillis == null ? Transport.Limits.DEFAULT.connectMillis() : connectMillis;
        firstByteMillis = firstByteMillis == null ? Transport.Limits.DEFAULT.firstByteMillis() : firstByteMillis;
        wholeMillis = wholeMillis == null ? Transport.Limits.DEFAULT.wholeMillis() : wholeMillis;
        failedWhen = failedWhen == null ? List.of() : List.copyOf(failedWhen);
    }

    /** Tells whether the operation only reads. */
    public boolean reads() {
        return effect.equals("reads");
    }

    /** Returns the time limits as the transport takes them. */
    public Transport.Limits limits() {
        return new Transport.Limits(connectMillis, firstByteMillis, wholeMillis, Transport.Limits.DEFAULT.maxBytes());
    }
}
