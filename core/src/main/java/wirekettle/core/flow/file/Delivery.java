package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonValue;
import java.util.List;
import java.util.Locale;
import wirekettle.core.soap.Transport;

/**
 * How a Call is delivered.
 *
 * @param effect whether it changes data at the other side; decides what may be sent again
 * @param atOnce how many calls at the same time, 1 to 64
 * @param strict whether a reply that is not valid against the contract fails the call
 * @param keep which exchanges are kept
 * @param connectMillis time limit to connect
 * @param firstByteMillis time limit until the answer begins
 * @param wholeMillis time limit until the answer is complete
 * @param failedWhen conditions under which a reply counts as failed
 * @param memorySeconds how long the same request is answered from memory, 0 for the whole run, null for never; only of
 *     operations that read
 * @param doubtfulFaults faults after which the effect of a change is in doubt instead of not done: names of declared
 *     faults or of elements in the detail, or fault codes
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record Delivery(
        Effect effect,
        Integer atOnce,
        Boolean strict,
        Keep keep,
        Integer connectMillis,
        Integer firstByteMillis,
        Integer wholeMillis,
        List<Condition> failedWhen,
        Integer memorySeconds,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<String> doubtfulFaults) {
    /** Whether an operation changes data. */
    public enum Effect {
        /** It only reads: it may be sent as often as one likes. */
        READS,
        /** It changes data: it is never sent again unless it surely took no effect. */
        CHANGES;

        /** Returns the word used in files and the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    /** Which exchanges are kept. */
    public enum Keep {
        /** None. */
        NONE,
        /** Those of calls that failed or had something odd, and the first ten. */
        FAILURES,
        /** All. */
        ALL;

        /** Returns the word used in files and the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    /**
     * A "counts as failed when" condition.
     *
     * @param id stable for the life of the condition
     * @param expression XPath 3.1 over the reply; true means failed
     * @param message what the ledger groups by
     */
    public record Condition(String id, String expression, String message) {}

    /** Changes data, four at once, failures kept. */
    public static final Delivery DEFAULT = new Delivery(null, null, null, null, null, null, null, null, null);

    /** A delivery in which no fault leaves doubt. */
    public Delivery(
            Effect effect,
            Integer atOnce,
            Boolean strict,
            Keep keep,
            Integer connectMillis,
            Integer firstByteMillis,
            Integer wholeMillis,
            List<Condition> failedWhen,
            Integer memorySeconds) {
        this(
                effect,
                atOnce,
                strict,
                keep,
                connectMillis,
                firstByteMillis,
                wholeMillis,
                failedWhen,
                memorySeconds,
                null);
    }

    /** Fills in what may be left out. */
    public Delivery {
        effect = effect == null ? Effect.CHANGES : effect;
        atOnce = atOnce == null ? 4 : Math.max(1, Math.min(64, atOnce));
        strict = strict != null && strict;
        keep = keep == null ? Keep.FAILURES : keep;
        connectMillis = connectMillis == null ? Transport.Limits.DEFAULT.connectMillis() : connectMillis;
        firstByteMillis = firstByteMillis == null ? Transport.Limits.DEFAULT.firstByteMillis() : firstByteMillis;
        wholeMillis = wholeMillis == null ? Transport.Limits.DEFAULT.wholeMillis() : wholeMillis;
        failedWhen = failedWhen == null ? List.of() : List.copyOf(failedWhen);
        doubtfulFaults = doubtfulFaults == null ? List.of() : List.copyOf(doubtfulFaults);
    }

    /** Returns a delivery of an effect, so many calls at once. */
    public static Delivery of(Effect effect, int atOnce, Condition... conditions) {
        return new Delivery(effect, atOnce, null, null, null, null, null, List.of(conditions), null);
    }

    /** Tells whether the operation only reads. */
    public boolean reads() {
        return effect == Effect.READS;
    }

    /** Returns this delivery with faults that leave doubt. */
    public Delivery doubting(String... faults) {
        return new Delivery(
                effect,
                atOnce,
                strict,
                keep,
                connectMillis,
                firstByteMillis,
                wholeMillis,
                failedWhen,
                memorySeconds,
                List.of(faults));
    }

    /** Returns the time limits as the transport takes them. */
    public Transport.Limits limits() {
        return new Transport.Limits(connectMillis, firstByteMillis, wholeMillis, Transport.Limits.DEFAULT.maxBytes());
    }
}
