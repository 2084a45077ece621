package wirekettle.core.schema;

import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import wirekettle.core.value.Name;
import wirekettle.core.value.XmlText;
import wirekettle.core.xml.XmlElement;

/**
 * Writes a read schema as text again, as a strict validator wants it: without annotations, its imports replaced, every
 * reference under the name it was resolved to, what could not be resolved as any, redefinitions and SOAP arrays spelt
 * out, each component once.
 */
final class SchemaText {
    private static final Map<String, String> REFERENCES = Map.of(
            "type", "type", "base", "type", "itemType", "type", "memberTypes", "type", "substitutionGroup", "element");
    private static final Name STRING = new Name(BuiltIn.XSD, "string");

    private final SchemaDocument document;
    private final SchemaSet set;
    private final Set<String> defined;
    private final StringBuilder out = new StringBuilder();
    private boolean redefining;
    private int numbered;

    private SchemaText(SchemaDocument document, SchemaSet set, Set<String> defined) {
        this.document = document;
        this.set = set;
        this.defined = defined;
    }

    static String attribute(String value) {
        return XmlText.attribute(value);
    }

    /** Returns the text; {@code defined} holds the components written so far, of which no second is written. */
    static String write(SchemaDocument document, String imports, SchemaSet set, Set<String> defined) {
        return new SchemaText(document, set, defined).all(imports);
    }

    private String all(String imports) {
        XmlElement root = document.root();
        out.append("<xs:schema xmlns:xs=\"").append(BuiltIn.XSD).append('"');
        declare(root);
        for (String local :
                new String[] {"elementFormDefault", "attributeFormDefault", "blockDefault", "finalDefault"}) {
            plain(local, root.attribute(local));
        }
        if (!document.targetNamespace().isEmpty()) {
            plain("targetNamespace", document.targetNamespace());
        }
        out.append('>').append(imports);
        root.children().forEach(this::component);
        return out.append("</xs:schema>").toString();
    }

    private void plain(String name, String value) {
        if (value != null) {
            out.append(' ').append(name).append("=\"").append(attribute(value)).append('"');
        }
    }

    private void declare(XmlElement element) {
        new TreeMap<>(element.prefixes()).forEach((prefix, uri) -> {
            if (!prefix.equals("xs") && !prefix.isEmpty() && !uri.isEmpty()) {
                plain("xmlns:" + prefix, uri);
            }
        });
    }

    private void component(XmlElement child) {
        if (!child.name().namespace().equals(BuiltIn.XSD)) {
            return;
        }
        switch (child.local()) {
            case "import", "include", "annotation" -> {}
            case "redefine" -> {
                redefining = true;
                child.children().forEach(this::component);
                redefining = false;
            }
            default -> global(child);
        }
    }

    private void global(XmlElement child) {
        String local = child.attribute("name");
        if (local == null) {
            if (child.local().equals("notation")) {
                element(child, null);
            }
            return;
        }
        String kind = child.local().endsWith("Type") ? "type" : child.local();
        Name name = new Name(document.targetNamespace(), local.strip());
        boolean original = !redefining && set.redefined.contains(kind + " " + name);
        Name own = original ? SchemaSet.original(name) : name;
        if (defined.add(kind + " " + own)) {
            element(child, own.local());
        }
    }

    private void element(XmlElement element, String name) {
        if (!element.name().namespace().equals(BuiltIn.XSD) || element.local().equals("annotation")) {
            return;
        }
        switch (element.local()) {
            case "pattern" -> {
                // the validator goes back and forth where something repeated repeats: such patterns are left to our own
                // rule
                XsdPattern pattern =
                        element.attribute("value") == null ? null : XsdPattern.of(element.attribute("value"));
                if (pattern == null || pattern.nested()) {
                    return;
                }
            }
            case "length", "minLength", "maxLength", "totalDigits", "fractionDigits" -> {
                if (element.attribute("value") == null
                        || !element.attribute("value").strip().matches("\\d{1,9}")) {
                    return;
                }
            }
            case "element", "attribute", "group", "attributeGroup" -> {
                if (unresolved(element)) {
                    return;
                }
            }
            case "complexContent" -> {
                if (withoutBase(element)) {
                    return;
                }
            }
            default -> {}
        }
        out.append("<xs:").append(element.local());
        for (int i = 0; i < element.attributeCount(); i++) {
            Name attribute = element.attributeName(i);
            if (attribute.namespace().isEmpty()) {
                attribute(element, attribute.local(), element.attributeValue(i), name);
            }
        }
        out.append('>');
        array(element);
        element.children().forEach(child -> element(child, null));
        out.append("</xs:").append(element.local()).append('>');
    }

    private void attribute(XmlElement element, String local, String value, String name) {
        String kind = local.equals("ref") ? element.local() : REFERENCES.get(local);
        if (local.equals("name")) {
            plain(local, name == null ? value.strip() : name);
        } else if (kind == null) {
            plain(local, bounded(local, value));
        } else if (local.equals("memberTypes")) {
            StringBuilder all = new StringBuilder();
            for (String member : value.strip().split("\\s+")) {
                all.append(all.isEmpty() ? "" : " ").append(reference(element, local, member, kind));
            }
            plain(local, all.toString());
        } else {
            String written = reference(element, local, value, kind);
            if (written != null) {
                plain(local, written);
            }
        }
    }

