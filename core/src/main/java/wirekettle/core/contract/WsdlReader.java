package wirekettle.core.contract;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.contract.DocumentGatherer.Definitions;
import wirekettle.core.contract.WsdlIndex.Placed;
import wirekettle.core.schema.SchemaSet;
import wirekettle.core.xml.Finding;
import wirekettle.core.xml.Finding.Severity;
import wirekettle.core.xml.XmlElement;

/** Turns WSDL 1.1 definitions into services, ports and operations (WSDL 1.1, 2 to 4). */
final class WsdlReader {
    private static final String WSDL = WsdlIndex.WSDL;
    private static final String HTTP = "http://schemas.xmlsoap.org/wsdl/http/";

    private final List<Definitions> definitions;
    private final WsdlIndex index;
    private final MessageReader messages;
    private final PolicyReader policies;

    WsdlReader(List<Definitions> definitions, SchemaSet schemas, List<Finding> findings) {
        this.definitions = definitions;
        this.index = new WsdlIndex(definitions, findings);
        this.messages = new MessageReader(index, schemas);
        this.policies = new PolicyReader(definitions, index);
    }

    List<Service> services() {
        List<Service> services = new ArrayList<>();
        for (Definitions each : definitions) {
            for (XmlElement node : each.root().children(WSDL, "service")) {
                List<Port> ports = new ArrayList<>();
                Placed service = new Placed(node, each.document());
                for (XmlElement port : node.children(WSDL, "port")) {
                    ports.add(port(service.at(port)));
                }
                services.add(new Service(WsdlIndex.named(node), List.copyOf(ports), WsdlIndex.documentation(node)));
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
        Placed place = new Placed(first.root(), first.document());
        index.note(
                place,
                Severity.WARNING,
                "no-service",
                "no service is described; each binding is offered as a port without an address");
        List<Port> ports = new ArrayList<>();
        index.bindings().forEach((name, binding) -> ports.add(port(name.local(), null, binding, "", "")));
        return ports.isEmpty()
                ? List.of()
                : List.of(new Service(WsdlIndex.named(first.root()), List.copyOf(ports), ""));
    }

    private Port port(Placed place) {
        Placed binding = index.binding(place, place.node().attribute("binding"));
        String address = "";
        for (XmlElement child : place.node().children()) {
            if (child.local().equals("address") && child.attribute("location") != null) {
                address = child.attribute("location").strip();
            }
        }
        return port(WsdlIndex.named(place.node()), place, binding, address, WsdlIndex.documentation(place.node()));
    }

    private Port port(String name, Placed place, Placed binding, String address, String documentation) {
        if (binding == null) {
            return new Port(name, "", null, address, List.of(), documentation, null, List.of());
        }
        SoapVersion version = null;
        String style = "document";
        for (SoapVersion each : SoapVersion.values()) {
            XmlElement soap = binding.node().child(each.binding(), "binding");
            if (soap != null) {
                version = each;
                style = soap.attribute("style") == null
                        ? style
                        : soap.attribute("style").strip();
                checkTransport(binding.at(soap));
            }
        }
        XmlElement http = binding.node().child(HTTP, "binding");
        String verb = version != null || http == null || http.attribute("verb") == null
                ? null
                : http.attribute("verb").strip().toUpperCase(java.util.Locale.ROOT);
        if (version == null && verb == null) {
            index.note(
                    binding,
                    Severity.NOTE,
                    "not-callable",
                    "binding " + WsdlIndex.named(binding.node())
                            + " speaks neither SOAP nor HTTP; its operations are shown but cannot be called");
        }
        Placed portType = index.portType(binding, binding.node().attribute("type"));
        Map<String, Integer> seen = new HashMap<>();
        List<Operation> operations = new ArrayList<>();
        for (XmlElement node : binding.node().children(WSDL, "operation")) {
            int overload = seen.merge(WsdlIndex.named(node), 1, Integer::sum);
            Operation operation = operation(binding.at(node), portType, version, verb, style, overload);
            if (operation != null) {
                operations.add(operation);
            }
        }
        String said = documentation.isEmpty() ? WsdlIndex.documentation(binding.node()) : documentation;
        List<Placed> subjects = new ArrayList<>();
        subjects.add(place);
        subjects.add(binding);
        subjects.add(portType);
        return new Port(
                name,
                WsdlIndex.named(binding.node()),
                version,
                address,
                List.copyOf(operations),
                said,
                verb,
                policies.advice(subjects));
    }

    private void checkTransport(Placed soap) {
        String transport = soap.node().attribute("transport");
        if (transport != null && !transport.toLowerCase(java.util.Locale.ROOT).contains("http")) {
            index.note(
                    soap,
                    Severity.NOTE,
                    "transport",
                    "the transport " + transport.strip() + " is not HTTP; calls are made over HTTP all the same");
        }
    }

    private Operation operation(
            Placed bound, Placed portType, SoapVersion version, String verb, String bindingStyle, int overload) {
        String name = WsdlIndex.named(bound.node());
        XmlElement described = portType == null ? null : described(bound, portType, overload);
        if (described == null) {
            index.note(
                    bound,
                    Severity.ERROR,
                    "operation-unknown",
                    "operation " + name + " is not in the port type; it is left out");
            return null;
        }
        XmlElement soap = version == null ? null : bound.node().child(version.binding(), "operation");
        String style = soap == null || soap.attribute("style") == null
                ? bindingStyle
                : soap.attribute("style").strip();
        String action = soap == null ? null : soap.attribute("soapAction");
        if (action == null && version == SoapVersion.SOAP_11) {
            index.note(
                    bound,
                    Severity.NOTE,
                    "action-missing",
                    "operation " + name + " has no soapAction; it is sent empty");
        }
        Placed operation = portType.at(described);
        Placed input = operation.child(WSDL, "input");
        Placed output = operation.child(WSDL, "output");
        OperationKind kind = kind(operation, input, output);
        Placed boundInput = bound.child(WSDL, "input");
        Placed boundOutput = bound.child(WSDL, "output");
        HttpBinding http = verb == null ? null : http(bound, verb, boundInput, boundOutput);
        String use = messages.use(boundInput != null ? boundInput : boundOutput, version);
        List<Operation.Fault> faults = new ArrayList<>();
        for (XmlElement fault : described.children(WSDL, "fault")) {
            faults.add(new Operation.Fault(
                    WsdlIndex.named(fault), messages.fault(operation.at(fault), use.equals("encoded"))));
        }
        return new Operation(
                name,
                overload,
                style,
                use,
                action == null ? "" : action.strip(),
                input == null
                        ? Message.EMPTY
                        : http != null
                                ? messages.httpInput(input, name)
                                : messages.soap(input, boundInput, version, style, name),
                output == null
                        ? null
                        : http != null
                                ? messages.httpOutput(output)
                                : messages.soap(output, boundOutput, version, style, name + "Response"),
                List.copyOf(faults),
                Effect.propose(name),
                documentation(described, bound.node()),
                kind,
                http);
    }

    private static String documentation(XmlElement described, XmlElement bound) {
        String own = WsdlIndex.documentation(described);
        return own.isEmpty() ? WsdlIndex.documentation(bound) : own;
    }

    private OperationKind kind(Placed operation, Placed input, Placed output) {
        List<XmlElement> order = operation.node().children();
        boolean outputFirst =
                output != null && (input == null || order.indexOf(output.node()) < order.indexOf(input.node()));
        if (!outputFirst) {
            return output == null ? OperationKind.ONE_WAY : OperationKind.REQUEST_REPLY;
        }
        index.note(
                operation,
                Severity.NOTE,
                "not-called",
                "operation " + WsdlIndex.named(operation.node())
                        + " is started by the other side; it is shown but cannot be called");
        return input == null ? OperationKind.NOTIFICATION : OperationKind.SOLICIT;
    }

    private static HttpBinding http(Placed bound, String verb, Placed input, Placed output) {
        XmlElement operation = bound.node().child(HTTP, "operation");
        String location = operation == null || operation.attribute("location") == null
                ? ""
                : operation.attribute("location").strip();
        HttpBinding.Input way = verb.equals("GET") ? HttpBinding.Input.QUERY : HttpBinding.Input.XML;
        if (input != null && input.child(HTTP, "urlReplacement") != null) {
            way = HttpBinding.Input.PATH;
        } else if (input != null && input.child(HTTP, "urlEncoded") != null) {
            way = HttpBinding.Input.QUERY;
        } else if (MessageReader.contentType(input).contains("form-urlencoded")) {
            way = HttpBinding.Input.FORM;
        }
        String reply = MessageReader.contentType(output);
        return new HttpBinding(verb, location, way, reply.isEmpty() || reply.contains("xml"));
    }

    /** Overloads are told apart by the names of their input and output, and by order where those are missing. */
    private static XmlElement described(Placed bound, Placed portType, int overload) {
        List<XmlElement> candidates = new ArrayList<>();
        for (XmlElement node : portType.node().children(WSDL, "operation")) {
            if (WsdlIndex.named(node).equals(WsdlIndex.named(bound.node()))) {
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
}
