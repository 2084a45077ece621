package wirekettle.server.bench;

import io.quarkus.runtime.StartupEvent;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.nio.charset.StandardCharsets;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import wirekettle.connect.HttpTransport;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.Transport;
import wirekettle.server.settings.Hosts;
import wirekettle.server.web.Json;

/** Calls going on at the bench: each in a thread of its own, so that it can be cancelled, and kept when it ends. */
@ApplicationScoped
public class BenchCalls {
    /** How much of a reply is kept, in characters. */
    private static final int MOST_KEPT = 2_000_000;

    @Inject
    BenchMapper mapper;

    @Inject
    Hosts hosts;

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
    public void send(long id, Offered offered, String address, String text) {
        Caller caller = Caller.of(new HttpTransport(hosts), address, offered, Transport.Limits.DEFAULT);
        going.put(id, threads.submit(() -> work(id, caller, text)));
    }

    private void work(long id, Caller caller, String text) {
        long start = System.nanoTime();
        try {
            Caller.Result result = caller.call(text.getBytes(StandardCharsets.UTF_8));
            Transport.Answer answer = result.answer();
            CallFailure failure = result.failure();
            boolean cancelled = failure != null && failure.causeLabel().equals("cancelled");
            String reply =
                    answer == null ? null : new String(answer.body(), StandardCharsets.UTF_8).replace("\u0000", "");
            mapper.end(
                    id,
                    cancelled ? "cancelled" : failure == null ? "done" : "failed",
                    answer == null ? 0 : answer.status(),
                    Json.write(answer == null ? Map.of() : answer.headers()),
                    reply == null || reply.length() <= MOST_KEPT ? reply : reply.substring(0, MOST_KEPT),
                    answer == null ? 0 : answer.body().length,
                    failure == null ? null : failure.getMessage(),
                    (System.nanoTime() - start) / 1_000_000);
        } catch (RuntimeException e) {
            long millis = (System.nanoTime() - start) / 1_000_000;
            mapper.end(id, "failed", 0, "{}", null, 0, "the call failed: " + e.getMessage(), millis);
        } finally {
            going.remove(id);
        }
    }

    /** Ends a call that is going on. */
    public void cancel(long id) {
        Future<?> call = going.get(id);
        if (call != null) {
            call.cancel(true);
        }
    }
}
