package wirekettle.server.flows;

import java.util.Iterator;
import java.util.List;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.value.Node;

/** Records that are in memory already. */
final class ListedRecords implements RecordSource {
    private final String name;
    private final int size;
    private final Iterator<Node> records;

    ListedRecords(String name, List<Node> records) {
        this.name = name;
        this.size = records.size();
        this.records = records.iterator();
    }

    @Override
    public Item next() {
        return records.hasNext() ? new Item(records.next(), null) : null;
    }

    @Override
    public long size() {
        return size;
    }

    @Override
    public String name() {
        return name;
    }

    @Override
    public void close() {
        // nothing is open
    }
}
