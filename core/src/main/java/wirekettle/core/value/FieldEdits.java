package wirekettle.core.value;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * Texts of a record's fields by their paths: the local names of elements with a slash between, {@code line[2]/weight} for
 * the second of several of a name.
 */
public final class FieldEdits {
    private FieldEdits() {}

    /** Returns the texts of all leaves of a record, in its order. */
    public static Map<String, String> of(Node record) {
        Map<String, String> fields = new LinkedHashMap<>();
        collect(record, "", fields);
        return fields;
    }

    private static void collect(Node node, String path, Map<String, String> into) {
        List<String> places = places(node);
        for (int i = 0; i < places.size(); i++) {
            Node child = node.children().get(i);
            String place = path + places.get(i);
            if (child.children().isEmpty()) {
                into.put(place, child.text());
            } else {
                collect(child, place + "/", into);
            }
        }
    }

    /** Returns the steps that lead to the children of a node. */
    private static List<String> places(Node node) {
        Map<String, Integer> counts = new HashMap<>();
        node.children().forEach(child -> counts.merge(child.name().local(), 1, Integer::sum));
        Map<String, Integer> at = new HashMap<>();
        List<String> places = new ArrayList<>();
        for (Node child : node.children()) {
            String name = child.name().local();
            int number = at.merge(name, 1, Integer::sum);
            places.add(counts.get(name) > 1 ? name + "[" + number + "]" : name);
        }
        return places;
    }

    /** Returns a record with other texts of some fields; paths that lead nowhere in it are passed over. */
    public static Node applied(Node record, Map<String, String> edits) {
        return record == null || edits.isEmpty() ? record : changed(record, "", edits);
    }

    private static Node changed(Node node, String path, Map<String, String> edits) {
        List<String> places = places(node);
        List<Node> children = new ArrayList<>();
        for (int i = 0; i < places.size(); i++) {
            Node child = node.children().get(i);
            String place = path + places.get(i);
            if (!child.children().isEmpty()) {
                children.add(changed(child, place + "/", edits));
            } else {
                children.add(edits.containsKey(place) ? Node.leaf(child.name(), edits.get(place)) : child);
            }
        }
        return node.with(children);
    }
}
