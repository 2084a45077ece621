package wirekettle.core.value;

import java.util.LinkedHashMap;
import java.util.Map;

/** Writes a {@link Node} as XML text, every namespace declared once at the top. */
public final class NodeWriter {
    private static final String XML = "http://www.w3.org/XML/1998/namespace";

    private final Map<String, String> prefixes = new LinkedHashMap<>();
    private final StringBuilder out = new StringBuilder();
    private final boolean indented;
    private int numbered;

    private NodeWriter(boolean indented) {
        this.indented = indented;
    }

    /** Returns the XML of {@code node}, indented by one space a level when asked. */
    public static String write(Node node, boolean indented) {
        NodeWriter writer = new NodeWriter(indented);
        writer.collect(node);
        writer.element(node, 0);
        return writer.out.toString();
    }

    private void collect(Node node) {
        prefix(node.name().namespace());
        if (node.nil() || node.type() != null) {
            prefixes.put(NodeReader.XSI, "xsi");
        }
        if (node.type() != null) {
            prefix(node.type().namespace());
        }
        for (Node attribute : node.attributes()) {
            prefix(attribute.name().namespace());
            if (namesAType(attribute)) {
                prefix(Name.parse(attribute.text()).namespace());
            }
        }
        node.children().forEach(this::collect);
    }

    private static boolean namesAType(Node attribute) {
        return attribute.name().local().equals("arrayType")
                && attribute.name().namespace().equals(NodeReader.SOAP_ENCODING);
    }

    private void prefix(String namespace) {
        if (!namespace.isEmpty() && !namespace.equals(XML) && !prefixes.containsKey(namespace)) {
            boolean envelope = !prefixes.containsValue("soap")
                    && (namespace.endsWith("/soap/envelope/") || namespace.endsWith("/soap-envelope"));
            prefixes.put(namespace, envelope ? "soap" : "n" + ++numbered);
        }
    }

    private String qualified(Name name) {
        if (name.namespace().equals(XML)) {
            return "xml:" + name.local();
        }
        return name.namespace().isEmpty() ? name.local() : prefixes.get(name.namespace()) + ":" + name.local();
    }

    private void element(Node node, int depth) {
        String tag = qualified(node.name());
        indent(depth);
        out.append('<').append(tag);
        if (depth == 0) {
            prefixes.forEach((uri, prefix) -> out.append(indented ? "\n    " : " ")
                    .append("xmlns:")
                    .append(prefix)
                    .append("=\"")
                    .append(XmlText.attribute(uri))
                    .append('"'));
        }
        if (node.type() != null) {
            out.append(" xsi:type=\"").append(qualified(node.type())).append('"');
        }
        if (node.nil()) {
            out.append(" xsi:nil=\"true\"");
        }
        for (Node attribute : node.attributes()) {
            out.append(' ').append(qualified(attribute.name())).append("=\"");
            String value = namesAType(attribute) ? qualified(Name.parse(attribute.text())) : attribute.text();
            out.append(XmlText.attribute(value)).append('"');
        }
        if (node.children().isEmpty() && node.text().isEmpty()) {
            out.append("/>");
            return;
        }
        out.append('>').append(XmlText.escape(node.text()));
        for (Node child : node.children()) {
            element(child, depth + 1);
        }
        if (!node.children().isEmpty()) {
            indent(depth);
        }
        out.append("</").append(tag).append('>');
    }

    private void indent(int depth) {
        if (indented && out.length() > 0) {
            out.append('\n').append(" ".repeat(depth));
        }
    }
}
