package wirekettle.core.schema;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.ScalarType;
import wirekettle.core.value.TypeInference;
import wirekettle.core.value.XmlText;

/**
 * Learns what documents look like from examples, and writes it as XML Schema: what is missing in one is optional, what
 * stands twice repeats, types are those every value fits. Learning again only ever widens. For one thread.
 */
public final class LearnedShape {
    private static final int DEEPEST = 100;
    private static final String XSD = "http://www.w3.org/2001/XMLSchema";

    private static final SchemaSet BUILT_INS = SchemaReader.read(List.of(), new ArrayList<>());

    private Element root;
    private final Set<String> news = new LinkedHashSet<>();
    private boolean first = true;

    private static final class Element {
        final Name name;
        final Map<Name, Element> children = new LinkedHashMap<>();
        final Map<Name, Element> attributes = new LinkedHashMap<>();
        final Set<Name> everyTime = new LinkedHashSet<>();
        boolean repeats;
        boolean nil;
        int seen;
        String type;

        Element(Name name) {
            this.name = name;
        }

        boolean optionalIn(Element parent) {
            return !parent.everyTime.contains(name);
        }
    }

    /** Starts from nothing. */
    public LearnedShape() {}

    /** Starts from what is known of a document. */
    public LearnedShape(SheetField known) {
        root = read(known, 0);
        first = false;
    }

    private static Element read(SheetField field, int depth) {
        Element made = new Element(field.name());
        made.seen = 1;
        made.nil = field.nillable();
        made.repeats = field.max() != 1;
        made.type = field.rule() == null ? null : field.rule().builtIn().name();
        if (depth < DEEPEST && !field.recursive()) {
            for (SheetField child : field.children()) {
                if (child.kind() == SheetField.Kind.ANY) {
                    continue;
                }
                Element its = read(child, depth + 1);
                (child.kind() == SheetField.Kind.ATTRIBUTE ? made.attributes : made.children).put(its.name, its);
                if (child.min() > 0) {
                    made.everyTime.add(its.name);
                }
            }
        }
        return made;
    }

    /**
     * Learns from one more document.
     *
     * @throws IllegalArgumentException when its root is another element than the documents before had
     */
    public void learn(Node document) {
        if (root == null) {
            root = new Element(document.name());
        }
        if (!root.name.equals(document.name())) {
            throw new IllegalArgumentException("the document begins with "
                    + document.name().local() + ", the ones before with " + root.name.local());
        }
        learn(document, root, "", 0);
        first = false;
    }

    private void learn(Node node, Element into, String above, int depth) {
        if (depth > DEEPEST) {
            return;
        }
        String path = above + "/" + node.name().local();
        into.nil |= node.nil();
        Map<Name, Integer> counts = new LinkedHashMap<>();
        for (Node child : node.children()) {
            Element its = into.children.get(child.name());
            if (its == null) {
                its = new Element(child.name());
                into.children.put(child.name(), its);
                if (into.seen == 0) {
                    into.everyTime.add(child.name());
                }
                say(path + "/" + child.name().local() + " is new");
            }
            if (counts.merge(child.name(), 1, Integer::sum) == 2 && !its.repeats) {
                its.repeats = true;
                say(path + "/" + child.name().local() + " repeats");
            }
            learn(child, its, path, depth + 1);
        }
        for (Node attribute : node.attributes()) {
            counts.put(attribute.name(), 1);
            Element its = into.attributes.get(attribute.name());
            if (its == null) {
                its = new Element(attribute.name());
                into.attributes.put(attribute.name(), its);
                if (into.seen == 0) {
                    into.everyTime.add(attribute.name());
                }
                say(path + "/@" + attribute.name().local() + " is new");
            }
            value(attribute.text(), its, path + "/@" + attribute.name().local());
        }
        if (into.everyTime.retainAll(counts.keySet())) {
            say(path + " can be without some of its fields");
        }
        if (node.children().isEmpty() && !node.nil()) {
            value(node.text(), into, path);
        }
        into.seen++;
    }

    private void value(String text, Element into, String path) {
        if (text.isBlank()) {
            return;
        }
        TypeInference inference = new TypeInference();
        inference.look(text);
        var column = inference.column("v", "v");
        String its = column.format() != null ? "string" : xsd(column.type());
        if (BUILT_INS.rule(TypeUse.named(new Name(XSD, its))).problem(text) != null) {
            its = "string"; // 06:00 is a time to people, not to XML Schema
        }
        if (into.type == null) {
            into.type = its;
        } else if (!into.type.equals(its)) {
            String wider = wider(into.type, its);
            if (!wider.equals(into.type)) {
                say(path + " is now " + wider + ", was " + into.type);
            }
            into.type = wider;
        }
    }

    private static String wider(String a, String b) {
        Set<String> numbers = Set.of("integer", "decimal");
        return a.equals(b) ? a : numbers.contains(a) && numbers.contains(b) ? "decimal" : "string";
    }

