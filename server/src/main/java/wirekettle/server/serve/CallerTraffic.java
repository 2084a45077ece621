package wirekettle.server.serve;

import io.quarkus.narayana.jta.QuarkusTransaction;
import io.quarkus.runtime.ShutdownEvent;
import io.quarkus.runtime.StartupEvent;
import jakarta.annotation.Priority;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.jboss.logging.Logger;
import wirekettle.server.ledger.AnswerTimes;
import wirekettle.server.ledger.KeptAnswerMapper;

/** Counts what callers ask and get, minute by minute, and forgets what is old. */
@ApplicationScoped
class CallerTraffic {
    private static final Logger LOG = Logger.getLogger(CallerTraffic.class);
    private static final int LAST = 9_700;
    private static final int WRITE_SECONDS = 2;
    private static final int FORGET_EVERY = 300;

    @Inject
    TrafficMapper mapper;

    @Inject
    CallerKeyMapper keys;

    @Inject
    KeptAnswerMapper kept;

    private record Place(long trigger, Instant minute, String caller, int status) {}

    private final ScheduledExecutorService thread = Executors.newSingleThreadScheduledExecutor(task -> {
        Thread its = new Thread(task, "caller-traffic");
        its.setDaemon(true);
        return its;
    });
    private Map<Place, Long[]> counts = new HashMap<>();
    private int written;

    void begin(@Observes @Priority(LAST) StartupEvent start) {
        thread.scheduleWithFixedDelay(this::write, WRITE_SECONDS, WRITE_SECONDS, TimeUnit.SECONDS);
    }

    void end(@Observes ShutdownEvent stop) {
        thread.shutdown();
        write();
    }

    /** Counts an answer. */
    synchronized void count(long trigger, String caller, int status, long nanos) {
        Place place = new Place(trigger, Instant.now().truncatedTo(ChronoUnit.MINUTES), caller, status);
        counts.computeIfAbsent(place, its -> AnswerTimes.none())[
                AnswerTimes.place(TimeUnit.NANOSECONDS.toMillis(nanos))]++;
    }

    private synchronized Map<Place, Long[]> taken() {
        Map<Place, Long[]> all = counts;
        counts = new HashMap<>();
        return all;
    }

    private void write() {
        Map<Place, Long[]> all = taken();
        try {
            if (!all.isEmpty()) {
                QuarkusTransaction.requiringNew().run(() -> write(all));
            }
            if (written++ % FORGET_EVERY == 0) {
                mapper.forgetOld();
                kept.forgetOld();
            }
        } catch (RuntimeException e) {
            LOG.warnf("what callers asked could not be counted: %s", e.getMessage());
        }
    }

    private void write(Map<Place, Long[]> all) {
        Set<List<Object>> used = new HashSet<>();
        Set<Long> there = new HashSet<>(mapper.there());
        all.forEach((place, answered) -> {
            if (there.contains(place.trigger())) {
                mapper.add(
                        place.trigger(), place.minute(), place.caller(), place.status(), AnswerTimes.array(answered));
                used.add(List.of(place.trigger(), place.caller()));
            }
        });
        used.forEach(each -> keys.used((Long) each.get(0), (String) each.get(1)));
    }
}