    /** Writes the declaration of a prefix of its own and returns the reference with it; null when it is left out. */
    private String reference(XmlElement element, String local, String value, String kind) {
        Name name = resolved(element, value, kind);
        if (name == null) {
            if (kind.equals("element")) {
                return null;
            }
            boolean simple = !local.equals("type") || element.local().equals("attribute");
            name = simple ? STRING : TypeUse.ANY.name();
        }
        if (name.namespace().isEmpty()) {
            out.append(" xmlns=\"\"");
            return name.local();
        }
        if (name.namespace().equals(KnownSchemas.XML)) {
            return "xml:" + name.local();
        }
        String prefix = "q" + numbered++;
        plain("xmlns:" + prefix, name.namespace());
        return prefix + ":" + name.local();
    }

    private Name resolved(XmlElement element, String value, String kind) {
        Name name = element.resolve(value);
        if (name == null) {
            return null;
        }
        if (name.namespace().isEmpty() && document.root().attribute("targetNamespace") == null) {
            name = new Name(document.targetNamespace(), name.local());
        }
        if (name.namespace().equals(BuiltIn.XSD)) {
            boolean known = BuiltIn.of(name.local()) != null || name.local().equals("anyType");
            return known ? name : null;
        }
        if (name.namespace().equals("http://www.w3.org/XML/1998/namespace")) {
            return name;
        }
        Name found = set.defined(kind, name);
        boolean there =
                switch (kind) {
                    case "element" -> set.elements.containsKey(found);
                    case "type" -> set.types.containsKey(found);
                    case "group" -> set.groups.containsKey(found);
                    case "attribute" -> set.attributes.containsKey(found);
                    default -> set.attributeGroups.containsKey(found);
                };
        if (!there) {
            return null;
        }
        boolean itself = redefining && set.redefined.contains(kind + " " + found) && insideOf(element, found);
        return itself ? SchemaSet.original(found) : found;
    }

    private static boolean insideOf(XmlElement element, Name name) {
        for (XmlElement above = element; above != null; above = above.parent()) {
            if (above.parent() != null && above.parent().local().equals("redefine")) {
                return name.local().equals(above.attribute("name"));
            }
        }
        return false;
    }

    /** An element that refers to nothing known is any element; other such references are left out. */
    private boolean unresolved(XmlElement element) {
        String ref = element.attribute("ref");
        if (ref == null) {
            boolean nameless = element.attribute("name") == null;
            return nameless;
        }
        if (resolved(element, ref, element.local()) != null) {
            return false;
        }
        if (element.local().equals("element")) {
            out.append("<xs:any namespace=\"##any\" processContents=\"lax\"");
            plain("minOccurs", element.attribute("minOccurs"));
            plain("maxOccurs", element.attribute("maxOccurs"));
            out.append("/>");
        }
        return true;
    }

    /** Content that derives from a type nobody defines stands for itself. */
    private boolean withoutBase(XmlElement content) {
        for (XmlElement derivation : content.children()) {
            String base = derivation.attribute("base");
            boolean derives =
                    derivation.local().equals("extension") || derivation.local().equals("restriction");
            if (derives && (base == null || resolved(derivation, base, "type") == null)) {
                derivation.children().forEach(child -> element(child, null));
                return true;
            }
        }
        return false;
    }

    /** The items of a SOAP array are said by an attribute only; the validator needs them as content. */
    private void array(XmlElement restriction) {
        String base = restriction.local().equals("restriction") ? restriction.attribute("base") : null;
        if (base == null || !new Name(SoapEncoding.NAMESPACE, "Array").equals(restriction.resolve(base))) {
            return;
        }
        boolean content = restriction.children().stream()
                .anyMatch(c -> c.local().equals("sequence")
                        || c.local().equals("all")
                        || c.local().equals("choice"));
        XmlElement complex =
                restriction.parent() == null ? null : restriction.parent().parent();
        String name = complex == null ? null : complex.attribute("name");
        Type type = name == null ? null : set.types.get(new Name(document.targetNamespace(), name.strip()));
        if (!content) {
            Name item =
                    type instanceof ComplexType array && array.arrayOf() != null ? array.arrayOf() : TypeUse.ANY.name();
            boolean known = item.namespace().equals(BuiltIn.XSD) || set.types.containsKey(item);
            Name written = known ? set.defined("type", item) : TypeUse.ANY.name();
            out.append("<xs:sequence><xs:element name=\"item\" form=\"unqualified\" minOccurs=\"0\"");
            out.append(" maxOccurs=\"unbounded\" nillable=\"true\"");
            plain("xmlns:item", written.namespace());
            plain("type", "item:" + written.local());
            out.append("/></xs:sequence>");
        }
    }

    /**
     * The JDK's validator unrolls occurrence; in the thousands it gives up, so such a bound is left open. A bound that
     * is no number is one, as it is read.
     */
    private static String bounded(String attribute, String value) {
        String plain = value.strip();
        if (!attribute.equals("maxOccurs") && !attribute.equals("minOccurs") || plain.equals("unbounded")) {
            return value;
        }
        if (!plain.matches("\\d+")) {
            return "1";
        }
        return attribute.equals("maxOccurs") && plain.length() > 3 ? "unbounded" : plain;
    }
}
