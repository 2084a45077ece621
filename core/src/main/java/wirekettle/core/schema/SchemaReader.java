package wirekettle.core.schema;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.value.Name;
import wirekettle.core.xml.Finding;
import wirekettle.core.xml.Finding.Severity;
import wirekettle.core.xml.XmlElement;

/** Reads schema documents into a {@link SchemaSet}; what it cannot use becomes a finding, never an exception. */
public final class SchemaReader {
    private static final String XSD = BuiltIn.XSD;
    private static final TypeUse UNTYPED = new TypeUse(new Name("", "of the head"), null);
    private static final Set<String> SILENT =
            Set.of("annotation", "import", "include", "notation", "key", "keyref", "unique", "anyAttribute");

    private final SchemaSet set = new SchemaSet();
    private final List<Finding> findings;
    private final References references;
    private final Map<String, String> places = new java.util.HashMap<>();
    private boolean redefining;
    private SchemaDocument current;
    private boolean elementsQualified;
    private boolean attributesQualified;

    private SchemaReader(List<Finding> findings) {
        this.findings = findings;
        this.references = new References(set, findings);
    }

    /** Reads all documents together, so order and circles do not matter, and adds what is unusual to findings. */
    public static SchemaSet read(List<SchemaDocument> documents, List<Finding> findings) {
        SchemaReader reader = new SchemaReader(findings);
        documents.forEach(reader::document);
        reader.references.check();
        reader.typesOfHeads();
        return reader.set;
    }

    private void document(SchemaDocument document) {
        current = document;
        XmlElement root = document.root();
        elementsQualified = "qualified".equals(root.attribute("elementFormDefault"));
        attributesQualified = "qualified".equals(root.attribute("attributeFormDefault"));
        for (XmlElement child : root.children()) {
            if (child.name().namespace().equals(XSD)) {
                component(child);
            }
        }
    }

    private void component(XmlElement node) {
        String kind = node.local();
        if (SILENT.contains(kind)) {
            return;
        }
        if (kind.equals("redefine")) {
            note(
                    node,
                    Severity.WARNING,
                    "redefine",
                    "xs:redefine is read so that the redefinition stands in the place of the original; check the result");
            redefining = true;
            node.children().forEach(this::component);
            redefining = false;
            return;
        }
        String local = node.attribute("name");
        if (local == null) {
            note(node, Severity.ERROR, "name-missing", "a global " + kind + " has no name and is left out");
            return;
        }
        Name name = new Name(current.targetNamespace(), local.strip());
        switch (kind) {
            case "element" -> define(set.elements, name, element(node, name), node, kind);
            case "complexType" -> define(set.types, name, complexType(node, name), node, kind);
            case "simpleType" -> define(set.types, name, simpleType(node, name), node, kind);
            case "group" -> define(set.groups, name, content(node), node, kind);
            case "attribute" -> define(set.attributes, name, attribute(node), node, kind);
            case "attributeGroup" -> {
                List<AttributeUse> uses = new ArrayList<>();
                List<Name> groups = new ArrayList<>();
                attributes(node, uses, groups);
                define(set.attributeGroups, name, new SchemaSet.AttributeGroup(uses, groups), node, kind);
            }
            default -> note(node, Severity.WARNING, "unknown-component", "xs:" + kind + " is not known and left out");
        }
    }

    private <T> void define(Map<Name, T> map, Name name, T value, XmlElement node, String kind) {
        if (value == null) {
            return;
        }
        String key = (kind.endsWith("Type") ? "type" : kind) + " " + name;
        if (redefining) {
            map.put(name, value);
            set.redefined.add(key);
            places.put(key, place(node));
            return;
        }
        if (map.putIfAbsent(name, value) == null) {
            places.put(key, place(node));
        } else if (set.redefined.contains(key) && !map.containsKey(SchemaSet.original(name))) {
            map.put(SchemaSet.original(name), value);
        } else {
            note(
                    node,
                    Severity.WARNING,
                    "defined-twice",
                    kind + " " + name.local() + " is defined already in " + places.get(key)
                            + "; the first definition is used");
        }
    }

