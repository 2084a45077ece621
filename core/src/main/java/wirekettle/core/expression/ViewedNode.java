package wirekettle.core.expression;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import net.sf.saxon.Configuration;
import net.sf.saxon.om.GNode;
import net.sf.saxon.om.GenericTreeInfo;
import net.sf.saxon.om.NamespaceUri;
import net.sf.saxon.om.NodeInfo;
import net.sf.saxon.om.SequenceIterator;
import net.sf.saxon.pattern.nodetest.NodePredicate;
import net.sf.saxon.pattern.nodetest.NodeTest;
import net.sf.saxon.pattern.qname.LocalQNameTest;
import net.sf.saxon.str.StringView;
import net.sf.saxon.str.UnicodeString;
import net.sf.saxon.tree.iter.EmptyIterator;
import net.sf.saxon.tree.iter.ListIterator;
import net.sf.saxon.tree.iter.SingletonIterator;
import net.sf.saxon.tree.util.Navigator;
import net.sf.saxon.tree.wrapper.AbstractNodeWrapper;
import net.sf.saxon.tree.wrapper.SiblingCountingNode;
import net.sf.saxon.type.Type;
import net.sf.saxon.type.UType;
import wirekettle.core.value.Node;

/**
 * A value tree as the expression engine sees it, without being copied: a node is wrapped when an expression first comes
 * to it. For one thread.
 */
final class ViewedNode extends AbstractNodeWrapper implements SiblingCountingNode {
    /** Of so many elements at most those that are seen are kept one by one; of more there is a place for each. */
    private static final int FEW = 64;

    private final int kind;
    private final Node node;
    private final ViewedNode parent;
    private final int position;
    private ViewedNode[] elements;
    private Map<Integer, ViewedNode> few;
    private List<ViewedNode> children;
    private List<ViewedNode> attributes;

    private ViewedNode(int kind, Node node, ViewedNode parent, int position) {
        this.kind = kind;
        this.node = node;
        this.parent = parent;
        this.position = position;
        this.treeInfo = parent == null ? null : parent.treeInfo;
    }

    /** Returns the view of a tree's root element, with a document above it. */
    static ViewedNode root(Node root, Configuration configuration) {
        ViewedNode document = new ViewedNode(Type.DOCUMENT, null, null, 0);
        document.treeInfo = new GenericTreeInfo(configuration, document);
        ViewedNode top = new ViewedNode(Type.ELEMENT, root, document, 0);
        document.children = List.of(top);
        document.attributes = List.of();
        return top;
    }

    /** Returns the node that is seen; null for a document. */
    Node node() {
        return node;
    }

    /** Returns the elements below, in order. */
    List<ViewedNode> below() {
        if (children == null) {
            List<ViewedNode> made = new ArrayList<>();
            if (kind == Type.ELEMENT) {
                if (!node.text().isEmpty()) {
                    made.add(new ViewedNode(Type.TEXT, node, this, 0));
                }
                for (int i = 0; i < node.children().size(); i++) {
                    made.add(element(i));
                }
            }
            children = made;
        }
        return children;
    }

    /** Returns one of the elements below; it is the same one each time. */
    ViewedNode element(int at) {
        int all = node.children().size();
        if (elements == null && all > FEW * 4) {
            few = few == null ? new HashMap<>() : few;
            if (few.size() < FEW || few.containsKey(at)) {
                return few.computeIfAbsent(at, this::seen);
            }
        }
        if (elements == null) {
            elements = new ViewedNode[all];
            if (few != null) {
                few.forEach((i, view) -> elements[i] = view);
                few = null;
            }
        }
        if (elements[at] == null) {
            elements[at] = seen(at);
        }
        return elements[at];
    }

    private ViewedNode seen(int at) {
        int before = node.text().isEmpty() ? 0 : 1;
        return new ViewedNode(Type.ELEMENT, node.children().get(at), this, before + at);
    }

    private List<ViewedNode> beside() {
        if (attributes == null) {
            List<ViewedNode> made = new ArrayList<>();
            if (kind == Type.ELEMENT) {
                for (Node attribute : node.attributes()) {
                    made.add(new ViewedNode(Type.ATTRIBUTE, attribute, this, made.size()));
                }
            }
            // the type a node says it has (XML Schema 1.0 part 1, 2.6.1) is seen as an attribute like the others
            if (node.type() != null
                    && made.stream().noneMatch(a -> a.getLocalPart().equals("type"))) {
                made.add(new ViewedNode(Type.ATTRIBUTE, node.attribute("type"), this, made.size()));
            }
            attributes = made;
        }
        return attributes;
    }

