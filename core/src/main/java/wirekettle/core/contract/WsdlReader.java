package wirekettle.core.contract;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.contract.DocumentGatherer.Definitions;
import wirekettle.core.schema.ComplexType;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.Facets;
import wirekettle.core.schema.Particle;
import wirekettle.core.schema.SchemaSet;
import wirekettle.core.schema.TypeUse;
import wirekettle.core.value.Name;
import wirekettle.core.xml.Finding;
import wirekettle.core.xml.Finding.Severity;
import wirekettle.core.xml.XmlElement;

/** Turns WSDL 1.1 definitions into services, ports, operations and messages (WSDL 1.1, 2 and 3). */
final class WsdlReader {
    private static final String WSDL = DocumentGatherer.WSDL;

    private record Placed(XmlElement node, String document) {}

    private record Part(String name, Name element, Name type, Placed place) {}

    private final List<Definitions> definitions;
    private final SchemaSet schemas;
    private final List<Finding> findings;
    private final Map<Name, Placed> messages = new HashMap<>();
    private final Map<Name, Placed> portTypes = new HashMap<>();
    private final Map<Name, Placed> bindings = new HashMap<>();

    WsdlReader(List<Definitions> definitions, SchemaSet schemas, List<Finding> findings) {
        this.definitions = definitions;
        this.schemas = schemas;
        this.findings = findings;
    }

    List<Service> services() {
        for (Definitions each : definitions) {
            index(each, "message", messages);
            index(each, "portType", portTypes);
            index(each, "binding", bindings);
        }
        List<Service> services = new ArrayList<>();
        for (Definitions each : definitions) {
            for (XmlElement node : each.root().children(WSDL, "service")) {
                List<Port> ports = new ArrayList<>();
                for (XmlElement port : node.children(WSDL, "port")) {
                    ports.add(port(new Placed(port, each.document())));
                }
                services.add(new Service(named(node), List.copyOf(ports), documentation(node)));
            }
        }
        if (services.isEmpty()) {
            services.addAll(unserved());
        }
        return services;
    }

    /** A description without a service still has bindings worth calling once an address is given. */
    private List<Service> unserved() {
        Definitions first = definitions.get(0);
        note(
                new Placed(first.root(), first.document()),
                Severity.WARNING,
                "no-service",
                "no service is described; each binding is offered as a port without an address");
        List<Port> ports = new ArrayList<>();
        bindings.forEach((name, binding) -> ports.add(port(name.local(), binding, "", "")));
        return ports.isEmpty() ? List.of() : List.of(new Service(named(first.root()), List.copyOf(ports), ""));
    }

    private void index(Definitions from, String local, Map<Name, Placed> into) {
        String namespace = from.root().attribute("targetNamespace");
        for (XmlElement node : from.root().children(WSDL, local)) {
            Name name = new Name(namespace == null ? "" : namespace.strip(), named(node));
            Placed placed = new Placed(node, from.document());
            if (into.putIfAbsent(name, placed) != null) {
                note(
                        placed,
                        Severity.WARNING,
                        "defined-twice",
                        local + " " + name.local() + " is defined more than once; the first definition is used");
            }
        }
    }

    private Port port(Placed place) {
        Placed binding = find(bindings, place, place.node().attribute("binding"), "binding");
        String address = "";
        for (XmlElement child : place.node().children()) {
            if (child.local().equals("address") && child.attribute("location") != null) {
                address = child.attribute("location").strip();
            }
        }
        return port(named(place.node()), binding, address, documentation(place.node()));
    }

    private Port port(String name, Placed binding, String address, String documentation) {
        if (binding == null) {
            return new Port(name, "", null, address, List.of(), documentation);
        }
        SoapVersion version = null;
        String style = "document";
        for (SoapVersion each : SoapVersion.values()) {
            XmlElement soap = binding.node().child(each.binding(), "binding");
            if (soap != null) {
                version = each;
                style = soap.attribute("style") == null ? style : soap.attribute("style");
            }
        }
        if (version == null) {
            note(binding, Severity.NOTE, "not-soap", "binding " + named(binding.node()) + " does not speak SOAP");
        }
        Placed portType = find(portTypes, binding, binding.node().attribute("type"), "portType");
        Map<String, Integer> seen = new HashMap<>();
        List<Operation> operations = new ArrayList<>();
        for (XmlElement node : binding.node().children(WSDL, "operation")) {
            int overload = seen.merge(named(node), 1, Integer::sum);
            Operation operation = operation(new Placed(node, binding.document()), portType, version, style, overload);
            if (operation != null) {
                operations.add(operation);
            }
        }
        return new Port(name, named(binding.node()), version, address, List.copyOf(operations), documentation);
    }

