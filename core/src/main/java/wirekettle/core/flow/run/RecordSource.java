package wirekettle.core.flow.run;

import java.io.IOException;
import wirekettle.core.value.Node;

/** A stream of records; read by one thread at a time. */
public interface RecordSource extends AutoCloseable {
    /**
     * One record.
     *
     * @param node its value
     * @param problem why it cannot be used, or null
     */
    record Item(Node node, String problem) {}

    /** Returns the next record, null at the end. */
    Item next() throws IOException;

    /** Returns how many records there are, -1 when unknown. */
    long size();

    /** Returns the name of the file or table read. */
    String name();

    @Override
    void close() throws IOException;
}
