package wirekettle.core.schema;

import java.util.ArrayList;
import java.util.LinkedHashSet;
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
    private static final Set<String> SILENT =
            Set.of("annotation", "import", "include", "notation", "key", "keyref", "unique", "anyAttribute");

    private record Reference(String kind, Name name, String document, int line, int column) {}

    private final SchemaSet set = new SchemaSet();
    private final List<Finding> findings;
    private final Set<Reference> references = new LinkedHashSet<>();
    private SchemaDocument current;
    private boolean elementsQualified;
    private boolean attributesQualified;

    private SchemaReader(List<Finding> findings) {
        this.findings = findings;
    }

    /** Reads all documents together, so order and circles do not matter, and adds what is unusual to findings. */
    public static SchemaSet read(List<SchemaDocument> documents, List<Finding> findings) {
        SchemaReader reader = new SchemaReader(findings);
        documents.forEach(reader::document);
        reader.checkReferences();
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
            note(node, Severity.WARNING, "redefine", "xs:redefine is read as plain definitions; check the result");
            node.children().forEach(this::component);
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
        if (value != null && map.putIfAbsent(name, value) != null) {
            note(
                    node,
                    Severity.WARNING,
                    "defined-twice",
                    kind + " " + name.local() + " is defined more than once; the first definition is used");
        }
    }

    private ElementDecl element(XmlElement node, Name name) {
        String documentation = documentation(node);
        Name substitutes = qname(node, "substitutionGroup", "element");
        TypeUse type = typeOf(node, "type");
        if (type == null && substitutes != null) {
            ElementDecl head = set.elements.get(substitutes);
            type = head == null ? null : head.type();
        }
        return new ElementDecl(
                name,
                type == null ? TypeUse.ANY : type,
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
                base = named == null ? null : TypeUse.named(named);
                facets = simple && !extension ? facets(derivation) : Facets.NONE;
            }
        }
        List<AttributeUse> uses = new ArrayList<>();
        List<Name> groups = new ArrayList<>();
        attributes(body, uses, groups);
        return new ComplexType(
                name,
                documentation(node),
                base,
                extension,
                simple ? null : content(body),
                List.copyOf(uses),
                List.copyOf(groups),
                simple,
                facets,
                isTrue(node.attribute("mixed")),
                isTrue(node.attribute("abstract")));
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
                return ref == null ? null : new Particle.GroupRef(ref, min, max);
            }
            case "any" -> {
                String namespaces = node.attribute("namespace");
                boolean strict = node.attribute("processContents") == null
                        || node.attribute("processContents").equals("strict");
                return new Particle.Any(namespaces == null ? "##any" : namespaces, strict, min, max);
            }
            default -> {
                return null;
            }
        }
    }

    private void attributes(XmlElement node, List<AttributeUse> uses, List<Name> groups) {
        for (XmlElement child : node.children(XSD, "attribute")) {
            AttributeUse use = attribute(child);
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
            return new SimpleType(name, documentation, base, facets(restriction), null, List.of());
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

    private Facets facets(XmlElement node) {
        List<String> values = new ArrayList<>();
        List<String> patterns = new ArrayList<>();
        for (XmlElement child : node.children()) {
            String value = child.attribute("value");
            if (value != null && child.local().equals("enumeration")) {
                values.add(value);
            } else if (value != null && child.local().equals("pattern")) {
                patterns.add(value);
                if (XsdPattern.compile(value) == null) {
                    note(child, Severity.WARNING, "bad-pattern", "the pattern " + value + " is not valid and ignored");
                }
            }
        }
        Facets facets = new Facets(
                List.copyOf(values),
                List.copyOf(patterns),
                count(node, "length"),
                count(node, "minLength"),
                count(node, "maxLength"),
                facet(node, "minInclusive"),
                facet(node, "maxInclusive"),
                facet(node, "minExclusive"),
                facet(node, "maxExclusive"),
                count(node, "totalDigits"),
                count(node, "fractionDigits"),
                facet(node, "whiteSpace"));
        return facets.equals(Facets.NONE) ? Facets.NONE : facets;
    }

    private static String facet(XmlElement node, String local) {
        XmlElement child = node.child(XSD, local);
        return child == null ? null : child.attribute("value");
    }

    private Integer count(XmlElement node, String local) {
        String value = facet(node, local);
        try {
            return value == null ? null : Integer.valueOf(value.strip());
        } catch (NumberFormatException e) {
            note(node.child(XSD, local), Severity.WARNING, "bad-facet", local + " “" + value + "” is no whole number");
            return null;
        }
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
            references.add(new Reference(kind, name, current.document(), node.line(), node.column()));
        }
        return name;
    }

    private void checkReferences() {
        int reported = 0;
        for (Reference reference : references) {
            Map<Name, ?> map =
                    switch (reference.kind()) {
                        case "element" -> set.elements;
                        case "type" -> set.types;
                        case "group" -> set.groups;
                        case "attribute" -> set.attributes;
                        default -> set.attributeGroups;
                    };
            boolean standard = reference.name().namespace().equals("http://www.w3.org/XML/1998/namespace")
                    || reference.name().namespace().equals("http://schemas.xmlsoap.org/soap/encoding/");
            if (!map.containsKey(reference.name()) && !standard && reported++ < 500) {
                findings.add(new Finding(
                        Severity.ERROR,
                        "unresolved-" + reference.kind(),
                        reference.kind() + " " + reference.name() + " is used but not defined in any document; "
                                + "the field is shown as any",
                        reference.document(),
                        reference.line(),
                        reference.column()));
            }
        }
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
