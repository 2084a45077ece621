package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** The sinks of all Write stages of a flow, used as one. For one thread. */
public final class Outputs implements AutoCloseable {
    /**
     * Why rows of a record were refused.
     *
     * @param stage the Write stage
     * @param reason what the target says
     */
    public record Refused(String stage, String reason) {}

    private final Map<String, RecordSink> sinks = new LinkedHashMap<>();

    /** Takes the sinks by the ids of their Write stages. */
    public Outputs(Map<String, RecordSink> sinks) {
        this.sinks.putAll(sinks);
    }

    /** Takes the one sink of a flow with one Write stage. */
    public static Outputs of(String stage, RecordSink sink) {
        return new Outputs(Map.of(stage, sink));
    }

    /** Takes what one record gave. */
    void write(long ordinal, Map<String, List<String[]>> rows) throws IOException {
        for (Map.Entry<String, List<String[]>> each : rows.entrySet()) {
            RecordSink sink = sinks.get(each.getKey());
            if (sink != null && !each.getValue().isEmpty()) {
                sink.write(ordinal, each.getValue());
            }
        }
    }

    /** Makes everything taken durable; returns the records whose rows were refused. */
    Map<Long, Refused> flush() throws IOException {
        Map<Long, Refused> refused = new HashMap<>();
        for (Map.Entry<String, RecordSink> each : sinks.entrySet()) {
            each.getValue()
                    .flush()
                    .forEach((ordinal, reason) -> refused.putIfAbsent(ordinal, new Refused(each.getKey(), reason)));
        }
        return refused;
    }

    /** Returns how far all outputs together are committed. */
    long offset() {
        return sinks.values().stream().mapToLong(RecordSink::offset).sum();
    }

    /** Makes the results visible at their places. */
    void finish() throws IOException {
        for (RecordSink sink : sinks.values()) {
            sink.finish();
        }
    }

    /** Leaves what is at their places; every sink is left, also when one fails. */
    void leave() throws IOException {
        IOException failed = null;
        for (RecordSink sink : sinks.values()) {
            try {
                sink.leave();
            } catch (IOException e) {
                failed = e;
            }
        }
        if (failed != null) {
            throw failed;
        }
    }

    @Override
    public void close() throws IOException {
        IOException failed = null;
        for (RecordSink sink : sinks.values()) {
            try {
                sink.close();
            } catch (IOException e) {
                failed = e;
            }
        }
        if (failed != null) {
            throw failed;
        }
    }
}
