package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.List;
import java.util.Map;

/** Where rows go; used by one thread. */
public interface RecordSink extends AutoCloseable {
    /** Takes the rows of one record; they are safe only after {@link #flush}. */
    void write(long ordinal, List<String[]> rows) throws IOException;

    /** Makes everything taken durable; returns the records whose rows were refused, with the reason. */
    Map<Long, String> flush() throws IOException;

    /** Returns how far the output is committed: bytes of a file, rows of a table. */
    long offset();

    /** Makes the result visible at its place; called once, when everything was written that should be. */
    void finish() throws IOException;

    /** Ends without making the result visible where it can still be kept back: what the place held before stays. */
    void leave() throws IOException;

    @Override
    void close() throws IOException;
}
