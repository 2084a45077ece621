package wirekettle.core.soap;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.value.Node;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/**
 * Puts what {@code href="#id"} points to in its place (SOAP 1.1, 5.2.1; {@code ref} in SOAP 1.2 part 2, 3.1.5): values
 * serialised once beside the reply become the tree they stand for. A reference into itself stays a reference.
 */
final class MultiReferences {
    private final Map<String, Node> byId = new HashMap<>();
    private final Map<Node, Long> sizes = new IdentityHashMap<>();
    private final Set<String> open = new HashSet<>();
    private final Set<Node> pointedTo = new HashSet<>();
    private final Map<String, Node> done = new HashMap<>();
    private boolean cyclic;

    private MultiReferences() {}

    /** Returns the children of a body with references resolved and what was only referred to left out. */
    static List<Node> resolve(List<Node> body) throws XmlProblem {
        MultiReferences references = new MultiReferences();
        boolean any = false;
        for (Node each : body) {
            any |= references.index(each);
        }
        if (!any || references.byId.isEmpty()) {
            return body;
        }
        List<Node> resolved = new ArrayList<>();
        for (Node each : body) {
            resolved.add(references.resolved(each));
        }
        List<Node> roots = new ArrayList<>();
        for (int i = 0; i < body.size(); i++) {
            Node root = body.get(i).attribute("root");
            boolean beside = references.pointedTo.contains(body.get(i))
                    || root != null && root.text().equals("0");
            if (!beside) {
                roots.add(resolved.get(i));
            }
        }
        return roots.isEmpty() ? resolved : roots;
    }

    /** Notes every id below a node and tells whether anything refers to one. */
    private boolean index(Node node) {
        Node id = node.attribute("id");
        if (id != null) {
            byId.putIfAbsent(id.text(), node);
        }
        boolean any = reference(node) != null;
        for (Node child : node.children()) {
            any |= index(child);
        }
        return any;
    }

    private static String reference(Node node) {
        Node href = node.attribute("href");
        if (href != null && href.text().startsWith("#")) {
            return href.text().substring(1);
        }
        Node ref = node.attribute("ref");
        return ref != null && ref.name().namespace().equals("http://www.w3.org/2003/05/soap-encoding")
                ? ref.text()
                : null;
    }

    private Node resolved(Node node) throws XmlProblem {
        String reference = reference(node);
        Node target = reference == null ? null : byId.get(reference);
        if (target != null) {
            pointedTo.add(target);
            if (open.contains(reference)) {
                cyclic = true;
                return node;
            }
            Node known = done.get(reference);
            if (known == null) {
                open.add(reference);
                known = resolved(target);
                open.remove(reference);
                if (!cyclic || open.isEmpty()) {
                    done.put(reference, known);
                    cyclic = false;
                }
            }
            return bounded(inPlace(known, node));
        }
        if (node.children().isEmpty()) {
            return node;
        }
        List<Node> children = new ArrayList<>(node.children().size());
        boolean changed = false;
        for (Node child : node.children()) {
            Node its = resolved(child);
            changed |= its != child;
            children.add(its);
        }
        return changed ? bounded(node.with(children)) : node;
    }

    /** Returns a value under the name of the element that refers to it, without what only served the reference. */
    private static Node inPlace(Node value, Node reference) {
        Node.Builder node = Node.build(reference.name()).text(value.text()).type(value.type());
        for (Node attribute : value.attributes()) {
            String local = attribute.name().local();
            if (!local.equals("id") && !local.equals("root") && !local.equals("encodingStyle")) {
                node.attribute(attribute.name(), attribute.text());
            }
        }
        value.children().forEach(node::add);
        return value.nil() ? node.nil().done() : node.done();
    }

    /** Shared values multiply when they are put in place; a reply must not grow beyond what is read otherwise. */
    private Node bounded(Node node) throws XmlProblem {
        if (size(node) > XmlLimits.MESSAGES.maxElements()) {
            throw new XmlProblem(
                    "too-many-elements",
                    "the reply refers to its parts so often that it grows too large",
                    "reply",
                    1,
                    1);
        }
        return node;
    }

    private long size(Node node) {
        Long known = sizes.get(node);
        if (known != null) {
            return known;
        }
        long size = 1;
        for (Node child : node.children()) {
            size += size(child);
        }
        sizes.put(node, size);
        return size;
    }
}
