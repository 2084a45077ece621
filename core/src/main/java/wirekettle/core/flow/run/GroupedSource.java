package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import wirekettle.core.value.Grouping;
import wirekettle.core.value.Node;

/**
 * Puts rows that follow each other and say the same in some fields together to one record. Rows of a group that come
 * again later are reported and not used: their record was made already. Keeps two numbers a group in memory.
 */
public final class GroupedSource implements RecordSource {
    private static final int MOST_ROWS = 100_000;

    private final RecordSource rows;
    private final List<String> fields;
    private SeenKeys seen;
    private Item next;
    private long read;
    private boolean started;

    private GroupedSource(RecordSource rows, List<String> fields) {
        this.rows = rows;
        this.fields = List.copyOf(fields);
    }

    /** Returns a source grouped by some fields; as it is when there are none. */
    public static RecordSource of(RecordSource rows, List<String> fields) {
        return fields == null || fields.isEmpty() ? rows : new GroupedSource(rows, fields);
    }

    /** Returns samples grouped the same way, as far as they go. */
    public static List<Node> of(List<Node> rows, List<String> fields) {
        List<Node> made = new ArrayList<>();
        List<Node> group = new ArrayList<>();
        for (Node row : rows) {
            if (!group.isEmpty() && !Grouping.key(group.get(0), fields).equals(Grouping.key(row, fields))) {
                made.add(Grouping.header(group));
                group.clear();
            }
            group.add(row);
        }
        if (!group.isEmpty()) {
            made.add(Grouping.header(group));
        }
        return made;
    }

    private Item row() throws IOException {
        Item item = rows.next();
        read++;
        return item;
    }

    @Override
    public Item next() throws IOException {
        if (!started) {
            started = true;
            next = row();
        }
        if (next == null || next.problem() != null) {
            Item alone = next;
            next = next == null ? null : row();
            return alone;
        }
        long first = read;
        List<String> key = Grouping.key(next.node(), fields);
        List<Node> group = new ArrayList<>();
        while (next != null
                && next.problem() == null
                && Grouping.key(next.node(), fields).equals(key)) {
            if (group.size() >= MOST_ROWS) {
                throw new IOException("more than " + MOST_ROWS + " rows belong to “" + String.join(", ", key)
                        + "”: group by more fields");
            }
            group.add(next.node());
            next = row();
        }
        Node header = Grouping.header(group);
        if (seen == null) {
            seen = new SeenKeys();
        }
        long before = seen.putIfAbsent(key, first);
        if (before < 0) {
            return new Item(header, null);
        }
        return new Item(
                header,
                "the rows of “" + String.join(", ", key) + "” are not together: some stand at row " + before
                        + ", more at row " + first + "; sort the dataset by " + String.join(", ", fields));
    }

    @Override
    public long size() {
        return -1;
    }

    @Override
    public String name() {
        return rows.name();
    }

    @Override
    public void close() throws IOException {
        if (seen != null) {
            seen.close();
        }
        rows.close();
    }
}
