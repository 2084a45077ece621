package wirekettle.server.triggers;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.List;
import wirekettle.server.settings.Endpoints;
import wirekettle.server.web.Problem;

/** Checks from which queue a flow takes messages, and how. */
@ApplicationScoped
public class QueueChecks {
    private static final int MOST_MESSAGES = 2_000;
    private static final int MOST_KILOBYTES = 20_000;
    private static final int MOST_HOURS = 720;
    private static final int MOST_DELIVERIES = 1_000;
    private static final int LONGEST_NAME = 400;

    @Inject
    TriggerMapper mapper;

    @Inject
    Endpoints endpoints;

    /**
     * Checks what a trigger says of a queue.
     *
     * @param id the trigger, 0 for a new one
     * @throws Problem with what is wrong
     */
    void check(long id, String environment, TriggerSpec spec) {
        TriggerSpec.Queue queue = spec.queue();
        if (queue == null || queue.endpoint() == null || queue.name() == null) {
            throw new Problem(400, "no-queue", "Say which endpoint is the broker, and which of its queues is read.");
        }
        name(queue.name());
        if (queue.answers() != null) {
            name(queue.answers());
            if (queue.answers().equals(queue.name())) {
                throw new Problem(
                        400,
                        "same-queue",
                        "Answers in the queue that is read would be taken for messages: name another.");
            }
        }
        endpoints.broker(queue.endpoint(), environment);
        for (TriggerMapper.Row other : mapper.ofKind("queue")) {
            TriggerSpec.Queue its = Triggers.spec(other).queue();
            if (other.id() != id
                    && other.environment().equals(environment)
                    && its.endpoint().equals(queue.endpoint())
                    && its.name().equals(queue.name())) {
                throw new Problem(
                        409,
                        "queue-taken",
                        "“" + other.flowName() + "” takes the messages of " + queue.name() + " in " + environment
                                + " already: each would get some of them.");
            }
        }
        CallerChecks.within("messages at once", spec.atOnce(), MOST_MESSAGES);
        CallerChecks.within("kilobytes", spec.kilobytes(), MOST_KILOBYTES);
        CallerChecks.within("hours a message is known", spec.keepHours(), MOST_HOURS);
        CallerChecks.within("deliveries", queue.deliveries(), MOST_DELIVERIES);
        for (TriggerSpec.HeaderField each :
                spec.headers() == null ? List.<TriggerSpec.HeaderField>of() : spec.headers()) {
            if (each.header() == null
                    || each.header().isBlank()
                    || each.field() == null
                    || each.field().isBlank()) {
                throw new Problem(400, "bad-property", "A property has a name, and the field it is.");
            }
        }
    }

    private static void name(String queue) {
        if (queue.isBlank() || queue.length() > LONGEST_NAME || queue.matches("(?s).*[\\p{Cntrl}].*")) {
            throw new Problem(
                    400, "bad-queue", "A queue has a name of at most " + LONGEST_NAME + " characters on one line.");
        }
    }
}
