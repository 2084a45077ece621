package wirekettle.server.serve;

import io.quarkus.runtime.ShutdownEvent;
import jakarta.annotation.Priority;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.io.IOException;
import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.Function;
import java.util.stream.Collectors;
import wirekettle.core.contract.Contract;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.run.Requests;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.environments.Environments;
import wirekettle.server.flows.FlowContext;
import wirekettle.server.ledger.KeptAnswers;
import wirekettle.server.publish.Publication;
import wirekettle.server.publish.Publications;
import wirekettle.server.runs.Runner;
import wirekettle.server.settings.Endpoints;
import wirekettle.server.triggers.CallerPath;
import wirekettle.server.triggers.TriggerMapper;
import wirekettle.server.triggers.TriggerSpec;
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
    CallerAnswers answers;

    @Inject
    KeptAnswers kept;

    @Inject
    FlowContext context;

    @Inject
    Environments environments;

    @Inject
    ContractStore contracts;

    @Inject
    Endpoints endpoints;

    /** A flow that answers, and what of a record its address says. */
    record Found(Served served, Map<String, List<String>> values) {}

    /** Where a flow answers, and where as SOAP, null for nowhere. */
    private record Route(CallerPath path, String soap, TriggerMapper.Row trigger) {
        private static Route of(TriggerMapper.Row row) {
            TriggerSpec spec = Triggers.spec(row);
            return new Route(CallerPath.of(spec.path()), spec.soapAddress(), row);
        }
    }

    private record Routes(List<Route> all, long looked) {}

    /**
     * What is served.
     *
     * @param begun what its run began with: the day, the environment, how the endpoints are reached
     */
    private record Open(Served served, List<Object> begun, long looked) {}

    /** A SOAP service, and the flows it was made of. */
    private record SoapMade(List<Served> made, SoapAddress address) {}

    private final Map<Long, Open> open = new ConcurrentHashMap<>();
    private final Map<String, SoapMade> soap = new ConcurrentHashMap<>();
    private volatile Routes routes;

    /**
     * Returns what answers at a path; null where nothing does. A path that is new is known at once, what is changed
     * elsewhere within a second.
     */
    Found at(String path) {
        List<String> segments = segments(path);
        Routes known = routes;
        boolean old = known == null || old(known.looked());
        Found found = nearest(old ? looked(known) : known.all(), segments, this::open);
        return found == null && !old ? nearest(looked(known), segments, this::open) : found;
    }

    /**
     * Returns what answers at a path where that was looked up within the last second, null where it has to be asked:
     * does not wait.
     */
    Found known(String path) {
        Routes known = routes;
        if (known == null || old(known.looked())) {
            return null;
        }
        return nearest(known.all(), segments(path), trigger -> {
            Open its = open.get(trigger.id());
            return its == null || old(its.looked()) ? null : its.served();
        });
    }

    private static boolean old(long looked) {
        return System.nanoTime() - looked >= LOOK_NANOS;
    }

    private static Found nearest(List<Route> all, List<String> segments, Function<TriggerMapper.Row, Served> opening) {
        Route nearest = null;
        Map<String, List<String>> values = null;
        for (Route each : all) {
            boolean nearer =
                    nearest == null || each.path().literals() > nearest.path().literals();
            Map<String, List<String>> its = nearer ? each.path().values(segments) : null;
            if (its != null) {
                nearest = each;
                values = its;
            }
        }
        Served served = nearest == null ? null : opening.apply(nearest.trigger());
        return served == null ? null : new Found(served, values);
    }

    private static List<String> segments(String path) {
        try {
            return Arrays.stream(path.split("/", -1))
                    .map(each -> URLDecoder.decode(each.replace("+", "%2B"), StandardCharsets.UTF_8))
                    .toList();
        } catch (IllegalArgumentException e) {
            return List.of();
        }
    }

    /** Returns the SOAP service at a path; null where there is none. What is changed is known within a second. */
    SoapAddress soap(String path) {
        Routes known = routes;
        List<Route> all = known == null || old(known.looked()) ? looked(known) : known.all();
        List<Served> its = new ArrayList<>();
        for (Route each : all) {
            if (path.equals(each.soap())) {
                Served served = open(each.trigger());
                if (served != null) {
                    its.add(served);
                }
            }
        }
        if (its.isEmpty()) {
            soap.remove(path);
            return null;
        }
        its.sort(Comparator.comparingLong(Served::trigger));
        return soap.compute(
                        path,
                        (at, before) -> before != null
                                        && before.made().equals(its)
                                        && (before.address() == null
                                                || before.address().own()
                                                || before.address().contract() == contract(its))
                                ? before
                                : new SoapMade(its, SoapAddress.of(path, its, contracts::byName)))
                .address();
    }

    private Contract contract(List<Served> its) {
        return contracts.byName(its.get(0).spec().soap().contract());
    }

    private synchronized List<Route> looked(Routes known) {
        if (routes == known) {
            routes = new Routes(looked(), System.nanoTime());
        }
        return routes.all();
    }

    private List<Route> looked() {
        List<Route> all =
                triggers.active(Runner.Begun.CALLERS).stream().map(Route::of).toList();
        Set<Long> there = all.stream().map(each -> each.trigger().id()).collect(Collectors.toSet());
        triggers.active(Runner.Begun.QUEUE).forEach(each -> there.add(each.id()));
        for (Long each : List.copyOf(open.keySet())) {
            if (!there.contains(each)) {
                open.remove(each).served().close();
            }
        }
        return all;
    }

    /** Ends what answers for a trigger that does not begin anything any more: what came is answered. */
    synchronized void leave(long trigger) {
        Open its = open.remove(trigger);
        if (its != null) {
            its.served().close();
        }
    }

    /** Returns what answers for a trigger, null where nothing of its flow is in force. */
    Served of(TriggerMapper.Row trigger) {
        return open(trigger);
    }

    private Served open(TriggerMapper.Row trigger) {
        Open known = open.get(trigger.id());
        if (known == null || old(known.looked())) {
            synchronized (this) {
                if (open.get(trigger.id()) == known) {
                    known = opened(trigger, known);
                } else {
                    known = open.get(trigger.id());
                }
            }
        }
        return known == null ? null : known.served();
    }

    private Open opened(TriggerMapper.Row trigger, Open known) {
        Publication inForce = publications.inForce(trigger.flowId(), trigger.environment());
        if (inForce == null) {
            open.remove(trigger.id());
            if (known != null) {
                known.served().close();
            }
            return null;
        }
        Map<String, CallerKeyMapper.Known> its = keys.known(trigger.id()).stream()
                .collect(Collectors.toMap(CallerKeyMapper.Known::hash, Function.identity()));
        FlowFile file = publications.file(inForce);
        List<Object> begun = begun(file, trigger.environment());
        Served served;
        if (known != null && known.begun().equals(begun) && known.served().same(trigger, inForce)) {
            served = known.served();
            served.keys(its);
        } else {
            if (known != null) {
                known.served().close();
            }
            served = new Served(trigger, Triggers.spec(trigger), inForce, file, its, engine(trigger));
        }
        Open now = new Open(served, begun, System.nanoTime());
        open.put(trigger.id(), now);
        return now;
    }

    /** A run reaches endpoints as it did when it began: where one is reached otherwise now, another begins. */
    private List<Object> begun(FlowFile file, String environment) {
        List<Object> all = new ArrayList<>();
        all.add(LocalDate.ofInstant(context.clock().instant(), ZoneOffset.UTC));
        all.add(environments.named(environment));
        file.all(CallStage.class).stream()
                .map(CallStage::endpoint)
                .distinct()
                .forEach(name -> all.add(endpoints.state(name, environment)));
        return all;
    }

    private Served.Engine engine(TriggerMapper.Row trigger) {
        return new Served.Engine() {
            @Override
            public CallerKeyMapper.Known key(String hash) {
                return keys.shown(trigger.id(), hash);
            }

            @Override
            public Begun begin() throws IOException {
                AtomicLong run = new AtomicLong();
                Requests its = new Requests(
                        trigger.kind().equals(Runner.Begun.QUEUE) ? "messages" : "callers",
                        endings -> kept.of(run.get()).keep(endings));
                run.set(starts.answer(trigger, its));
                return new Begun(run.get(), its);
            }

            @Override
            public List<Reply> keep(long run, long first, List<Asked> sent) {
                return answers.keep(trigger.id(), run, first, sent);
            }

            @Override
            public void forget(Asked asked) {
                answers.forget(asked);
            }
        };
    }

    /** Ends what is served before the runs of this server end. */
    void stopping(@Observes @Priority(1) ShutdownEvent event) {
        open.values().forEach(each -> each.served().close());
    }
}
