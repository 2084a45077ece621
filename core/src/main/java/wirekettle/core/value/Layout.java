package wirekettle.core.value;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;

/**
 * The fields of a dataset's records, in order.
 *
 * @param columns the fields
 */
public record Layout(List<Column> columns) {
    /** Keeps its own copy of the columns. */
    public Layout {
        columns = List.copyOf(columns);
    }

    /** Returns XPath-safe unique names for labels: letters, digits, dot, dash and underscore; never empty. */
    public static List<String> safeNames(List<String> labels) {
        List<String> names = new ArrayList<>();
        Set<String> taken = new HashSet<>();
        for (String label : labels) {
            String base = label.strip().replaceAll("[^\\p{L}\\p{N}_.-]+", "_").replaceAll("^_+(?=.)|(?<=.)_+$", "");
            if (base.isEmpty() || base.equals("_")) {
                base = "column";
            }
            if (!Character.isLetter(base.charAt(0)) && base.charAt(0) != '_') {
                base = "_" + base;
            }
            String name = base;
            for (int n = 2; !taken.add(name); n++) {
                name = base + "_" + n;
            }
            names.add(name);
        }
        return names;
    }

    /** Returns a record of this layout from values in column order; missing values become empty fields. */
    public Node record(String name, List<String> values) {
        Node.Builder record = Node.build(Name.of(name));
        for (int i = 0; i < columns.size(); i++) {
            String value = i < values.size() ? values.get(i) : "";
            record.add(columns.get(i).name(), value == null ? "" : value);
        }
        return record.done();
    }
}
