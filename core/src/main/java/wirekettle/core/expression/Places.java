package wirekettle.core.expression;

import java.util.Collections;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.value.Node;

/**
 * Where some nodes stand in the trees of variables, so that an expression which goes from one of them to its parents
 * need not look through the whole tree. Found when it is first asked for. Safe for several threads.
 */
public final class Places {
    /** A node's parent, and which of its children the node is, from 0. */
    record Place(Node parent, int index) {}

    private final Node tree;
    private final List<Node> nodes;
    private final Places around;
    private Map<Node, Place> found;

    private Places(Node tree, List<Node> nodes, Places around) {
        this.tree = tree;
        this.nodes = nodes;
        this.around = around;
    }

    /** Returns the places of nodes in a variable's tree. */
    public static Places of(List<Node> nodes, Node tree, Scope scope) {
        return new Places(tree, nodes, scope.places());
    }

    /** Returns a node's place, null when it is not one of those asked for, nor around one. */
    Place of(Node node) {
        Place place = found().get(node);
        return place == null && around != null ? around.of(node) : place;
    }

    private synchronized Map<Node, Place> found() {
        if (found == null) {
            Map<Node, Place> places = new IdentityHashMap<>();
            Set<Node> wanted = Collections.newSetFromMap(new IdentityHashMap<>());
            wanted.addAll(nodes);
            find(tree, wanted, places);
            found = places;
        }
        return found;
    }

    /** Notes the wanted nodes below a node and those between; tells whether there are any. */
    private static boolean find(Node at, Set<Node> wanted, Map<Node, Place> places) {
        boolean any = false;
        List<Node> children = at.children();
        for (int i = 0; i < children.size(); i++) {
            Node child = children.get(i);
            boolean below = find(child, wanted, places);
            if (below || wanted.contains(child)) {
                places.putIfAbsent(child, new Place(at, i));
                any = true;
            }
        }
        return any;
    }
}
