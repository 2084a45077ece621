package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.function.Function;
import wirekettle.core.value.Node;

/** A stream of records; read by one thread at a time. */
public interface RecordSource extends AutoCloseable {
    /**
     * One record.
     *
     * @param node its value
     * @param problem why it cannot be used, or null
     * @param fits says what is wrong with an answer for whoever waits, null where it will do
     */
    record Item(Node node, String problem, Function<Answer, String> fits) {
        /** A record for whom any answer will do. */
        public Item(Node node, String problem) {
            this(node, problem, answer -> null);
        }
    }

    /** Returns the next record, null at the end. */
    Item next() throws IOException;

    /** Returns how many records there are, -1 when unknown. */
    long size();

    /** Returns the name of the file or table read. */
    String name();

    @Override
    void close() throws IOException;
}
