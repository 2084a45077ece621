package wirekettle.core.flow.run;

import com.fasterxml.jackson.annotation.JsonValue;
import java.time.Instant;
import java.util.List;
import java.util.Locale;

/**
 * One effect of a record: a call with all its tries.
 *
 * @param effect which one
 * @param outcome what became of it
 * @param changes whether it changes data
 * @param attempts every try
 * @param exchange the last exchange where the call's retention keeps it, or null
 */
public record Passage(Effect effect, Outcome outcome, boolean changes, List<Attempt> attempts, Exchange exchange) {
    /** What became of an effect. */
    public enum Outcome {
        /** It took place. */
        DONE,
        /** It did not take place. */
        NOT_DONE,
        /** It took place, and was taken back. */
        UNDONE,
        /** It is not known. */
        IN_DOUBT;

        /** Returns the word used in files and the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT).replace('_', '-');
        }
    }

    /**
     * One try.
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

        /** Returns how long its texts are, in bytes. */
        int bytes() {
            return (request == null ? 0 : request.length) + (reply == null ? 0 : reply.length);
        }
    }

    /** Returns this passage with another outcome. */
    Passage with(Outcome other) {
        return new Passage(effect, other, changes, attempts, exchange);
    }

    /** Returns a passage of which nothing more is known than what became of it. */
    static Passage bare(Effect effect, Outcome outcome) {
        return new Passage(effect, outcome, true, List.of(), null);
    }

    /** Returns the stage of the effect. */
    public String stage() {
        return effect.stage();
    }

    /** Returns this passage without what is kept of its exchange. */
    Passage unkept() {
        return exchange == null ? this : new Passage(effect, outcome, changes, attempts, null);
    }
}
