package wirekettle.server.serve;

import java.io.IOException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.function.Predicate;
import org.jboss.logging.Logger;
import wirekettle.connect.queue.Broker;
import wirekettle.connect.queue.QueueMessage;
import wirekettle.connect.queue.QueueWriter;
import wirekettle.core.value.DocumentForm;

/**
 * Sends the answers of a trigger's messages, each with the correlation its message wants. They are durable before: what
 * was not sent when a server ended, or while the broker was away, is sent later. An answer is sent at least once.
 */
final class QueueAnswers {
    private static final Logger LOG = Logger.getLogger(QueueAnswers.class);
    private static final int TOGETHER = 100;
    private static final long LOOK_MILLIS = 200;
    private static final long SWEEP_NANOS = TimeUnit.SECONDS.toNanos(5);
    private static final long WAIT_MILLIS = 2_000;

    /**
     * An answer that is to be sent.
     *
     * @param place what it is known by
     */
    record Owed(String place, String to, String correlation, Reply reply) {}

    /** What it is told by, and tells. */
    interface Engine {
        /** Returns how the broker is reached. */
        Broker broker();

        /**
         * Returns answers that were not sent yet, of records that have ended.
         *
         * @param passed tells which places are passed over
         */
        List<Owed> owed(int most, Predicate<String> passed);

        /** Notes that answers were sent. */
        void sent(List<String> places);
    }

    private final Engine engine;
    private final BlockingQueue<Owed> ready = new LinkedBlockingQueue<>();
    private final Set<String> known = ConcurrentHashMap.newKeySet();
    private final Thread thread;
    private QueueWriter writer;
    private long swept;
    private volatile boolean closed;

    QueueAnswers(long trigger, Engine engine) {
        this.engine = engine;
        this.swept = System.nanoTime() - SWEEP_NANOS;
        this.thread = new Thread(this::work, "queue-answers-" + trigger);
        thread.setDaemon(true);
        thread.start();
    }

    /** Is told that the answer of a place will be sent, or {@link #pass passed over}. */
    void expect(String place) {
        known.add(place);
    }

    /** Is told that there is no answer for a place here: what is kept of it counts again. */
    void pass(String place) {
        known.remove(place);
    }

    /** Sends an answer; its end is durable. */
    void send(Owed owed) {
        ready.add(owed);
    }

    /** Sends nothing more. */
    void close() {
        closed = true;
    }

    private void work() {
        List<Owed> together = new ArrayList<>();
        while (!closed) {
            try {
                if (together.isEmpty()) {
                    gather(together);
                }
                if (!together.isEmpty()) {
                    send(together);
                    together.clear();
                }
            } catch (IOException | RuntimeException e) {
                LOG.debugf(e, "answers cannot be sent at the moment");
                leave();
                pause();
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                closed = true;
            }
        }
        leave();
    }

    private void gather(List<Owed> together) throws InterruptedException {
        Owed first = ready.poll(LOOK_MILLIS, TimeUnit.MILLISECONDS);
        if (first != null) {
            together.add(first);
            ready.drainTo(together, TOGETHER - 1);
        } else if (System.nanoTime() - swept > SWEEP_NANOS) {
            // what another server left, or this one before it was started again
            together.addAll(engine.owed(TOGETHER, known::contains));
            swept = System.nanoTime() - (together.isEmpty() ? 0 : SWEEP_NANOS);
        }
    }

    private void send(List<Owed> together) throws IOException {
        if (writer == null) {
            writer = engine.broker().writer();
        }
        for (Owed each : together) {
            writer.send(each.to(), message(each));
        }
        writer.commit();
        List<String> places = together.stream().map(Owed::place).toList();
        engine.sent(places);
        places.forEach(known::remove);
    }

    private static QueueMessage message(Owed owed) {
        Reply reply = owed.reply();
        Map<String, String> properties = new LinkedHashMap<>(reply.headers());
        properties.put("status", Integer.toString(reply.status()));
        boolean xml = reply.type() != null && reply.type().contains("xml");
        return QueueMessage.of(
                xml ? DocumentForm.XML : DocumentForm.JSON, reply.body(), owed.correlation(), properties);
    }

    private void leave() {
        if (writer != null) {
            writer.close();
            writer = null;
        }
    }

    private void pause() {
        try {
            for (long left = WAIT_MILLIS; left > 0 && !closed; left -= LOOK_MILLIS) {
                TimeUnit.MILLISECONDS.sleep(LOOK_MILLIS);
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            closed = true;
        }
    }
}
