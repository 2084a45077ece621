package wirekettle.core.record;

import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.value.Column;
import wirekettle.core.value.JsonName;

/** The fields of a nested record by their places: {@code crates/no} stands in {@code crates}. */
final class PlaceTree {
    private final Map<String, PlaceTree> children = new LinkedHashMap<>();
    private final String name;
    private Column column;
    private boolean repeats;

    private PlaceTree(String name) {
        this.name = name;
    }

    /**
     * Returns the tree of some places, in their order.
     *
     * @param lists the places that repeat
     */
    static PlaceTree of(List<Column> columns, Collection<String> lists) {
        PlaceTree root = new PlaceTree("");
        columns.forEach(each -> root.at(each.name()).column = each);
        lists.forEach(each -> root.at(each).repeats = true);
        return root;
    }

    private PlaceTree at(String place) {
        PlaceTree here = this;
        for (String step : place.split("/")) {
            here = here.children.computeIfAbsent(step, PlaceTree::new);
        }
        return here;
    }

    /** Returns the fields below it by their names. */
    Map<String, PlaceTree> children() {
        return children;
    }

    /** Returns the column at its place, null where there are fields below it. */
    Column column() {
        return children.isEmpty() ? column : null;
    }

    /** Tells whether there may be several. */
    boolean repeats() {
        return repeats;
    }

    /** Returns the places from its parent on, as JSON pointers, that must be there. */
    List<String> required() {
        List<String> all = new ArrayList<>();
        String own = "/" + InputReader.pointed(JsonName.member(name));
        if (repeats) {
            return all;
        }
        if (column() != null && column.required()) {
            all.add(own);
        }
        children.values().forEach(child -> child.required().forEach(place -> all.add(own + place)));
        return all;
    }
}
