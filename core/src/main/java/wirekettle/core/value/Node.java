package wirekettle.core.value;

import java.util.ArrayList;
import java.util.List;
import java.util.function.UnaryOperator;

/**
 * One node of the immutable tree that holds every record and message. A leaf has text and no children; order and
 * repetition of
 * children, attributes, explicit nil and a declared {@code xsi:type} are kept.
 */
public final class Node {
    private static final Name XSI_TYPE = new Name("http://www.w3.org/2001/XMLSchema-instance", "type");

    private final Name name;
    private final String text;
    private final List<Node> attributes;
    private final List<Node> children;
    private final boolean nil;
    private final Name type;
    private final Content content;

    private Node(Name name, String text, List<Node> attributes, List<Node> children, boolean nil, Name type) {
        this(name, text, attributes, children, nil, type, null);
    }

    private Node(
            Name name,
            String text,
            List<Node> attributes,
            List<Node> children,
            boolean nil,
            Name type,
            Content content) {
        this.content = content;
        this.name = name;
        this.text = text;
        this.attributes = attributes;
        this.children = children;
        this.nil = nil;
        this.type = type;
    }

    /** Returns a leaf holding {@code text}. */
    public static Node leaf(Name name, String text) {
        return new Node(name, text, List.of(), List.of(), false, null);
    }

    /** Returns a leaf in no namespace. */
    public static Node leaf(String name, String text) {
        return leaf(Name.of(name), text);
    }

    /** Returns this leaf with content in the place of its text: its text is that content in base64. */
    public Node holding(Content bytes) {
        return new Node(name, "", attributes, List.of(), nil, type, bytes);
    }

    /** Returns a node with children and no text of its own. */
    public static Node branch(Name name, List<Node> children) {
        return new Node(name, "", List.of(), List.copyOf(children), false, null);
    }

    /** Starts a node that is put together piece by piece. */
    public static Builder build(Name name) {
        return new Builder(name);
    }

    /** Returns the node's name. */
    public Name name() {
        return name;
    }

    /** Returns the leaf's text; empty for a branch. */
    public String text() {
        return content == null ? text : content.base64();
    }

    /** Returns the bytes a leaf holds that came beside its message, null for any other. */
    public Content content() {
        return content;
    }

    /** Returns the attributes, as leaves. */
    public List<Node> attributes() {
        return attributes;
    }

    /** Returns the children in order. */
    public List<Node> children() {
        return children;
    }

    /** Tells whether the node was explicitly nil. */
    public boolean nil() {
        return nil;
    }

    /** Returns the type the node declared for itself with {@code xsi:type}, or null. */
    public Name type() {
        return type;
    }

    /** Returns the first child with that local name in any namespace, or null. */
    public Node child(String local) {
        for (Node child : children) {
            if (child.name.local().equals(local)) {
                return child;
            }
        }
        return null;
    }

    /** Returns the attribute with that local name, or null. */
    public Node attribute(String local) {
        for (Node attribute : attributes) {
            if (attribute.name.local().equals(local)) {
                return attribute;
            }
        }
        // the type a node says it has is reached as the attribute it was said with
        return type != null && local.equals("type") ? leaf(XSI_TYPE, type.local()) : null;
    }

    /** Returns the text of a child, or the empty string when there is no such child. */
    public String textOf(String local) {
        Node child = child(local);
        return child == null ? "" : child.text();
    }

    /** Returns the node with other children. */
    public Node with(List<Node> others) {
        return new Node(name, text, attributes, List.copyOf(others), nil, type, content);
    }

    /** Returns the tree with every text and attribute value mapped; parts that stay as they are are shared. */
    public Node mapped(UnaryOperator<String> change) {
        String changed = content != null || text.isEmpty() ? text : change.apply(text);
        List<Node> ownAttributes = mapped(attributes, change);
        List<Node> below = mapped(children, change);
        return changed.equals(text) && ownAttributes == attributes && below == children
                ? this
                : new Node(name, changed, ownAttributes, below, nil, type, content);
    }

    private static List<Node> mapped(List<Node> nodes, UnaryOperator<String> change) {
        List<Node> changed = null;
        for (int i = 0; i < nodes.size(); i++) {
            Node node = nodes.get(i).mapped(change);
            if (node != nodes.get(i) && changed == null) {
                changed = new ArrayList<>(nodes);
            }
            if (changed != null) {
                changed.set(i, node);
            }
        }
        return changed == null ? nodes : List.copyOf(changed);
    }

    /** Returns the node under another name. */
    public Node named(Name other) {
        return new Node(other, text, attributes, children, nil, type, content);
    }

    @Override
    public String toString() {
        return children.isEmpty() ? name + "=" + (content == null ? text : "bytes") : name + children.toString();
    }

    /** Puts a node together. Not for use by several threads. */
    public static final class Builder {
        private final Name name;
        private final List<Node> attributes = new ArrayList<>(0);
        private final List<Node> children = new ArrayList<>();
        private StringBuilder text;
        private boolean nil;
        private Name type;

        private Builder(Name name) {
            this.name = name;
        }

        /** Adds an attribute. */
        public Builder attribute(Name attribute, String value) {
            attributes.add(leaf(attribute, value));
            return this;
        }

        /** Adds a child at the end. */
        public Builder add(Node child) {
            children.add(child);
            return this;
        }

        /** Adds a leaf child in no namespace. */
        public Builder add(String child, String value) {
            return add(leaf(child, value));
        }

        /** Appends text. */
        public Builder text(CharSequence more) {
            if (text == null) {
                text = new StringBuilder();
            }
            text.append(more);
            return this;
        }

        /** Marks the node as explicitly nil. */
        public Builder nil() {
            nil = true;
            return this;
        }

        /** Sets the type declared by {@code xsi:type}. */
        public Builder type(Name declared) {
            type = declared;
            return this;
        }

        /** Returns the finished node; text between child elements is dropped when it is white space only. */
        public Node done() {
            String own = text == null ? "" : text.toString();
            if (!children.isEmpty() && own.isBlank()) {
                own = "";
            }
            return new Node(name, own, List.copyOf(attributes), List.copyOf(children), nil, type);
        }
    }
}
