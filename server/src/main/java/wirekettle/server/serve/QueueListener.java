package wirekettle.server.serve;

import java.io.IOException;
import java.util.ArrayList;
import java.util.Iterator;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.jboss.logging.Logger;
import wirekettle.connect.queue.Broker;
import wirekettle.connect.queue.QueueMessage;
import wirekettle.connect.queue.QueueReader;
import wirekettle.server.signin.Tokens;

/**
 * Takes the messages of a queue for a trigger. A message is accepted once it is kept: what is not kept yet, because too
 * many are worked on, the database is away or the server ends, belongs to the queue.
 */
final class QueueListener {
    private static final Logger LOG = Logger.getLogger(QueueListener.class);
    private static final int TOGETHER = 100;
    private static final long LOOK_MILLIS = 200;
    private static final long BUSY_MILLIS = 100;
    private static final long FIRST_WAIT_MILLIS = 500;
    private static final long LONGEST_WAIT_MILLIS = 15_000;
    private static final long MOMENT_NANOS = TimeUnit.SECONDS.toNanos(5);
    private static final int TAKEN_TWICE = 409;
    private static final int NOT_TAKEN = 503;

    /** What a listener is told by, and tells. */
    interface Engine {
        /** Returns how the broker is reached. */
        Broker broker();

        /** Returns what works on messages, null where nothing does at the moment. */
        Served served();

        /** Is told what is about to be kept. */
        void taking(Asked asked);

        /** Takes what is said of a message in the end, null where it was not taken, or was before. */
        void ended(Asked asked, Reply reply, long nanos);

        /** Is told that the queue is read. */
        void reading();

        /** Is told that nothing is taken from it, and why. */
        void away(String why);

        /** Tells whether so much more may be held. */
        boolean hold(long bytes);

        /** Is told that so much is not held any more. */
        void give(long bytes);
    }

    /** A message that is not accepted yet. */
    private static final class Held {
        private final QueueReader.Given given;
        /** Its own name, or one for this delivery: what has none cannot be known when it comes again. */
        private String name;

        private String problem;
        private CompletableFuture<Reply> kept;

        private Held(QueueReader.Given given) {
            this.given = given;
            String id = given.message().id();
            this.name = id == null ? "unnamed " + Tokens.random() : id;
        }
    }

    private final String queue;
    private final MessageInput input;
    private final Engine engine;
    private final Thread thread;
    private final CountDownLatch closing = new CountDownLatch(1);
    private boolean told;
    private long refusedSince;
    private boolean reads;

    QueueListener(long trigger, String queue, MessageInput input, Engine engine) {
        this.queue = queue;
        this.input = input;
        this.engine = engine;
        this.thread = new Thread(this::work, "queue-" + trigger);
        thread.setDaemon(true);
        thread.start();
    }

    /** Takes nothing more; what was not accepted goes back to the queue. */
    void close() {
        closing.countDown();
    }

    /** Waits until it has let the queue go. */
    void closed(long millis) throws InterruptedException {
        thread.join(millis);
    }

    private boolean pause(long millis) {
        try {
            return closing.await(millis, TimeUnit.MILLISECONDS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return true;
        }
    }

    private void work() {
        long wait = FIRST_WAIT_MILLIS;
        boolean over = false;
        while (!over) {
            reads = false;
            try {
                if (served() != null) {
                    read();
                }
                wait = FIRST_WAIT_MILLIS;
            } catch (IOException | RuntimeException e) {
                LOG.debugf(e, "the queue %s cannot be read", queue);
                away(String.valueOf(e.getMessage()));
                wait = reads ? FIRST_WAIT_MILLIS : Math.min(2 * wait, LONGEST_WAIT_MILLIS);
            }
            over = pause(wait);
        }
    }

    private void away(String why) {
        try {
            if (!told) {
                engine.away(why);
                told = true;
            }
        } catch (RuntimeException e) {
            LOG.debugf("that %s cannot be read is said later: %s", queue, e.getMessage());
        }
    }

    /** What is refused for longer than a moment is told: nothing but the queue would show that messages wait. */
    private void refused(String why) {
        long now = System.nanoTime();
        refusedSince = refusedSince == 0 ? now : refusedSince;
        if (now - refusedSince > MOMENT_NANOS) {
            away(why);
        }
    }

    /** Reads until there is nothing that works on messages, or the queue is gone. */
    private void read() throws IOException {
        try (QueueReader reader = engine.broker().reader(queue)) {
            reads = true;
            told = false;
            engine.reading();
            Served served = served();
            while (served != null && closing.getCount() > 0) {
                List<Held> held = new ArrayList<>();
                reader.take(TOGETHER, LOOK_MILLIS).forEach(given -> held.add(new Held(given)));
                keep(held);
                served = served();
            }
        }
    }

    private void keep(List<Held> held) throws IOException {
        Served served = served();
        while (served != null && !held.isEmpty() && closing.getCount() > 0) {
            Served its = served;
            held.forEach(each -> each.kept = take(its, each));
            for (Iterator<Held> all = held.iterator(); all.hasNext(); ) {
                if (accepted(all.next())) {
                    all.remove();
                }
            }
            if (!held.isEmpty()) {
                pause(BUSY_MILLIS);
                served = served();
            }
        }
    }

    /** Returns what works on messages, null where nothing does or that cannot be told at the moment. */
    private Served served() {
        try {
            return engine.served();
        } catch (RuntimeException e) {
            LOG.debugf("who works on the messages of %s is asked again: %s", queue, e.getMessage());
            return null;
        }
    }

    private CompletableFuture<Reply> take(Served served, Held held) {
        QueueMessage message = held.given.message();
        long bytes = message.body().length;
        if (!engine.hold(bytes)) {
            return CompletableFuture.completedFuture(Reply.later(Reply.BUSY, "much is worked on"));
        }
        long since = System.nanoTime();
        Asked asked = input.asked(served.reader(), served.mostBytes(), message, held.name, held.problem);
        engine.taking(asked);
        return served.take(asked, reply -> {
            engine.give(bytes);
            engine.ended(asked, reply, System.nanoTime() - since);
        });
    }

    /** Waits until a message is kept, and accepts it; false where it is not kept yet. */
    private boolean accepted(Held held) throws IOException {
        Reply reply = held.kept.join();
        if (reply.status() == NOT_TAKEN && reply.record() == null) {
            String why = reply.refusal();
            if (why != null) {
                refused(why);
            }
            return false;
        }
        if (reply.status() == TAKEN_TWICE && reply.record() == null) {
            held.problem = "another message came under its message id " + held.name + " before";
            held.name = "again " + Tokens.random();
            return false;
        }
        held.given.accepting().accept();
        refusedSince = 0;
        told = false;
        return true;
    }
}
