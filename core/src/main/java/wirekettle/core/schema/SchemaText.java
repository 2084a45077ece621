package wirekettle.core.schema;

import java.util.Map;
import java.util.TreeMap;
import java.util.function.BiPredicate;
import wirekettle.core.value.Name;
import wirekettle.core.value.XmlText;
import wirekettle.core.xml.XmlElement;

/** Writes a read schema as text again, without annotations and with its imports replaced. */
final class SchemaText {
    private SchemaText() {}

    static String attribute(String value) {
        return XmlText.attribute(value);
    }

    /** Returns the text; {@code keep} decides which global components stay. */
    static String write(SchemaDocument document, String imports, BiPredicate<SchemaDocument, XmlElement> keep) {
        XmlElement root = document.root();
        StringBuilder out = new StringBuilder("<").append(tag(root));
        declare(root, out);
        for (String local :
                new String[] {"elementFormDefault", "attributeFormDefault", "blockDefault", "finalDefault"}) {
            if (root.attribute(local) != null) {
                out.append(' ')
                        .append(local)
                        .append("=\"")
                        .append(attribute(root.attribute(local)))
                        .append('"');
            }
        }
        // a chameleon stays without: the validator moves it to the namespace that includes it
        if (root.attribute("targetNamespace") != null) {
            out.append(" targetNamespace=\"")
                    .append(attribute(document.targetNamespace()))
                    .append('"');
        }
        out.append('>').append(imports.replace("<xs:import", "<xs:import xmlns:xs=\"" + BuiltIn.XSD + "\""));
        for (XmlElement child : root.children()) {
            boolean linking = child.local().equals("import") || child.local().equals("include");
            boolean ours = child.name().namespace().equals(BuiltIn.XSD);
            if (ours && !linking && !child.local().equals("annotation") && keep.test(document, child)) {
                element(child, out);
            }
        }
        return out.append("</").append(tag(root)).append('>').toString();
    }

    private static void declare(XmlElement element, StringBuilder out) {
        Map<String, String> sorted = new TreeMap<>(element.prefixes());
        sorted.forEach((prefix, uri) -> {
            if (prefix.isEmpty() || !uri.isEmpty()) {
                out.append(prefix.isEmpty() ? " xmlns" : " xmlns:" + prefix);
                out.append("=\"").append(attribute(uri)).append('"');
            }
        });
    }

    private static String tag(XmlElement element) {
        for (Map.Entry<String, String> entry : element.prefixes().entrySet()) {
            if (entry.getValue().equals(element.name().namespace())) {
                return entry.getKey().isEmpty() ? element.local() : entry.getKey() + ":" + element.local();
            }
        }
        return element.local();
    }

    private static void element(XmlElement element, StringBuilder out) {
        if (element.local().equals("annotation") || !element.name().namespace().equals(BuiltIn.XSD)) {
            return;
        }
        out.append('<').append(tag(element));
        if (!element.prefixes().equals(element.parent().prefixes())) {
            declare(element, out);
        }
        for (int i = 0; i < element.attributeCount(); i++) {
            Name name = element.attributeName(i);
            if (name.namespace().isEmpty()) {
                out.append(' ').append(name.local()).append("=\"");
                out.append(attribute(bounded(name.local(), element.attributeValue(i))))
                        .append('"');
            }
        }
        out.append('>');
        element.children().forEach(child -> element(child, out));
        out.append("</").append(tag(element)).append('>');
    }

    /** The JDK's validator unrolls occurrence; in the thousands it gives up, so such a bound is left open. */
    private static String bounded(String attribute, String value) {
        return attribute.equals("maxOccurs")
                        && value.strip().length() > 3
                        && !value.strip().equals("unbounded")
                ? "unbounded"
                : value;
    }
}