    private Operation operation(Placed bound, Placed portType, SoapVersion version, String bindingStyle, int overload) {
        String name = named(bound.node());
        XmlElement described = portType == null ? null : described(bound, portType, overload);
        if (described == null) {
            note(bound, Severity.ERROR, "operation-unknown", "operation " + name + " is not in the port type");
            return null;
        }
        Placed abstractOperation = new Placed(described, portType.document());
        XmlElement soap = version == null ? null : bound.node().child(version.binding(), "operation");
        String style = soap == null || soap.attribute("style") == null ? bindingStyle : soap.attribute("style");
        String action = soap == null ? null : soap.attribute("soapAction");
        if (action == null && version == SoapVersion.SOAP_11) {
            note(bound, Severity.NOTE, "action-missing", "operation " + name + " has no soapAction; it is sent empty");
        }
        XmlElement input = described.child(WSDL, "input");
        XmlElement output = described.child(WSDL, "output");
        if (input == null || output != null && output.line() < input.line()) {
            note(
                    abstractOperation,
                    Severity.NOTE,
                    "not-called",
                    "operation " + name + " is started by the other side; it is shown but cannot be called");
        }
        List<Operation.Fault> faults = new ArrayList<>();
        for (XmlElement fault : described.children(WSDL, "fault")) {
            Message message =
                    message(new Placed(fault, portType.document()), null, version, "document", new Name("", name), "");
            faults.add(new Operation.Fault(named(fault), message));
        }
        XmlElement boundInput = bound.node().child(WSDL, "input");
        String use = use(boundInput, version);
        return new Operation(
                name,
                overload,
                style,
                use,
                action == null ? "" : action,
                input == null
                        ? Message.EMPTY
                        : message(
                                new Placed(input, portType.document()),
                                boundInput == null ? null : new Placed(boundInput, bound.document()),
                                version,
                                style,
                                Name.of(name),
                                ""),
                output == null
                        ? null
                        : message(
                                new Placed(output, portType.document()),
                                bound.node().child(WSDL, "output") == null
                                        ? null
                                        : new Placed(bound.node().child(WSDL, "output"), bound.document()),
                                version,
                                style,
                                Name.of(name),
                                "Response"),
                List.copyOf(faults),
                Effect.propose(name),
                documentation(described));
    }

    /** Overloads are told apart by the names of their input and output, and by order where those are missing. */
    private static XmlElement described(Placed bound, Placed portType, int overload) {
        List<XmlElement> candidates = new ArrayList<>();
        for (XmlElement node : portType.node().children(WSDL, "operation")) {
            if (named(node).equals(named(bound.node()))) {
                candidates.add(node);
            }
        }
        XmlElement input = bound.node().child(WSDL, "input");
        String inputName = input == null ? null : input.attribute("name");
        for (XmlElement candidate : candidates) {
            XmlElement its = candidate.child(WSDL, "input");
            if (candidates.size() > 1 && inputName != null && its != null && inputName.equals(its.attribute("name"))) {
                return candidate;
            }
        }
        return candidates.isEmpty() ? null : candidates.get(Math.min(overload, candidates.size()) - 1);
    }

    private static XmlElement soapBody(XmlElement bound, SoapVersion version) {
        if (bound == null || version == null) {
            return null;
        }
        return bound.child(version.binding(), "body");
    }

    private static String use(XmlElement bound, SoapVersion version) {
        XmlElement body = soapBody(bound, version);
        return body == null || body.attribute("use") == null ? "literal" : body.attribute("use");
    }

