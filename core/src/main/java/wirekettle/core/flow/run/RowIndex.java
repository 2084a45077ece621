package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import wirekettle.core.flow.compile.CompiledLookUp;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeSize;

/**
 * Rows to look up: of a dataset that can be asked by key in batches, of any other from an index made by reading it
 * once. Safe for several threads.
 */
public final class RowIndex implements Doors.LookUps, AutoCloseable {
    private static final long MOST_BYTES = 64L << 20;

    private final Opener opener;
    private final Map<String, Found> datasets = new ConcurrentHashMap<>();
    private final List<BatchedRows> asked = new ArrayList<>();

    private interface Found {
        List<Node> rows(String key) throws IOException;
    }

    /** Opens datasets by their names. */
    public interface Opener {
        /** Returns the records of a dataset. */
        RecordSource open(String dataset) throws IOException;

        /**
         * Returns a dataset that can be asked for the rows of a key in a column, null for one that must be read
         * whole.
         */
        default KeyedRows byKey(String dataset, String column) throws IOException {
            return null;
        }
    }

    /** Makes an index over datasets. */
    public RowIndex(Opener opener) {
        this.opener = opener;
    }

    @Override
    public List<Node> rows(CompiledLookUp stage, String key) throws IOException {
        String name = stage.stage().dataset() + "\n" + stage.stage().column();
        Found found = datasets.get(name);
        if (found == null) {
            synchronized (this) {
                found = datasets.get(name);
                if (found == null) {
                    found = opened(stage.stage().dataset(), stage.stage().column());
                    datasets.put(name, found);
                }
            }
        }
        return found.rows(key);
    }

    private Found opened(String dataset, String column) throws IOException {
        KeyedRows keyed = opener.byKey(dataset, column);
        if (keyed != null) {
            BatchedRows batched = new BatchedRows(keyed, System::nanoTime);
            asked.add(batched);
            return batched::rows;
        }
        Map<String, List<Node>> index = index(dataset, column);
        return key -> index.getOrDefault(key, List.of());
    }

    private Map<String, List<Node>> index(String dataset, String column) throws IOException {
        Map<String, List<Node>> index = new HashMap<>();
        long bytes = 0;
        try (RecordSource source = opener.open(dataset)) {
            for (RecordSource.Item item = source.next(); item != null; item = source.next()) {
                if (item.node() == null) {
                    continue;
                }
                List<Node> rows = index.computeIfAbsent(item.node().textOf(column), k -> new ArrayList<>(1));
                if (rows.size() < KeyedRows.MOST_OF_A_KEY) {
                    rows.add(item.node());
                    bytes += NodeSize.of(item.node());
                }
                if (bytes > MOST_BYTES) {
                    throw new IOException("it has more rows than fit into " + (MOST_BYTES >> 20)
                            + " MB: put them into a table, which is asked by key, or look up in a file with fewer");
                }
            }
        }
        return index;
    }

    @Override
    public synchronized void close() throws IOException {
        IOException failed = null;
        for (BatchedRows each : asked) {
            try {
                each.close();
            } catch (IOException e) {
                failed = e;
            }
        }
        asked.clear();
        datasets.clear();
        if (failed != null) {
            throw failed;
        }
    }
}
