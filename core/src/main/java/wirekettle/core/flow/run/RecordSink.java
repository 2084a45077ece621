package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.List;
import java.util.Map;

/** Where rows go; used by one thread. */
public interface RecordSink extends AutoCloseable {
    /** Takes rows of one record, in the order of the input; they are safe only after {@link #flush}. */
    void write(long ordinal, List<String[]> rows) throws IOException;

    /** Tells whether its target may refuse single rows: such a target is written before those that take everything. */
    default boolean mayRefuse() {
        return false;
    }

    /**
     * Tries the rows taken; returns the records whose rows were refused, with the reason. Nothing becomes durable yet.
     */
    default Map<Long, String> tryRows() throws IOException {
        return Map.of();
    }

    /** Takes back the rows of a record that were taken since the last flush, where the target may refuse rows. */
    default void takeBack(long ordinal) throws IOException {}

    /** Makes everything taken durable; where rows may be refused, all of them were tried. */
    void flush() throws IOException;

    /**
     * Returns how far the output is durable: bytes of a file, the last record written to a table. A run that goes on
     * gives it back, and whatever is behind it is taken away or passed over.
     */
    long position();

    /** Makes the result visible at its place; called once, when everything was written that should be. */
    void finish() throws IOException;

    /** Ends without making the result visible where it can still be kept back: what the place held before stays. */
    void leave() throws IOException;

    /** Closes it; what is durable but not finished waits for the run to go on. */
    @Override
    void close() throws IOException;
}
