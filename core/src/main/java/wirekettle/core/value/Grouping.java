package wirekettle.core.value;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** Puts flat rows together that say the same in some fields: a header with its lines. */
public final class Grouping {
    /** What a row is called below the header it belongs to. */
    public static final String LINE = "line";

    private Grouping() {}

    /** Returns what a row says in the fields it is grouped by. */
    public static List<String> key(Node row, List<String> fields) {
        List<String> key = new ArrayList<>(fields.size());
        for (String field : fields) {
            Node found = field.startsWith("@") ? row.attribute(field.substring(1)) : row.child(field);
            key.add(found == null ? "" : found.text());
        }
        return key;
    }

    /** Returns one node for each key, in the order the keys first appear. */
    public static List<Node> of(List<Node> rows, List<String> fields) {
        Map<List<String>, List<Node>> groups = new LinkedHashMap<>();
        for (Node row : rows) {
            groups.computeIfAbsent(key(row, fields), k -> new ArrayList<>()).add(row);
        }
        return groups.values().stream().map(Grouping::header).toList();
    }

    /** Returns the header of rows of one group: the fields of the first, then every row as a {@link #LINE}. */
    public static Node header(List<Node> rows) {
        Node first = rows.get(0);
        Node.Builder header = Node.build(first.name());
        first.attributes().forEach(a -> header.attribute(a.name(), a.text()));
        first.children().forEach(header::add);
        rows.forEach(row -> header.add(row.named(Name.of(LINE))));
        return header.done();
    }
}
