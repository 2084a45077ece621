package wirekettle.server.serve;

import java.util.function.Function;
import wirekettle.core.flow.run.Answer;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;
import wirekettle.server.signin.Tokens;

/**
 * What a caller asked.
 *
 * @param input the record
 * @param problem why it ends rejected without any work, null where it is worked on
 * @param caller the name of the key it showed, empty for none
 * @param address the path it asked
 * @param named its own name for what it sent (Idempotency-Key), or null
 * @param later whether it does not wait
 * @param place where the answer is asked for later, null for nowhere
 * @param replyTo the queue the answer is sent to, or null
 * @param correlation what a sent answer says it answers, or null
 * @param fits says what is wrong with an answer, null where it will do
 */
record Asked(
        Node input,
        String problem,
        String caller,
        String address,
        String named,
        boolean later,
        String place,
        String replyTo,
        String correlation,
        Function<Answer, String> fits) {
    /** The segment before the places of answers. */
    static final String ANSWERS = "answers";

    static Asked of(Node input, String caller, String address, String named, boolean later) {
        String place = later || named != null ? Tokens.random() : null;
        return new Asked(input, null, caller, address, named, later, place, null, null, answer -> null);
    }

    /**
     * Returns what a message asks.
     *
     * @param named the message's own name
     * @param problem why it is rejected, or null
     */
    static Asked message(Node input, String problem, String named, String replyTo, String correlation) {
        return new Asked(
                input,
                problem,
                "",
                "",
                named,
                true,
                Tokens.random(),
                replyTo,
                replyTo == null ? null : correlation,
                answer -> null);
    }

    /** Returns this with what says whether an answer will do. */
    Asked fitting(Function<Answer, String> other) {
        return new Asked(input, problem, caller, address, named, later, place, replyTo, correlation, other);
    }

    /** Tells whether its answer is kept. */
    boolean kept() {
        return place != null;
    }

    /** Returns the record as it is kept. */
    String written() {
        return NodeWriter.write(input, false);
    }

    /** Returns a hash of what was sent: how a document was laid out does not matter. */
    String hash() {
        return Tokens.hash(written());
    }

    /** Returns the address of an answer that is asked for later. */
    static String answer(String address, String place) {
        return address + "/" + ANSWERS + "/" + place;
    }
}