    private Message message(
            Placed use, Placed bound, SoapVersion version, String style, Name operation, String suffix) {
        Placed message = find(messages, use, use.node().attribute("message"), "message");
        if (message == null) {
            return Message.EMPTY;
        }
        List<Part> parts = parts(message);
        List<ElementDecl> headers = new ArrayList<>();
        List<String> inHeader = new ArrayList<>();
        if (bound != null && version != null) {
            for (XmlElement header : bound.node().children(version.binding(), "header")) {
                Placed place = new Placed(header, bound.document());
                Placed from = find(messages, place, header.attribute("message"), "message");
                String partName = header.attribute("part");
                for (Part part : from == null ? List.<Part>of() : parts(from)) {
                    if (part.name().equals(partName)) {
                        headers.add(element(part));
                        if (from.node() == message.node()) {
                            inHeader.add(partName);
                        }
                    }
                }
            }
        }
        XmlElement body = bound == null ? null : soapBody(bound.node(), version);
        String only = body == null ? null : body.attribute("parts");
        Set<String> chosen = only == null ? null : Set.of(only.strip().split("\\s+"));
        List<Part> inBody = parts.stream()
                .filter(p -> chosen == null ? !inHeader.contains(p.name()) : chosen.contains(p.name()))
                .toList();
        String name = named(message.node());
        if (!style.equals("rpc")) {
            return new Message(name, headers, inBody.stream().map(this::element).toList());
        }
        String namespace = body == null || body.attribute("namespace") == null ? "" : body.attribute("namespace");
        List<Particle> accessors = new ArrayList<>();
        for (Part part : inBody) {
            TypeUse type = part.type() != null
                    ? TypeUse.named(part.type())
                    : part.element() != null ? element(part).type() : TypeUse.ANY;
            accessors.add(new Particle.Element(ElementDecl.of(Name.of(part.name()), type), 1, 1));
        }
        ComplexType wrapper = new ComplexType(
                null,
                "",
                null,
                false,
                new Particle.Group(Particle.Kind.SEQUENCE, List.copyOf(accessors), 1, 1),
                List.of(),
                List.of(),
                false,
                Facets.NONE,
                false,
                false);
        Name root = new Name(namespace, operation.local() + suffix);
        return new Message(name, headers, List.of(ElementDecl.of(root, new TypeUse(null, wrapper))));
    }

    private List<Part> parts(Placed message) {
        List<Part> parts = new ArrayList<>();
        for (XmlElement node : message.node().children(WSDL, "part")) {
            Placed place = new Placed(node, message.document());
            parts.add(new Part(named(node), qname(place, "element"), qname(place, "type"), place));
        }
        return parts;
    }

    private ElementDecl element(Part part) {
        if (part.element() != null) {
            ElementDecl found = schemas.element(part.element());
            if (found == null) {
                note(
                        part.place(),
                        Severity.ERROR,
                        "unresolved-element",
                        "element " + part.element() + " is used by part " + part.name()
                                + " but not defined in any document; it is shown as any");
                return ElementDecl.of(part.element(), TypeUse.ANY);
            }
            return found;
        }
        if (part.type() != null) {
            note(
                    part.place(),
                    Severity.WARNING,
                    "part-by-type",
                    "part " + part.name()
                            + " of a document message names a type, not an element; an element of the part's name is used");
            return ElementDecl.of(Name.of(part.name()), TypeUse.named(part.type()));
        }
        note(part.place(), Severity.ERROR, "part-empty", "part " + part.name() + " names neither element nor type");
        return ElementDecl.of(Name.of(part.name()), TypeUse.ANY);
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
        if (found == null) {
            // documents saved from browsers lose prefixes: one match by local name is good enough, and said
            String local = qualified.substring(qualified.indexOf(':') + 1).strip();
            List<Placed> byLocal = map.entrySet().stream()
                    .filter(e -> e.getKey().local().equals(local))
                    .map(Map.Entry::getValue)
                    .toList();
            if (byLocal.size() == 1) {
                note(
                        from,
                        Severity.WARNING,
                        kind + "-by-local-name",
                        kind + " " + qualified + " was found only by its local name");
                return byLocal.get(0);
            }
            note(
                    from,
                    Severity.ERROR,
                    "unresolved-" + kind,
                    kind + " " + qualified + " is used but not defined in any document");
        }
        return found;
    }

    private static String named(XmlElement node) {
        String name = node.attribute("name");
        return name == null ? "" : name.strip();
    }

    private static String documentation(XmlElement node) {
        XmlElement text = node.child(WSDL, "documentation");
        return text == null ? "" : text.allText();
    }

    private void note(Placed at, Severity severity, String code, String message) {
        Finding finding = Finding.at(severity, code, message, at.document(), at.node());
        if (!findings.contains(finding)) {
            findings.add(finding);
        }
    }
}