    private String place(XmlElement node) {
        return current.document() + " line " + node.line();
    }

    /** An element of a substitution group without a type of its own has that of its head (3.3.2). */
    private void typesOfHeads() {
        set.elements.replaceAll((name, element) -> {
            ElementDecl at = element;
            for (int steps = 0; at != null && at.type() == UNTYPED && steps < 64; steps++) {
                at = at.substitutionGroup() == null ? null : set.elements.get(at.substitutionGroup());
            }
            return element.type() == UNTYPED
                    ? element.typed(at == null || at.type() == UNTYPED ? TypeUse.ANY : at.type())
                    : element;
        });
    }

    private ElementDecl element(XmlElement node, Name name) {
        String documentation = documentation(node);
        Name substitutes = qname(node, "substitutionGroup", "element");
        TypeUse type = typeOf(node, "type");
        return new ElementDecl(
                name,
                type != null ? type : substitutes == null ? TypeUse.ANY : UNTYPED,
                isTrue(node.attribute("nillable")),
                isTrue(node.attribute("abstract")),
                node.attribute("default"),
                node.attribute("fixed"),
                substitutes,
                documentation);
    }

    private TypeUse typeOf(XmlElement node, String attribute) {
        Name named = qname(node, attribute, "type");
        if (named != null) {
            return TypeUse.named(named);
        }
        XmlElement complex = node.child(XSD, "complexType");
        if (complex != null) {
            return new TypeUse(null, complexType(complex, null));
        }
        XmlElement simple = node.child(XSD, "simpleType");
        return simple == null ? null : new TypeUse(null, simpleType(simple, null));
    }

    private ComplexType complexType(XmlElement node, Name name) {
        XmlElement body = node;
        TypeUse base = null;
        boolean extension = false;
        boolean simple = false;
        Facets facets = Facets.NONE;
        XmlElement contentNode = node.child(XSD, "complexContent");
        if (contentNode == null) {
            contentNode = node.child(XSD, "simpleContent");
            simple = contentNode != null;
        }
        if (contentNode != null) {
            XmlElement derivation = contentNode.child(XSD, "extension");
            extension = derivation != null;
            if (derivation == null) {
                derivation = contentNode.child(XSD, "restriction");
            }
            if (derivation == null) {
                note(contentNode, Severity.ERROR, "derivation-missing", "neither extension nor restriction is given");
            } else {
                body = derivation;
                Name named = qname(derivation, "base", "type");
                boolean itself = redefining && named != null && named.equals(name);
                base = named == null ? null : TypeUse.named(itself ? SchemaSet.original(name) : named);
                XmlElement narrower = simple && !extension ? derivation.child(XSD, "simpleType") : null;
                base = narrower == null ? base : new TypeUse(null, simpleType(narrower, null));
                facets = simple && !extension ? FacetReader.read(derivation, this::note) : Facets.NONE;
            }
        }
        List<AttributeUse> uses = new ArrayList<>();
        List<Name> groups = new ArrayList<>();
        attributes(body, uses, groups);
        Particle content = simple ? null : content(body);
        Name arrayOf = SoapEncoding.isArray(base) ? arrayOf(body, content) : null;
        if (arrayOf != null) {
            content = content != null ? content : SoapEncoding.items(arrayOf);
            base = null;
        }
        return new ComplexType(
                name,
                documentation(node),
                base,
                extension,
                content,
                List.copyOf(uses),
                List.copyOf(groups),
                simple,
                facets,
                isTrue(node.attribute("mixed")) || contentNode != null && isTrue(contentNode.attribute("mixed")),
                isTrue(node.attribute("abstract")),
                body.child(XSD, "anyAttribute") != null,
                arrayOf);
    }

