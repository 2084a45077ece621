package wirekettle.server.serve;

import io.quarkus.narayana.jta.QuarkusTransaction;
import io.quarkus.runtime.ShutdownEvent;
import jakarta.annotation.Priority;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.io.IOException;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Function;
import java.util.stream.Collectors;
import wirekettle.core.flow.run.Requests;
import wirekettle.core.value.Node;
import wirekettle.server.flows.FlowContext;
import wirekettle.server.ledger.LedgerTexts;
import wirekettle.server.ledger.RequestMapper;
import wirekettle.server.publish.Publication;
import wirekettle.server.publish.Publications;
import wirekettle.server.triggers.TriggerMapper;
import wirekettle.server.triggers.Triggers;

/** The flows that answer callers, by their paths: always the revision in force, in a run for each day. */
@ApplicationScoped
class ServedFlows {
    private static final long LOOK_NANOS = 1_000_000_000;

    @Inject
    TriggerMapper triggers;

    @Inject
    Triggers starts;

    @Inject
    Publications publications;

    @Inject
    CallerKeyMapper keys;

    @Inject
    RequestMapper requests;

    @Inject
    LedgerTexts texts;

    @Inject
    FlowContext context;

    private record Open(Served served, LocalDate day, long looked) {}

    private final Map<String, Open> open = new ConcurrentHashMap<>();

    /** Returns what answers at a path; null where nothing does. What is changed elsewhere is known within a second. */
    Served at(String path) {
        Open known = open.get(path);
        if (known != null && System.nanoTime() - known.looked() < LOOK_NANOS) {
            return known.served();
        }
        synchronized (this) {
            Open now = open.get(path);
            if (now == known) {
                now = looked(path, known);
            }
            return now == null ? null : now.served();
        }
    }

    private Open looked(String path, Open known) {
        TriggerMapper.Row trigger = triggers.atPath(path);
        Publication inForce = trigger == null ? null : publications.inForce(trigger.flowId(), trigger.environment());
        if (inForce == null) {
            open.remove(path);
            if (known != null) {
                known.served().close();
            }
            return null;
        }
        Map<String, CallerKeyMapper.Known> its = keys.known(trigger.id()).stream()
                .collect(Collectors.toMap(CallerKeyMapper.Known::hash, Function.identity()));
        LocalDate day = LocalDate.ofInstant(context.clock().instant(), ZoneOffset.UTC);
        Served served;
        if (known != null && known.day().equals(day) && known.served().same(trigger, inForce)) {
            served = known.served();
            served.keys(its);
        } else {
            if (known != null) {
                known.served().close();
            }
            served = new Served(
                    trigger, Triggers.spec(trigger), inForce, publications.file(inForce), its, engine(trigger));
        }
        Open now = new Open(served, day, System.nanoTime());
        open.put(path, now);
        return now;
    }

    private Served.Engine engine(TriggerMapper.Row trigger) {
        return new Served.Engine() {
            @Override
            public long begin(Requests its) throws IOException {
                return starts.answer(trigger, its);
            }

            @Override
            public void keep(long run, long first, List<Node> sent) {
                List<RequestMapper.Row> rows = new ArrayList<>();
                for (int i = 0; i < sent.size(); i++) {
                    rows.add(new RequestMapper.Row(first + i, texts.sealed(Served.written(sent.get(i)))));
                }
                QuarkusTransaction.requiringNew().run(() -> requests.keep(run, rows));
            }
        };
    }

    /** Ends what is served before the runs of this server end. */
    void stopping(@Observes @Priority(1) ShutdownEvent event) {
        open.values().forEach(each -> each.served().close());
    }
}
