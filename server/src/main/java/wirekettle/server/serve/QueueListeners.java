package wirekettle.server.serve;

import io.quarkus.runtime.ShutdownEvent;
import io.quarkus.runtime.StartupEvent;
import jakarta.annotation.Priority;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import org.jboss.logging.Logger;
import wirekettle.connect.queue.Broker;
import wirekettle.server.runs.Runner;
import wirekettle.server.settings.Endpoints;
import wirekettle.server.triggers.TriggerMapper;
import wirekettle.server.triggers.TriggerSpec;
import wirekettle.server.triggers.Triggers;

/** The queues that triggers take messages from: each is read while a revision of its flow is in force. */
@ApplicationScoped
class QueueListeners {
    private static final Logger LOG = Logger.getLogger(QueueListeners.class);
    private static final int LAST = 9_800;
    private static final long LOOK_SECONDS = 1;
    private static final long FAREWELL_MILLIS = 3_000;
    private static final String CALLER = "queue";

    @Inject
    TriggerMapper triggers;

    @Inject
    Triggers starts;

    @Inject
    ServedFlows flows;

    @Inject
    CallerAnswers answers;

    @Inject
    CallerTraffic traffic;

    @Inject
    Endpoints endpoints;

    /** What a queue is read by, and what that began with. */
    private record Open(List<Object> begun, QueueListener listener, QueueAnswers answers) {
        private void close() {
            listener.close();
            answers.close();
        }
    }

    private final HeldBytes held = new HeldBytes();
    private final Map<Long, Open> open = new HashMap<>();
    private final ScheduledExecutorService thread = Executors.newSingleThreadScheduledExecutor(task -> {
        Thread its = new Thread(task, "queues");
        its.setDaemon(true);
        return its;
    });

    void begin(@Observes @Priority(LAST) StartupEvent start) {
        thread.scheduleWithFixedDelay(this::look, 0, LOOK_SECONDS, TimeUnit.SECONDS);
    }

    /** Lets the queues go before what works on their messages ends. */
    void stopping(@Observes @Priority(0) ShutdownEvent event) throws InterruptedException {
        thread.shutdownNow();
        thread.awaitTermination(FAREWELL_MILLIS, TimeUnit.MILLISECONDS);
        open.values().forEach(Open::close);
        for (Open each : open.values()) {
            each.listener().closed(FAREWELL_MILLIS);
        }
    }

    private void look() {
        try {
            List<TriggerMapper.Row> active = triggers.active(Runner.Begun.QUEUE);
            Set<Long> there = active.stream().map(TriggerMapper.Row::id).collect(Collectors.toSet());
            for (Long each : List.copyOf(open.keySet())) {
                if (!there.contains(each)) {
                    open.remove(each).close();
                    flows.leave(each);
                }
            }
            active.forEach(this::look);
        } catch (RuntimeException e) {
            LOG.debugf("queues are looked after again in a moment: %s", e.getMessage());
        }
    }

    private void look(TriggerMapper.Row trigger) {
        TriggerSpec spec = Triggers.spec(trigger);
        // a broker that is reached otherwise now, or a trigger that was changed, is begun with anew
        List<Object> begun =
                List.of(trigger.version(), endpoints.state(spec.queue().endpoint(), trigger.environment()));
        Open known = open.get(trigger.id());
        if (known != null && known.begun().equals(begun)) {
            return;
        }
        if (known != null) {
            known.close();
        }
        QueueAnswers its = new QueueAnswers(trigger.id(), sending(trigger, spec));
        QueueListener listener = new QueueListener(
                trigger.id(), spec.queue().name(), new MessageInput(spec), reading(trigger, spec, its));
        open.put(trigger.id(), new Open(begun, listener, its));
    }

    private Broker broker(TriggerMapper.Row trigger, TriggerSpec spec) {
        return endpoints.broker(spec.queue().endpoint(), trigger.environment());
    }

    private QueueAnswers.Engine sending(TriggerMapper.Row trigger, TriggerSpec spec) {
        return new QueueAnswers.Engine() {
            @Override
            public Broker broker() {
                return QueueListeners.this.broker(trigger, spec);
            }

            @Override
            public List<QueueAnswers.Owed> owed(int most, Predicate<String> passed) {
                return answers.owed(trigger.id(), most, passed);
            }

            @Override
            public void sent(List<String> places) {
                answers.sent(places);
            }
        };
    }

    private QueueListener.Engine reading(TriggerMapper.Row trigger, TriggerSpec spec, QueueAnswers its) {
        return new QueueListener.Engine() {
            @Override
            public Broker broker() {
                return QueueListeners.this.broker(trigger, spec);
            }

            @Override
            public Served served() {
                return flows.of(trigger);
            }

            @Override
            public void taking(Asked asked) {
                its.expect(asked.place());
            }

            @Override
            public void ended(Asked asked, Reply reply, long nanos) {
                if (reply == null) {
                    its.pass(asked.place());
                    return;
                }
                traffic.count(trigger.id(), CALLER, reply.status(), nanos);
                if (asked.replyTo() == null) {
                    its.pass(asked.place());
                } else {
                    its.send(new QueueAnswers.Owed(asked.place(), asked.replyTo(), asked.correlation(), reply));
                }
            }

            @Override
            public void reading() {
                triggers.event(trigger.id(), "reading", "", null);
            }

            @Override
            public void away(String why) {
                starts.refuse(trigger, why);
            }

            @Override
            public boolean hold(long bytes) {
                return held.take(bytes);
            }

            @Override
            public void give(long bytes) {
                held.give(bytes);
            }
        };
    }
}