    private static String xsd(ScalarType type) {
        return switch (type) {
            case INTEGER -> "integer";
            case DECIMAL -> "decimal";
            case BOOLEAN -> "boolean";
            case DATE -> "date";
            case DATETIME -> "dateTime";
            case TIME -> "time";
            default -> "string";
        };
    }

    private void say(String what) {
        if (!first) {
            news.add(what);
        }
    }

    /** Returns what the documents learned since the start have that was not known before, in words. */
    public List<String> news() {
        return List.copyOf(news);
    }

    /** Returns the expanded name of the root element, null when nothing was learned yet. */
    public String root() {
        return root == null ? null : root.name.toString();
    }

    /** Returns the shape as XML Schema documents, one for each namespace. */
    public List<String> schemas() {
        Map<String, Map<Name, Element>> global = new TreeMap<>();
        globals(root, null, global);
        Map<String, String> prefixes = new LinkedHashMap<>();
        for (String namespace : global.keySet()) {
            if (!namespace.isEmpty()) {
                prefixes.put(namespace, "n" + (prefixes.size() + 1));
            }
        }
        List<String> texts = new ArrayList<>();
        global.forEach((namespace, elements) -> {
            StringBuilder out = new StringBuilder("<xs:schema xmlns:xs=\"" + XSD + "\"");
            prefixes.forEach((uri, prefix) -> out.append(" xmlns:")
                    .append(prefix)
                    .append("=\"")
                    .append(XmlText.attribute(uri))
                    .append('"'));
            if (!namespace.isEmpty()) {
                out.append(" targetNamespace=\"").append(XmlText.attribute(namespace));
                out.append("\" elementFormDefault=\"qualified\"");
            }
            out.append(">\n");
            for (String other : global.keySet()) {
                if (!other.equals(namespace)) {
                    out.append("  <xs:import");
                    out.append(other.isEmpty() ? "" : " namespace=\"" + XmlText.attribute(other) + "\"");
                    out.append("/>\n");
                }
            }
            elements.values().forEach(element -> element(element, null, prefixes, out, "  "));
            texts.add(out + "</xs:schema>\n");
        });
        return texts;
    }

    /** An element in another namespace than the one around it is declared globally there. */
    private static void globals(Element element, Element parent, Map<String, Map<Name, Element>> into) {
        if (parent == null || !parent.name.namespace().equals(element.name.namespace())) {
            into.computeIfAbsent(element.name.namespace(), n -> new LinkedHashMap<>())
                    .putIfAbsent(element.name, element);
        }
        element.children.values().forEach(child -> globals(child, element, into));
    }

    private static void element(
            Element element, Element parent, Map<String, String> prefixes, StringBuilder out, String indent) {
        boolean foreign = parent != null && !parent.name.namespace().equals(element.name.namespace());
        out.append(indent).append("<xs:element ");
        if (foreign) {
            String prefix = prefixes.get(element.name.namespace());
            out.append("ref=\"").append(prefix == null ? "" : prefix + ":").append(element.name.local());
            out.append('"');
        } else {
            out.append("name=\"").append(element.name.local()).append('"');
        }
        if (parent != null) {
            out.append(element.optionalIn(parent) ? " minOccurs=\"0\"" : "");
            out.append(element.repeats ? " maxOccurs=\"unbounded\"" : "");
        }
        if (foreign) {
            out.append("/>\n");
            return;
        }
        String type = "xs:" + (element.type == null ? "string" : element.type);
        out.append(element.nil ? " nillable=\"true\"" : "");
        if (element.children.isEmpty() && element.attributes.isEmpty()) {
            out.append(" type=\"").append(type).append("\"/>\n");
            return;
        }
        out.append(">\n").append(indent).append("  <xs:complexType>\n");
        String inner = indent + "    ";
        if (element.children.isEmpty()) {
            out.append(inner)
                    .append("<xs:simpleContent><xs:extension base=\"")
                    .append(type)
                    .append("\">\n");
        } else {
            out.append(inner).append("<xs:sequence>\n");
            element.children.values().forEach(child -> element(child, element, prefixes, out, inner + "  "));
            out.append(inner).append("</xs:sequence>\n");
        }
        for (Element attribute : element.attributes.values()) {
            if (!attribute.name.namespace().isEmpty()) {
                continue; // xml:lang and the like are read and never needed
            }
            out.append(inner).append("<xs:attribute name=\"").append(attribute.name.local());
            out.append("\" type=\"xs:")
                    .append(attribute.type == null ? "string" : attribute.type)
                    .append('"');
            out.append(element.everyTime.contains(attribute.name) ? " use=\"required\"" : "")
                    .append("/>\n");
        }
        out.append(element.children.isEmpty() ? inner + "</xs:extension></xs:simpleContent>\n" : "");
        out.append(indent).append("  </xs:complexType>\n").append(indent).append("</xs:element>\n");
    }
}
