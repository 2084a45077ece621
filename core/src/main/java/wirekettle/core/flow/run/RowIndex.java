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

/** Rows to look up, read once for a run and kept by key. Safe for several threads. */
public final class RowIndex implements Doors.LookUps {
    private static final long MOST_BYTES = 64L << 20;
    private static final int MOST_OF_A_KEY = 2;

    private final Opener opener;
    private final Map<String, Map<String, List<Node>>> read = new ConcurrentHashMap<>();

    /** Opens a dataset by its name. */
    public interface Opener {
        /** Returns its records. */
        RecordSource open(String dataset) throws IOException;
    }

    /** Makes an index over datasets. */
    public RowIndex(Opener opener) {
        this.opener = opener;
    }

    @Override
    public List<Node> rows(CompiledLookUp stage, String key) throws IOException {
        String name = stage.stage().dataset() + "\n" + stage.stage().column();
        Map<String, List<Node>> index = read.get(name);
        if (index == null) {
            synchronized (this) {
                index = read.get(name);
                if (index == null) {
                    index = index(stage.stage().dataset(), stage.stage().column());
                    read.put(name, index);
                }
            }
        }
        return index.getOrDefault(key, List.of());
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
                if (rows.size() < MOST_OF_A_KEY) {
                    rows.add(item.node());
                    bytes += NodeSize.of(item.node());
                }
                if (bytes > MOST_BYTES) {
                    throw new IOException("it has more rows than fit into " + (MOST_BYTES >> 20)
                            + " MB: look up in a query that gives fewer");
                }
            }
        }
        return index;
    }
}
