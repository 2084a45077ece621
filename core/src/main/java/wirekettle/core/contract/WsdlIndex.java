package wirekettle.core.contract;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.contract.DocumentGatherer.Definitions;
import wirekettle.core.value.Name;
import wirekettle.core.xml.Finding;
import wirekettle.core.xml.Finding.Severity;
import wirekettle.core.xml.XmlElement;

/** Messages, port types and bindings of all documents by name, found tolerantly; what was odd becomes a finding. */
final class WsdlIndex {
    static final String WSDL = DocumentGatherer.WSDL;

    /** An element and the document it stands in. */
    record Placed(XmlElement node, String document) {
        Placed child(String namespace, String local) {
            XmlElement child = node.child(namespace, local);
            return child == null ? null : new Placed(child, document);
        }

        Placed at(XmlElement other) {
            return new Placed(other, document);
        }
    }

    /** One part of a message (WSDL 1.1, 2.3). */
    record Part(String name, Name element, Name type, Placed place, String documentation) {}

    private final Map<Name, Placed> messages = new HashMap<>();
    private final Map<Name, Placed> portTypes = new HashMap<>();
    private final Map<Name, Placed> bindings = new HashMap<>();
    private final List<Finding> findings;
    private final Set<Finding> told;

    WsdlIndex(List<Definitions> definitions, List<Finding> findings) {
        this.findings = findings;
        this.told = new HashSet<>(findings);
        for (Definitions each : definitions) {
            index(each, "message", messages);
            index(each, "portType", portTypes);
            index(each, "binding", bindings);
        }
    }

    private void index(Definitions from, String local, Map<Name, Placed> into) {
        String namespace = from.root().attribute("targetNamespace");
        for (XmlElement node : from.root().children(WSDL, local)) {
            Name name = new Name(namespace == null ? "" : namespace.strip(), named(node));
            Placed placed = new Placed(node, from.document());
            Placed first = into.putIfAbsent(name, placed);
            if (first != null) {
                note(
                        placed,
                        Severity.WARNING,
                        "defined-twice",
                        local + " " + name.local() + " is defined already in " + first.document() + " line "
                                + first.node().line() + "; the first definition is used");
            }
        }
    }

    Map<Name, Placed> bindings() {
        return bindings;
    }

    Placed binding(Placed from, String qualified) {
        return find(bindings, from, qualified, "binding");
    }

    Placed portType(Placed from, String qualified) {
        return find(portTypes, from, qualified, "portType");
    }

    Placed message(Placed from, String qualified) {
        return find(messages, from, qualified, "message");
    }

    List<Part> parts(Placed message) {
        List<Part> parts = new ArrayList<>();
        for (XmlElement node : message.node().children(WSDL, "part")) {
            Placed place = message.at(node);
            parts.add(new Part(named(node), qname(place, "element"), qname(place, "type"), place, documentation(node)));
        }
        return parts;
    }

    private Name qname(Placed place, String attribute) {
        String value = place.node().attribute(attribute);
        if (value == null) {
            return null;
        }
        Name name = place.node().resolve(value);
        if (name == null) {
            note(place, Severity.ERROR, "prefix-undeclared", "the prefix of " + value + " is not declared");
        }
        return name;
    }

    private Placed find(Map<Name, Placed> map, Placed from, String qualified, String kind) {
        if (qualified == null) {
            note(from, Severity.ERROR, kind + "-missing", "no " + kind + " is named");
            return null;
        }
        Name name = from.node().resolve(qualified);
        Placed found = name == null ? null : map.get(name);
        if (found != null) {
            return found;
        }
        // documents saved from browsers lose prefixes: one match by local name is good enough, and said
        String local = qualified.substring(qualified.indexOf(':') + 1).strip();
        List<Placed> near = near(map, local, false);
        if (near.size() == 1) {
            note(
                    from,
                    Severity.WARNING,
                    kind + "-by-local-name",
                    kind + " " + qualified + " was found only by its local name");
            return near.get(0);
        }
        near = near(map, local, true);
        if (near.size() == 1) {
            note(
                    from,
                    Severity.WARNING,
                    "differs-in-case",
                    kind + " " + qualified + " is not defined, but "
                            + named(near.get(0).node()) + " is, which differs only in case; it is used");
            return near.get(0);
        }
        note(
                from,
                Severity.ERROR,
                "unresolved-" + kind,
                kind + " " + qualified + " is used but not defined in any document");
        return null;
    }

    private static List<Placed> near(Map<Name, Placed> map, String local, boolean anyCase) {
        return map.entrySet().stream()
                .filter(e -> anyCase
                        ? e.getKey().local().equalsIgnoreCase(local)
                        : e.getKey().local().equals(local))
                .map(Map.Entry::getValue)
                .toList();
    }

    static String named(XmlElement node) {
        String name = node.attribute("name");
        return name == null ? "" : name.strip();
    }

    static String documentation(XmlElement node) {
        XmlElement text = node == null ? null : node.child(WSDL, "documentation");
        return text == null ? "" : text.allText();
    }

    void note(Placed at, Severity severity, String code, String message) {
        Finding finding = Finding.at(severity, code, message, at.document(), at.node());
        if (told.add(finding)) {
            findings.add(finding);
        }
    }
}
