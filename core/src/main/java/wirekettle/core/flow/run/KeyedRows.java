package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.value.Node;

/**
 * A dataset that can be asked for the rows of some keys, so that it need not be read whole. For one thread at a time.
 */
public interface KeyedRows extends AutoCloseable {
    /** How many rows of one key are wanted: whether there is none, one or several is all that counts. */
    int MOST_OF_A_KEY = 2;

    /** Returns the rows of keys, at most {@link #MOST_OF_A_KEY} each; keys without rows may be left out. */
    Map<String, List<Node>> rows(Set<String> keys) throws IOException;

    /** Closes it. */
    @Override
    void close() throws IOException;
}
