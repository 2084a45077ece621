package wirekettle.server.serve;

import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.Consumer;
import org.jboss.logging.Logger;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.run.Answer;
import wirekettle.core.flow.run.Failure;
import wirekettle.core.flow.run.LedgerLine;
import wirekettle.core.flow.run.Requests;
import wirekettle.core.record.InputReader;
import wirekettle.core.record.InputShape;
import wirekettle.core.value.Node;
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
    private static final int LATER = 10;
    private static final int SECONDS = 30;
    private static final int KILOBYTES = 1_000;
    private static final int TOGETHER = 500;
    private static final long LOOK_MILLIS = 100;

    /** What a served flow is worked with. */
    interface Engine {
        /** A run, and how its records are sent. */
        record Begun(long run, Requests requests) {}

        /** Returns a key that was made just now, null for none. */
        CallerKeyMapper.Known key(String hash);

        /** Begins a run. */
        Begun begin() throws IOException;

        /**
         * Keeps what was sent, all of it or nothing.
         *
         * @return for each null where it was taken, else what the caller gets
         */
        List<Reply> keep(long run, long first, List<Asked> sent);

        /** Forgets what was kept and not taken. */
        void forget(Asked asked);
    }

    /** Something sent; ended is told the end of its record, null where it has none here. */
    private record Sent(Asked asked, CompletableFuture<Reply> reply, Consumer<Reply> ended) {
        /** Tells the end of its record. */
        private void tell(Reply end) {
            ended.accept(end);
            reply.complete(end);
        }

        /** Tells what is said in the place of an end: it was not taken, or was before. */
        private void pass(Reply its) {
            ended.accept(null);
            reply.complete(its);
        }
    }

    private final TriggerMapper.Row trigger;
    private final TriggerSpec spec;
    private final Publication publication;
    private final Engine engine;
    private final InputReader reader;
    private final boolean flat;
    private final FlowFile file;
    private final CallerPace pace = new CallerPace();
    private final Remembered remembered;
    private final BlockingQueue<Sent> inbox = new LinkedBlockingQueue<>();
    private final AtomicInteger waiting = new AtomicInteger();
    private final Thread thread;
    private volatile boolean closed;
    private volatile boolean ended;
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
        this.file = file;
        this.remembered = new Remembered(spec.memorySeconds());
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

    long trigger() {
        return trigger.id();
    }

    TriggerSpec spec() {
        return spec;
    }

    /** Returns the environment it answers in. */
    String environment() {
        return trigger.environment();
    }

    /** Returns the revision that answers. */
    int revision() {
        return publication.revision();
    }

    /** Returns the flow that answers. */
    FlowFile file() {
        return file;
    }

    /** Returns what holds callers to their pace. */
    CallerPace pace() {
        return pace;
    }

    /** Returns the answers that are given again. */
    Remembered remembered() {
        return remembered;
    }

    /** Returns how large a request may be, in bytes. */
    long mostBytes() {
        return 1_000L * (spec.kilobytes() == null ? KILOBYTES : spec.kilobytes());
    }

    /** Tells whether a record can be given by named texts. */
    boolean flat() {
        return flat;
    }

    /** Returns the key of a hash, null where it is none that is known; one made just now is asked for. */
    CallerKeyMapper.Known key(String hash) {
        CallerKeyMapper.Known known = keys.get(hash);
        return known == null ? engine.key(hash) : known;
    }

    /** Tells whether a key is known without asking. */
    boolean knows(String hash) {
        return hash == null || keys.containsKey(hash);
    }

    /** Returns the business key of a record, null where the flow has none or it cannot be told. */
    String key(Node record) {
        String wire = file.source().map(ReadStage::key).orElse(null);
        if (wire == null || wire.isBlank()) {
            return null;
        }
        try {
            String variable = file.source().orElseThrow().as();
            return new Expressions().compile(wire, null).text(Scope.empty().with(variable, record));
        } catch (ExpressionProblem e) {
            return null;
        }
    }

    InputReader reader() {
        return reader;
    }

    /**
     * Answers a caller; the answer is there once the end of its record is durable, or its time is over.
     *
     * @param over run once nothing more becomes of what was sent
     */
    CompletableFuture<Reply> answer(Asked asked, Runnable over) {
        if (asked.later()) {
            // of those who do not wait, more may be on their way
            return timed(enter(asked, atOnce() * LATER, end -> over.run()));
        }
        CompletableFuture<Reply> reply = new CompletableFuture<>();
        if (!enter(reply, atOnce(), () -> over.run())) {
            return reply;
        }
        CompletableFuture<Reply> timed = timed(reply);
        timed.whenComplete((done, thrown) -> waiting.decrementAndGet());
        add(new Sent(asked, reply, end -> over.run()));
        return timed;
    }

    /**
     * Takes what a message asks, so many at one time as callers may wait.
     *
     * @param ended told the end of its record, null where it was not taken, or was before
     * @return what is said of it once it is kept, or cannot be: there is no end to the time that takes
     */
    CompletableFuture<Reply> take(Asked asked, Consumer<Reply> ended) {
        return enter(asked, atOnce(), ended);
    }

    private CompletableFuture<Reply> enter(Asked asked, int most, Consumer<Reply> told) {
        CompletableFuture<Reply> reply = new CompletableFuture<>();
        if (enter(reply, most, () -> told.accept(null))) {
            add(new Sent(asked, reply, end -> {
                waiting.decrementAndGet();
                told.accept(end);
            }));
        }
        return reply;
    }

    /** Counts one who waits, or says that there are too many. */
    private boolean enter(CompletableFuture<Reply> reply, int most, Runnable refused) {
        int before = waiting.getAndIncrement();
        if (before < most) {
            return true;
        }
        waiting.decrementAndGet();
        reply.complete(Reply.later(Reply.BUSY, before + " callers wait for an answer already."));
        refused.run();
        return false;
    }

    private int atOnce() {
        return spec.atOnce() == null ? AT_ONCE : spec.atOnce();
    }

    private CompletableFuture<Reply> timed(CompletableFuture<Reply> reply) {
        int seconds = spec.seconds() == null ? SECONDS : spec.seconds();
        return reply.completeOnTimeout(
                Reply.problem(
                        504,
                        "time-over",
                        "There was no answer within " + seconds + " seconds; the ledger says what became of it."),
                seconds,
                TimeUnit.SECONDS);
    }

    private void add(Sent sent) {
        inbox.add(sent);
        if (ended) {
            refuseLeft();
        }
    }

    private void refuseLeft() {
        for (Sent left = inbox.poll(); left != null; left = inbox.poll()) {
            left.pass(Reply.stopped());
        }
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
                pass(together, Reply.later(e.code(), e.getMessage()));
            } catch (IOException | RuntimeException e) {
                LOG.warnf("what was sent to “%s” could not be taken: %s", file.name(), e.getMessage());
                pass(together, Reply.later("not-taken", "It could not be taken just now."));
            }
            together.clear();
        }
        ended = true;
        refuseLeft();
        if (requests != null) {
            requests.finish();
        }
    }

    private void take(List<Sent> together) throws IOException {
        if (requests == null || requests.closed()) {
            Engine.Begun begun = engine.begin();
            requests = begun.requests();
            run = begun.run();
            ordinal = 0;
        }
        List<Reply> known;
        try {
            known = engine.keep(
                    run, ordinal + 1, together.stream().map(Sent::asked).toList());
        } catch (RuntimeException e) {
            // nobody knows whether it was kept: the places of this run are not used again
            requests.finish();
            throw e;
        }
        for (int i = 0; i < together.size(); i++) {
            if (known.get(i) == null) {
                send(together.get(i));
            } else {
                together.get(i).pass(known.get(i));
            }
        }
    }

    private void send(Sent sent) {
        ordinal++;
        Asked asked = sent.asked();
        String record = run + "/" + ordinal;
        boolean taken = requests.send(asked.input(), asked.problem(), new Requests.Waiting() {
            @Override
            public void ended(LedgerLine line, Answer answer) {
                if (line == null) {
                    sent.pass(Reply.stopped());
                } else {
                    sent.tell(reply(line, answer, record));
                }
            }

            @Override
            public String wrong(Answer answer) {
                return asked.fits().apply(answer);
            }

            @Override
            public boolean kept() {
                return asked.kept();
            }
        });
        if (!taken) {
            engine.forget(asked);
            sent.pass(Reply.stopped());
        } else if (asked.later()) {
            sent.reply().complete(Reply.taken(Asked.answer(asked.address(), asked.place()), record));
        }
    }

    private static Reply reply(LedgerLine line, Answer answer, String record) {
        Failure failure = line.failure();
        Reply.Why why =
                failure == null ? null : new Reply.Why(failure.failureClass(), failure.cause(), failure.message());
        return Reply.of(line.end(), why, answer, record);
    }

    private static void pass(List<Sent> all, Reply reply) {
        all.forEach(each -> each.pass(reply));
    }
}
