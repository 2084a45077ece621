package wirekettle.demo.gates;

import java.nio.charset.StandardCharsets;
import java.util.HashMap;
import java.util.Map;
import java.util.TreeMap;
import org.w3c.dom.Attr;
import org.w3c.dom.Element;
import org.w3c.dom.NamedNodeMap;
import org.w3c.dom.Node;

/** The exclusive canonical form of an element without comments (Exclusive XML Canonicalization 1.0, 3). */
final class Canonical {
    private static final String XMLNS = "http://www.w3.org/2000/xmlns/";

    private final StringBuilder out = new StringBuilder();

    private Canonical() {}

    static byte[] of(Element element) {
        Canonical form = new Canonical();
        form.element(element, new HashMap<>());
        return form.out.toString().getBytes(StandardCharsets.UTF_8);
    }

    private void element(Element element, Map<String, String> rendered) {
        Map<String, String> used = new TreeMap<>();
        used.put(prefix(element), namespace(element));
        Map<String, Attr> attributes = new TreeMap<>();
        NamedNodeMap all = element.getAttributes();
        for (int i = 0; i < all.getLength(); i++) {
            Attr attribute = (Attr) all.item(i);
            if (!XMLNS.equals(attribute.getNamespaceURI())) {
                String ns = attribute.getNamespaceURI() == null ? "" : attribute.getNamespaceURI();
                attributes.put(ns + "\u0000" + attribute.getLocalName(), attribute);
                if (!ns.isEmpty() && !"xml".equals(attribute.getPrefix())) {
                    used.put(prefix(attribute), ns);
                }
            }
        }
        out.append('<').append(element.getNodeName());
        Map<String, String> inside = new HashMap<>(rendered);
        used.forEach((prefix, ns) -> {
            boolean said = ns.equals(rendered.getOrDefault(prefix, prefix.isEmpty() ? "" : null));
            if (!said) {
                out.append(prefix.isEmpty() ? " xmlns=\"" : " xmlns:" + prefix + "=\"");
                out.append(attributeText(ns)).append('"');
                inside.put(prefix, ns);
            }
        });
        attributes.values().forEach(attribute -> out.append(' ')
                .append(attribute.getNodeName())
                .append("=\"")
                .append(attributeText(attribute.getValue()))
                .append('"'));
        out.append('>');
        for (Node node = element.getFirstChild(); node != null; node = node.getNextSibling()) {
            if (node instanceof Element child) {
                element(child, inside);
            } else if (node.getNodeType() == Node.TEXT_NODE || node.getNodeType() == Node.CDATA_SECTION_NODE) {
                out.append(text(node.getNodeValue()));
            }
        }
        out.append("</").append(element.getNodeName()).append('>');
    }

    private static String prefix(Node node) {
        return node.getPrefix() == null ? "" : node.getPrefix();
    }

    private static String namespace(Element element) {
        return element.getNamespaceURI() == null ? "" : element.getNamespaceURI();
    }

    private static String text(String value) {
        return value.replace("&", "&amp;")
                .replace("<", "&lt;")
                .replace(">", "&gt;")
                .replace("\r", "&#xD;");
    }

    private static String attributeText(String value) {
        return value.replace("&", "&amp;")
                .replace("<", "&lt;")
                .replace("\"", "&quot;")
                .replace("\t", "&#x9;")
                .replace("\n", "&#xA;")
                .replace("\r", "&#xD;");
    }
}
