package wirekettle.server.bench;

import io.quarkus.runtime.StartupEvent;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.nio.charset.StandardCharsets;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.jboss.logging.Logger;
import wirekettle.connect.Probe;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.CallRoom;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.soap.Transport;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.soap.security.Masking;
import wirekettle.server.hosts.Hosts;
import wirekettle.server.settings.Endpoints;
import wirekettle.server.web.Json;

/** Calls going on at the bench: each in a thread of its own, so that it can be cancelled, and kept when it ends. */
@ApplicationScoped
public class BenchCalls {
    private static final Logger LOG = Logger.getLogger(BenchCalls.class);

    /** How much of a reply is kept, in characters. */
    private static final int MOST_KEPT = 2_000_000;

    private static final int MOST_ATTACHMENTS = 100;

    @Inject
    BenchMapper mapper;

    @Inject
    Hosts hosts;

    @Inject
    MemoryBudget memory;

    private final ExecutorService threads = Executors.newFixedThreadPool(16, task -> {
        Thread thread = new Thread(task, "bench");
        thread.setDaemon(true);
        return thread;
    });
    private final Map<Long, Future<?>> going = new ConcurrentHashMap<>();

    void started(@Observes StartupEvent event) {
        mapper.interrupted();
    }

    /** Sends a text as it is; what comes back is kept under the call's id. */
    public void send(long id, Contract contract, Offered offered, Endpoints.Route route, String text) {
        Caller caller = Caller.of(route.transport(), route.reach(), contract, offered, Transport.Limits.DEFAULT);
        going.put(id, threads.submit(() -> work(id, caller, route, text)));
    }

    private void work(long id, Caller caller, Endpoints.Route route, String text) {
        long start = System.nanoTime();
        try (MemoryBudget.Share share = memory.share()) {
            Caller.Result result = caller.call(text.getBytes(StandardCharsets.UTF_8), new CallRoom(null, share));
            keep(id, result, route.reach().masking(), (System.nanoTime() - start) / 1_000_000);
        } catch (RuntimeException e) {
            LOG.error("a bench call failed", e);
            long millis = (System.nanoTime() - start) / 1_000_000;
            String why = "something went wrong in this server; it is in its log";
            mapper.end(id, new BenchMapper.End("failed", 0, "{}", null, 0, why, null, null, millis, null, null, "{}"));
        } finally {
            going.remove(id);
        }
    }

    private void keep(long id, Caller.Result result, Masking masking, long millis) {
        Transport.Answer answer = result.answer();
        CallFailure failure = result.failure();
        boolean cancelled = failure != null && failure.causeLabel().equals("cancelled");
        for (int i = 0; i < result.attachments().size() && i < MOST_ATTACHMENTS; i++) {
            Part part = result.attachments().get(i);
            mapper.attach(id, i, part.id(), part.type(), part.bytes());
        }
        mapper.end(
                id,
                new BenchMapper.End(
                        cancelled ? "cancelled" : failure == null ? "done" : "failed",
                        answer == null ? 0 : answer.status(),
                        headers(answer == null ? Map.of() : answer.headers(), masking),
                        kept(result.received()),
                        answer == null ? 0 : answer.body().length,
                        failure == null ? null : failure.getMessage().replace('\u0000', ' '),
                        failure == null ? null : failure.causeLabel(),
                        result.note(),
                        answer == null ? millis : answer.millis(),
                        answer == null ? null : answer.firstByteMillis(),
                        kept(result.sent()),
                        Json.write(answer == null ? Map.of() : answer.sentHeaders())));
    }

    private static String kept(byte[] text) {
        if (text == null) {
            return null;
        }
        String whole =
                new String(text, 0, Math.min(text.length, 4 * MOST_KEPT), StandardCharsets.UTF_8).replace("\u0000", "");
        return whole.length() <= MOST_KEPT ? whole : whole.substring(0, MOST_KEPT);
    }

    private static String headers(Map<String, String> headers, Masking masking) {
        Map<String, String> shown = new TreeMap<>();
        // a cookie may be as good as a password
        headers.forEach(
                (name, value) -> shown.put(name, name.equals("set-cookie") ? Masking.MASK : masking.mask(value)));
        return Json.write(shown);
    }

    /** Makes a connection of its own to see how long name, connection and TLS take. */
    void probe(long id, Endpoints.Route route) {
        threads.submit(() -> {
            try {
                Probe probe = Probe.of(
                        hosts,
                        route.reach(),
                        route.reach()
                                .settings()
                                .limits(Transport.Limits.DEFAULT)
                                .connectMillis());
                mapper.probed(id, probe.millis("name"), probe.millis("connect"), probe.millis("tls"));
            } catch (RuntimeException e) {
                LOG.warnf("a probe failed: %s", e.getMessage());
            }
        });
    }

    /** Ends a call that is going on. */
    public void cancel(long id) {
        Future<?> call = going.get(id);
        if (call != null) {
            call.cancel(true);
        }
    }
}
