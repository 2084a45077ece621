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

/** Every use of a component by name, checked once all documents are read; near misses are repaired and reported. */
final class References {
    private static final int MOST_TOLD = 500;

    private record Reference(String kind, Name name, String document, int line, int column) {}

    private final SchemaSet set;
    private final List<Finding> findings;
    private final Set<Reference> references = new LinkedHashSet<>();

    References(SchemaSet set, List<Finding> findings) {
        this.set = set;
        this.findings = findings;
    }

    void add(String kind, Name name, String document, XmlElement node) {
        references.add(new Reference(kind, name, document, node.line(), node.column()));
    }

    /** Resolves every reference; one that differs only in case or in its namespace takes the one component meant. */
    void check() {
        int told = 0;
        for (Reference reference : references) {
            boolean standard = reference.name().namespace().equals("http://www.w3.org/XML/1998/namespace");
            Map<Name, ?> map = map(reference.kind());
            boolean found = map.containsKey(reference.name()) && !set.aliases.containsKey(key(reference));
            if (!standard && !found && told++ < MOST_TOLD) {
                findings.add(missed(reference));
            }
        }
    }

    private Map<Name, ?> map(String kind) {
        return switch (kind) {
            case "element" -> set.elements;
            case "type" -> set.types;
            case "group" -> set.groups;
            case "attribute" -> set.attributes;
            default -> set.attributeGroups;
        };
    }

    private static String key(Reference reference) {
        return reference.kind() + " " + reference.name();
    }

    private Finding missed(Reference reference) {
        Name wanted = reference.name();
        Name near = set.aliases.get(key(reference));
        if (near == null) {
            near = near(reference);
            if (near != null) {
                set.alias(reference.kind(), wanted, near);
            }
        }
        if (near == null) {
            return at(
                    reference,
                    Severity.ERROR,
                    "unresolved-" + reference.kind(),
                    reference.kind() + " " + wanted
                            + " is used but not defined in any document; the field is shown as any");
        }
        boolean sameSpace = near.namespace().equals(wanted.namespace());
        return sameSpace
                ? at(
                        reference,
                        Severity.WARNING,
                        "differs-in-case",
                        reference.kind() + " " + wanted.local() + " is not defined, but " + near.local()
                                + " is, which differs only in case; it is used")
                : at(
                        reference,
                        Severity.WARNING,
                        "other-namespace",
                        reference.kind() + " " + wanted + " is not defined, but " + near
                                + " is, the only one of that name; it is used");
    }

    private Name near(Reference reference) {
        Name wanted = reference.name();
        List<Name> inCase = new ArrayList<>();
        List<Name> elsewhere = new ArrayList<>();
        for (Name name : map(reference.kind()).keySet()) {
            if (name.namespace().equals(wanted.namespace()) && name.local().equalsIgnoreCase(wanted.local())) {
                inCase.add(name);
            } else if (name.local().equals(wanted.local()) && !name.namespace().equals(SoapEncoding.NAMESPACE)) {
                elsewhere.add(name);
            }
        }
        return inCase.size() == 1 ? inCase.get(0) : inCase.isEmpty() && elsewhere.size() == 1 ? elsewhere.get(0) : null;
    }

    private static Finding at(Reference reference, Severity severity, String code, String message) {
        return new Finding(severity, code, message, reference.document(), reference.line(), reference.column());
    }
}