    /** Returns what the items of a SOAP 1.1 array are (SOAP 1.1, 5.4.2; WSDL 1.1, 2.2). */
    private Name arrayOf(XmlElement body, Particle content) {
        for (XmlElement attribute : body.children(XSD, "attribute")) {
            String array = SoapEncoding.arrayType(attribute);
            if (array != null && array.indexOf('[') > 0) {
                String rank = array.substring(array.indexOf('['));
                if (rank.indexOf(',') >= 0 || rank.indexOf('[', 1) > 0) {
                    note(
                            attribute,
                            Severity.WARNING,
                            "array-dimensions",
                            "an array of more than one dimension is shown as a list of any");
                    return TypeUse.ANY.name();
                }
                Name item = resolve(attribute, array.substring(0, array.indexOf('[')), "type");
                return item == null ? TypeUse.ANY.name() : item;
            }
        }
        return SoapEncoding.onlyItem(content);
    }

    private Particle content(XmlElement node) {
        for (XmlElement child : node.children()) {
            Particle particle = isModel(child) ? particle(child) : null;
            if (particle != null) {
                return particle;
            }
        }
        return null;
    }

    private static boolean isModel(XmlElement node) {
        return node.name().namespace().equals(XSD)
                && switch (node.local()) {
                    case "sequence", "choice", "all", "group" -> true;
                    default -> false;
                };
    }

    private Particle particle(XmlElement node) {
        int min = occurs(node, "minOccurs", 1);
        int max = occurs(node, "maxOccurs", 1);
        if (max == 0 || !node.name().namespace().equals(XSD)) {
            return null;
        }
        switch (node.local()) {
            case "element" -> {
                Name ref = qname(node, "ref", "element");
                if (ref != null) {
                    return new Particle.ElementRef(ref, min, max);
                }
                String local = node.attribute("name");
                if (local == null) {
                    note(node, Severity.ERROR, "name-missing", "an element has neither name nor ref and is left out");
                    return null;
                }
                String form = node.attribute("form");
                boolean qualified = form == null ? elementsQualified : form.equals("qualified");
                Name name = new Name(qualified ? current.targetNamespace() : "", local.strip());
                return new Particle.Element(element(node, name), min, max);
            }
            case "sequence", "choice", "all" -> {
                List<Particle> parts = new ArrayList<>();
                for (XmlElement child : node.children()) {
                    Particle part = particle(child);
                    if (part != null) {
                        parts.add(part);
                    }
                }
                Particle.Kind kind = Particle.Kind.valueOf(node.local().toUpperCase(java.util.Locale.ROOT));
                return new Particle.Group(kind, List.copyOf(parts), min, max);
            }
            case "group" -> {
                Name ref = qname(node, "ref", "group");
                boolean itself = redefining && ref != null && isInside(node, ref);
                return ref == null ? null : new Particle.GroupRef(itself ? SchemaSet.original(ref) : ref, min, max);
            }
            case "any" -> {
                String namespaces = node.attribute("namespace");
                boolean strict = node.attribute("processContents") == null
                        || node.attribute("processContents").equals("strict");
                return new Particle.Any(
                        namespaces == null ? "##any" : namespaces, current.targetNamespace(), strict, min, max);
            }
            default -> {
                return null;
            }
        }
    }

    private boolean isInside(XmlElement node, Name group) {
        for (XmlElement above = node.parent(); above != null; above = above.parent()) {
            if (above.local().equals("group") && group.local().equals(above.attribute("name"))) {
                return true;
            }
        }
        return false;
    }

    private void attributes(XmlElement node, List<AttributeUse> uses, List<Name> groups) {
        for (XmlElement child : node.children(XSD, "attribute")) {
            AttributeUse use = SoapEncoding.arrayType(child) == null ? attribute(child) : null;
            if (use != null) {
                uses.add(use);
            }
        }
        for (XmlElement child : node.children(XSD, "attributeGroup")) {
            Name ref = qname(child, "ref", "attributeGroup");
            if (ref != null) {
                groups.add(ref);
            }
        }
    }

