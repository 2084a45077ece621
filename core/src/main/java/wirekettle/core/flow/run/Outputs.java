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

    private interface Act {
        void on(RecordSink sink) throws IOException;
    }

    private final Map<String, RecordSink> sinks = new LinkedHashMap<>();

    /** Takes the sinks by the ids of their Write stages. */
    public Outputs(Map<String, RecordSink> sinks) {
        this.sinks.putAll(sinks);
    }

    /** Takes the one sink of a flow with one Write stage. */
    public static Outputs of(String stage, RecordSink sink) {
        return new Outputs(Map.of(stage, sink));
    }

    /**
     * Takes what one record gave for the targets of one kind.
     *
     * @param refusing those that may refuse rows; else those that take everything
     */
    void write(long ordinal, List<Item.Rows> rows, boolean refusing) throws IOException {
        for (Item.Rows each : rows) {
            RecordSink sink = sinks.get(each.stage());
            if (sink != null && sink.mayRefuse() == refusing) {
                sink.write(ordinal, each.rows());
            }
        }
    }

    /** Tries the rows of the targets that may refuse some; returns the records whose rows were refused. */
    Map<Long, Refused> tryRows() throws IOException {
        Map<Long, Refused> refused = new HashMap<>();
        for (Map.Entry<String, RecordSink> each : sinks.entrySet()) {
            each.getValue()
                    .tryRows()
                    .forEach((ordinal, reason) -> refused.putIfAbsent(ordinal, new Refused(each.getKey(), reason)));
        }
        return refused;
    }

    /** Takes back what a record gave to targets that may refuse rows: one that was refused leaves none elsewhere. */
    void takeBack(long ordinal) throws IOException {
        for (RecordSink sink : sinks.values()) {
            sink.takeBack(ordinal);
        }
    }

    /** Makes everything taken durable, in targets that may refuse rows first. */
    void flush() throws IOException {
        for (boolean refusing : List.of(true, false)) {
            for (RecordSink sink : sinks.values()) {
                if (sink.mayRefuse() == refusing) {
                    sink.flush();
                }
            }
        }
    }

    /** Returns how far each output is durable. */
    Map<String, Long> positions() {
        Map<String, Long> positions = new LinkedHashMap<>();
        sinks.forEach((stage, sink) -> positions.put(stage, sink.position()));
        return positions;
    }

    /** Makes the results visible at their places. */
    void finish() throws IOException {
        for (RecordSink sink : sinks.values()) {
            sink.finish();
        }
    }

    /** Leaves what is at their places; every sink is left, also when one fails. */
    void leave() throws IOException {
        each(RecordSink::leave);
    }

    @Override
    public void close() throws IOException {
        each(RecordSink::close);
    }

    private void each(Act act) throws IOException {
        IOException failed = null;
        for (RecordSink sink : sinks.values()) {
            try {
                act.on(sink);
            } catch (IOException e) {
                failed = e;
            }
        }
        if (failed != null) {
            throw failed;
        }
    }
}
