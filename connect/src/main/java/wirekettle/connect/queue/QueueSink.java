package wirekettle.connect.queue;

import java.io.IOException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import wirekettle.core.flow.run.RecordSink;
import wirekettle.core.value.DocumentForm;

/**
 * Sends nested documents to a queue, each as a message that leaves when its record comes to its end. A message is sent
 * at least once: one that may have left before a crash leaves again, under the same name of the property
 * {@code Wire-Kettle-Message}.
 */
public final class QueueSink implements RecordSink {
    /** The property that says which message it is: run, stage, record and place among those of the record. */
    public static final String NAME = "Wire-Kettle-Message";

    private static final long PATIENCE_NANOS = TimeUnit.MINUTES.toNanos(2);
    private static final long PAUSE_MILLIS = 1_000;

    /** What gives the broker. */
    public interface Brokers {
        /**
         * Returns the broker of an endpoint.
         *
         * @throws RuntimeException saying what is missing to reach it
         */
        Broker of(String endpoint);
    }

    private final Broker broker;
    private final String queue;
    private final DocumentForm form;
    private final List<String> properties;
    private final String run;
    private final List<QueueMessage> waiting = new ArrayList<>();
    private QueueWriter writer;
    private long sent;

    /**
     * Makes a target; nothing is connected yet.
     *
     * @param properties the names of what stands behind the content in a row
     * @param run what the run and the stage are called
     * @param from how many messages left before the run goes on, 0 when it begins
     */
    public QueueSink(Broker broker, String queue, DocumentForm form, List<String> properties, String run, long from) {
        this.broker = broker;
        this.queue = queue;
        this.form = form;
        this.properties = properties;
        this.run = run;
        this.sent = from;
    }

    @Override
    public void write(long ordinal, List<String[]> rows) {
        for (int i = 0; i < rows.size(); i++) {
            String[] row = rows.get(i);
            Map<String, String> its = new LinkedHashMap<>();
            for (int at = 0; at < properties.size(); at++) {
                if (!row[at + 1].isEmpty()) {
                    its.put(properties.get(at), row[at + 1]);
                }
            }
            its.put(NAME, run + "/" + ordinal + "/" + (i + 1));
            waiting.add(QueueMessage.of(form, row[0], null, its));
        }
    }

    /** A broker that is away is waited for, two minutes at most. */
    @Override
    public void flush() throws IOException {
        if (waiting.isEmpty()) {
            return;
        }
        long end = System.nanoTime() + PATIENCE_NANOS;
        while (true) {
            try {
                send();
                return;
            } catch (IOException e) {
                close();
                if (System.nanoTime() > end) {
                    throw e;
                }
                pause();
            }
        }
    }

    private void send() throws IOException {
        if (writer == null) {
            writer = broker.writer();
        }
        for (QueueMessage each : waiting) {
            writer.send(queue, each);
        }
        writer.commit();
        sent += waiting.size();
        waiting.clear();
    }

    private static void pause() throws IOException {
        try {
            TimeUnit.MILLISECONDS.sleep(PAUSE_MILLIS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IOException("interrupted while the broker was away", e);
        }
    }

    /** Returns how many messages left. */
    @Override
    public long position() {
        return sent;
    }

    @Override
    public void finish() throws IOException {
        flush();
    }

    @Override
    public void leave() throws IOException {
        flush();
    }

    @Override
    public void close() {
        if (writer != null) {
            writer.close();
            writer = null;
        }
    }
}