    private AttributeUse attribute(XmlElement node) {
        Name ref = qname(node, "ref", "attribute");
        Name name = ref;
        TypeUse type = null;
        if (ref == null) {
            String local = node.attribute("name");
            if (local == null) {
                note(node, Severity.ERROR, "name-missing", "an attribute has neither name nor ref and is left out");
                return null;
            }
            String form = node.attribute("form");
            boolean global = node.parent().local().equals("schema");
            boolean qualified = global || (form == null ? attributesQualified : form.equals("qualified"));
            name = new Name(qualified ? current.targetNamespace() : "", local.strip());
            type = typeOf(node, "type");
            if (type == null) {
                type = TypeUse.named(new Name(XSD, "string"));
            }
        }
        String use = node.attribute("use");
        return new AttributeUse(
                name,
                type,
                "required".equals(use),
                "prohibited".equals(use),
                node.attribute("default"),
                node.attribute("fixed"),
                documentation(node));
    }

    private SimpleType simpleType(XmlElement node, Name name) {
        String documentation = documentation(node);
        XmlElement restriction = node.child(XSD, "restriction");
        if (restriction != null) {
            TypeUse base = typeOf(restriction, "base");
            if (redefining && base != null && name != null && name.equals(base.name())) {
                base = TypeUse.named(SchemaSet.original(name));
            }
            return new SimpleType(
                    name, documentation, base, FacetReader.read(restriction, this::note), null, List.of());
        }
        XmlElement list = node.child(XSD, "list");
        if (list != null) {
            TypeUse item = typeOf(list, "itemType");
            return new SimpleType(name, documentation, null, Facets.NONE, item == null ? TypeUse.ANY : item, List.of());
        }
        List<TypeUse> members = new ArrayList<>();
        XmlElement union = node.child(XSD, "union");
        if (union != null) {
            String names = union.attribute("memberTypes");
            for (String member : names == null ? new String[0] : names.strip().split("\\s+")) {
                Name resolved = resolve(union, member, "type");
                if (resolved != null) {
                    members.add(TypeUse.named(resolved));
                }
            }
            for (XmlElement inline : union.children(XSD, "simpleType")) {
                members.add(new TypeUse(null, simpleType(inline, null)));
            }
        } else {
            note(node, Severity.ERROR, "derivation-missing", "a simple type has no restriction, list or union");
        }
        return new SimpleType(name, documentation, null, Facets.NONE, null, List.copyOf(members));
    }

    private int occurs(XmlElement node, String attribute, int otherwise) {
        String value = node.attribute(attribute);
        if (value == null) {
            return otherwise;
        }
        if (value.strip().equals("unbounded")) {
            return -1;
        }
        try {
            return Integer.parseInt(value.strip());
        } catch (NumberFormatException e) {
            note(
                    node,
                    Severity.WARNING,
                    "bad-occurs",
                    attribute + " “" + value + "” is no number; " + otherwise + " is used");
            return otherwise;
        }
    }

    private Name qname(XmlElement node, String attribute, String kind) {
        String value = node.attribute(attribute);
        return value == null ? null : resolve(node, value, kind);
    }

    private Name resolve(XmlElement node, String value, String kind) {
        Name name = node.resolve(value);
        if (name == null) {
            note(
                    node,
                    Severity.ERROR,
                    "prefix-undeclared",
                    "the prefix of " + value + " is not declared; " + "it is read as any");
            return null;
        }
        boolean chameleon = name.namespace().isEmpty() && current.root().attribute("targetNamespace") == null;
        if (chameleon) {
            name = new Name(current.targetNamespace(), name.local());
        }
        if (!name.namespace().equals(XSD)
                || BuiltIn.of(name.local()) == null && !name.local().equals("anyType")) {
            references.add(kind, name, current.document(), node);
        }
        return name;
    }

    private static String documentation(XmlElement node) {
        XmlElement annotation = node.child(XSD, "annotation");
        XmlElement text = annotation == null ? null : annotation.child(XSD, "documentation");
        return text == null ? "" : text.allText();
    }

    private static boolean isTrue(String value) {
        return value != null && (value.strip().equals("true") || value.strip().equals("1"));
    }

    private void note(XmlElement at, Severity severity, String code, String message) {
        findings.add(Finding.at(severity, code, message, current.document(), at));
    }
}