    @Override
    public Object getUnderlyingNode() {
        return node;
    }

    @Override
    public int getNodeKind() {
        return kind;
    }

    @Override
    public boolean equals(Object other) {
        return this == other;
    }

    @Override
    public int hashCode() {
        return System.identityHashCode(this);
    }

    @Override
    public String getLocalPart() {
        return kind == Type.ELEMENT || kind == Type.ATTRIBUTE ? node.name().local() : "";
    }

    @Override
    public NamespaceUri getNamespaceUri() {
        // attributes are told by their local names only: unprefixed names in expressions mean no namespace
        return kind == Type.ELEMENT ? NamespaceUri.of(node.name().namespace()) : NamespaceUri.NULL;
    }

    @Override
    public String getPrefix() {
        return kind == Type.ELEMENT && !node.name().namespace().isEmpty() ? "n" : "";
    }

    @Override
    public UnicodeString getUnicodeStringValue() {
        return StringView.of(getStringValue());
    }

    @Override
    public String getStringValue() {
        if (kind == Type.TEXT
                || kind == Type.ATTRIBUTE
                || kind == Type.ELEMENT && node.children().isEmpty()) {
            return node.text();
        }
        StringBuilder all = new StringBuilder();
        collect(kind == Type.DOCUMENT ? children.get(0).node : node, all);
        return all.toString();
    }

    private static void collect(Node from, StringBuilder all) {
        all.append(from.text());
        from.children().forEach(child -> collect(child, all));
    }

    @Override
    public NodeInfo getParent() {
        return parent;
    }

    @Override
    public int getSiblingPosition() {
        return position;
    }

    @Override
    public int compareOrder(GNode other) {
        return Navigator.compareOrder(this, (SiblingCountingNode) other);
    }

    @Override
    public void generateId(StringBuilder id) {
        id.append('v').append(treeInfo.getDocumentNumber()).append('n').append(Integer.toHexString(hashCode()));
    }

    private static SequenceIterator over(List<? extends NodeInfo> nodes, NodePredicate wanted) {
        if (nodes.isEmpty()) {
            return EmptyIterator.getInstance();
        }
        List<NodeInfo> found = new ArrayList<>(nodes.size());
        for (NodeInfo each : nodes) {
            if (wanted == null || wanted.test(each)) {
                found.add(each);
            }
        }
        return new ListIterator.Of<>(found);
    }

    @Override
    protected SequenceIterator iterateAttributes(NodePredicate wanted) {
        return over(beside(), wanted);
    }

    @Override
    protected SequenceIterator iterateChildren(NodePredicate wanted) {
        // most steps ask for elements of one name: the others need not be seen at all
        if (kind == Type.ELEMENT
                && wanted instanceof NodeTest test
                && test.getUType() == UType.ELEMENT
                && test.getQNameTest() instanceof LocalQNameTest name) {
            return named(name.getLocalName());
        }
        return over(below(), wanted);
    }

    private SequenceIterator named(String local) {
        List<Node> all = node.children();
        ViewedNode first = null;
        List<ViewedNode> found = null;
        for (int i = 0; i < all.size(); i++) {
            if (all.get(i).name().local().equals(local)) {
                if (first == null) {
                    first = element(i);
                } else {
                    found = found == null ? new ArrayList<>(List.of(first)) : found;
                    found.add(element(i));
                }
            }
        }
        return found != null
                ? new ListIterator.Of<>(found)
                : first == null ? EmptyIterator.getInstance() : new SingletonIterator(first);
    }

    @Override
    protected SequenceIterator iterateSiblings(NodePredicate wanted, boolean forwards) {
        if (parent == null || kind == Type.ATTRIBUTE) {
            return EmptyIterator.getInstance();
        }
        List<ViewedNode> all = parent.below();
        if (forwards) {
            return over(all.subList(position + 1, all.size()), wanted);
        }
        List<ViewedNode> before = new ArrayList<>(all.subList(0, position));
        java.util.Collections.reverse(before);
        return over(before, wanted);
    }

    @Override
    public boolean hasChildNodes() {
        return !below().isEmpty();
    }
}
