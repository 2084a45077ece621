package wirekettle.server.serve;

import java.io.IOException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import org.jboss.logging.Logger;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.run.Requests;
import wirekettle.core.record.InputReader;
import wirekettle.core.record.InputShape;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;
import wirekettle.server.publish.Publication;
import wirekettle.server.triggers.TriggerMapper;
import wirekettle.server.triggers.TriggerSpec;
import wirekettle.server.web.Problem;

/**
 * One revision of a flow that answers callers at a path. What they send is kept before it is worked on, that of many
 * in one write; the run whose records it is begins with the first of them. Safe for several threads.
 */
final class Served {
    private static final Logger LOG = Logger.getLogger(Served.class);
    private static final int AT_ONCE = 200;
    private static final int SECONDS = 30;
    private static final int KILOBYTES = 1_000;
    private static final int TOGETHER = 500;
    private static final long LOOK_MILLIS = 100;

    /** What a served flow is worked with. */
    interface Engine {
        /** Begins a run; returns its id. */
        long begin(Requests requests) throws IOException;

        /** Keeps what was sent, all of it or nothing. */
        void keep(long run, long first, List<Node> sent);
    }

    private record Sent(Node input, CompletableFuture<Reply> reply) {}

    private final TriggerMapper.Row trigger;
    private final TriggerSpec spec;
    private final Publication publication;
    private final Engine engine;
    private final InputReader reader;
    private final boolean flat;
    private final BlockingQueue<Sent> inbox = new LinkedBlockingQueue<>();
    private final AtomicInteger waiting = new AtomicInteger();
    private final Thread thread;
    private volatile boolean closed;
    private volatile Map<String, CallerKeyMapper.Known> keys;
    private Requests requests;
    private long run;
    private long ordinal;

    Served(
            TriggerMapper.Row trigger,
            TriggerSpec spec,
            Publication publication,
            FlowFile file,
            Map<String, CallerKeyMapper.Known> keys,
            Engine engine) {
        this.trigger = trigger;
        this.spec = spec;
        this.publication = publication;
        this.engine = engine;
        this.keys = keys;
        InputShape input = file.source().map(ReadStage::input).orElseThrow(Served::noInput);
        this.reader = new InputReader(input, file.source().orElseThrow().as());
        this.flat = InputReader.flat(input);
        this.thread = new Thread(this::work, "served-" + trigger.id());
        thread.setDaemon(true);
        thread.start();
    }

    private static Problem noInput() {
        return new Problem(503, "no-input", "The revision in force says nothing of what callers send.");
    }

    /** Tells whether it is still what is to be served. */
    boolean same(TriggerMapper.Row now, Publication inForce) {
        return now.version().equals(trigger.version()) && inForce.id() == publication.id();
    }

    void keys(Map<String, CallerKeyMapper.Known> now) {
        keys = now;
    }

    TriggerSpec spec() {
        return spec;
    }

    /** Returns how large a request may be, in bytes. */
    long mostBytes() {
        return 1_000L * (spec.kilobytes() == null ? KILOBYTES : spec.kilobytes());
    }

    /** Tells whether a record can be given by named texts. */
    boolean flat() {
        return flat;
    }

    /** Returns the key a caller shows, null where it is none that counts. */
    CallerKeyMapper.Known key(String hash, Instant now) {
        CallerKeyMapper.Known known = hash == null ? null : keys.get(hash);
        return known == null || known.endsAt() != null && !known.endsAt().isAfter(now) ? null : known;
    }

    InputReader reader() {
        return reader;
    }

    /** Answers a caller; the answer is there once the end of its record is durable, or its time is over. */
    CompletableFuture<Reply> answer(Node input) {
        int most = spec.atOnce() == null ? AT_ONCE : spec.atOnce();
        if (waiting.incrementAndGet() > most) {
            waiting.decrementAndGet();
            return CompletableFuture.completedFuture(
                    Reply.later("busy", most + " callers wait for an answer already."));
        }
        CompletableFuture<Reply> reply = new CompletableFuture<>();
        int seconds = spec.seconds() == null ? SECONDS : spec.seconds();
        CompletableFuture<Reply> timed = reply.completeOnTimeout(
                Reply.problem(
                        504,
                        "time-over",
                        "There was no answer within " + seconds + " seconds; the ledger says what became of it."),
                seconds,
                TimeUnit.SECONDS);
        timed.whenComplete((done, thrown) -> waiting.decrementAndGet());
        inbox.add(new Sent(input, reply));
        return timed;
    }

    /** Takes nothing more: what came is answered, then its run is done. */
    void close() {
        closed = true;
    }

    private void work() {
        List<Sent> together = new ArrayList<>();
        while (!closed || !inbox.isEmpty()) {
            try {
                Sent first = inbox.poll(LOOK_MILLIS, TimeUnit.MILLISECONDS);
                if (first != null) {
                    together.add(first);
                    inbox.drainTo(together, TOGETHER);
                    take(together);
                }
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                closed = true;
            } catch (Problem e) {
                tell(together, Reply.later(e.code(), e.getMessage()));
            } catch (IOException | RuntimeException e) {
                LOG.warnf("what callers sent to %s could not be taken: %s", spec.path(), e.getMessage());
                tell(together, Reply.later("not-taken", "It could not be taken just now."));
            }
            together.clear();
        }
        if (requests != null) {
            requests.finish();
        }
    }

    private void take(List<Sent> together) throws IOException {
        if (requests == null || requests.closed()) {
            requests = new Requests("callers");
            ordinal = 0;
            run = engine.begin(requests);
        }
        engine.keep(run, ordinal + 1, together.stream().map(Sent::input).toList());
        long its = run;
        for (Sent each : together) {
            ordinal++;
            boolean taken = requests.send(
                    each.input(), null, (line, answer) -> each.reply().complete(Reply.of(line, answer, its)));
            if (!taken) {
                each.reply().complete(Reply.of(null, null, its));
            }
        }
    }

    private static void tell(List<Sent> all, Reply reply) {
        all.forEach(each -> each.reply().complete(reply));
    }

    /** Returns a record as it is kept. */
    static String written(Node input) {
        return NodeWriter.write(input, false);
    }
}
