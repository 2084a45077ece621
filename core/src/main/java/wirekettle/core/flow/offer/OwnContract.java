package wirekettle.core.flow.offer;

import java.util.List;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.record.InputShape;
import wirekettle.core.record.RecordSchema;
import wirekettle.core.schema.BuiltIn;
import wirekettle.core.value.Column;
import wirekettle.core.value.ScalarType;
import wirekettle.core.value.XmlText;

/**
 * A service description (WSDL 1.1) of flows that answer callers: document/literal wrapped, a port of each version of
 * SOAP, the messages made of what the flows take and answer, and a fault for what is not done.
 */
public final class OwnContract {
    /** The element of the fault, and the declared fault's name. */
    public static final String FAULT = "Problem";

    private static final String WSDL = "http://schemas.xmlsoap.org/wsdl/";
    private static final String TRANSPORT = "http://schemas.xmlsoap.org/soap/http";
    private static final List<Column> PROBLEM = List.of(
            text("code", true),
            text("detail", true),
            text("cause", false),
            text("class", false),
            text("record", false));

    /**
     * A flow as an operation.
     *
     * @param name what it is called: a name without colons (Namespaces in XML 1.0, 4)
     * @param input what it takes
     * @param answer what it answers, null where it says nothing
     * @param documentation what people are told of it
     */
    public record Operation(String name, InputShape input, AnswerStage answer, String documentation) {}

    private OwnContract() {}

    private static Column text(String name, boolean required) {
        return new Column(name, name, ScalarType.STRING, null, required);
    }

    /** Returns the fields of the fault. */
    public static List<String> faultFields() {
        return PROBLEM.stream().map(Column::name).toList();
    }

    /**
     * Returns the text of the document.
     *
     * @param service the service's name, without colons
     * @param namespace its target namespace
     * @param address where it answers
     */
    public static String wsdl(String service, String namespace, String address, List<Operation> operations) {
        StringBuilder out = new StringBuilder("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n");
        out.append(
                "<definitions xmlns=\"" + WSDL + "\" xmlns:s11=\"" + SoapVersion.SOAP_11.binding() + "\" xmlns:s12=\""
                        + SoapVersion.SOAP_12.binding() + "\" xmlns:xs=\"" + BuiltIn.XSD + "\" xmlns:tns=\"");
        String target = XmlText.attribute(namespace);
        out.append(target).append("\" targetNamespace=\"").append(target).append("\" name=\"");
        out.append(service).append("\">\n");
        types(target, operations, out);
        for (Operation each : operations) {
            message(each.name() + "Request", each.name(), out);
            message(each.name() + "Reply", each.name() + "Response", out);
        }
        message(FAULT, FAULT, out);
        portType(service, operations, out);
        binding(service, "s11", namespace, operations, out);
        binding(service, "s12", namespace, operations, out);
        out.append("<service name=\"").append(service).append("\">\n");
        for (String version : List.of("s11", "s12")) {
            out.append("<port name=\"" + port(service, version) + "\" binding=\"tns:" + port(service, version) + "\"><"
                    + version + ":address location=\"" + XmlText.attribute(address) + "\"/></port>\n");
        }
        return out.append("</service>\n</definitions>\n").toString();
    }

    private static String port(String service, String version) {
        return service + (version.equals("s11") ? "Soap11" : "Soap12");
    }

    private static void types(String target, List<Operation> operations, StringBuilder out) {
        out.append("<types><xs:schema targetNamespace=\"" + target + "\" elementFormDefault=\"qualified\">\n");
        for (Operation each : operations) {
            element(
                    each.name(),
                    RecordSchema.type(each.input().columns(), each.input().lists()),
                    out);
            AnswerStage answer = each.answer();
            List<Column> columns = answer == null ? List.of() : answer.columns();
            List<String> lists = answer == null
                    ? List.of()
                    : answer.groups().stream().map(DocumentPlan.Group::name).toList();
            element(each.name() + "Response", RecordSchema.type(columns, lists), out);
        }
        element(FAULT, RecordSchema.type(PROBLEM, List.of()), out);
        out.append("</xs:schema></types>\n");
    }

    private static void element(String name, String type, StringBuilder out) {
        out.append("<xs:element name=\"" + name + "\">" + type + "</xs:element>\n");
    }

    private static void message(String name, String element, StringBuilder out) {
        out.append("<message name=\"" + name + "\"><part name=\"parameters\" element=\"tns:" + element
                + "\"/></message>\n");
    }

    private static void portType(String service, List<Operation> operations, StringBuilder out) {
        out.append("<portType name=\"" + service + "\">\n");
        for (Operation each : operations) {
            out.append("<operation name=\"" + each.name() + "\">");
            if (each.documentation() != null && !each.documentation().isBlank()) {
                out.append("<documentation>" + XmlText.escape(each.documentation()) + "</documentation>");
            }
            out.append("<input message=\"tns:" + each.name() + "Request\"/><output message=\"tns:" + each.name()
                    + "Reply\"/><fault name=\"" + FAULT + "\" message=\"tns:" + FAULT + "\"/></operation>\n");
        }
        out.append("</portType>\n");
    }

    private static void binding(
            String service, String version, String namespace, List<Operation> operations, StringBuilder out) {
        out.append("<binding name=\"" + port(service, version) + "\" type=\"tns:" + service + "\"><" + version
                + ":binding style=\"document\" transport=\"" + TRANSPORT + "\"/>\n");
        String body = "<" + version + ":body use=\"literal\"/>";
        for (Operation each : operations) {
            out.append("<operation name=\"" + each.name() + "\"><" + version + ":operation soapAction=\""
                    + XmlText.attribute(namespace + ":" + each.name()) + "\"/><input>" + body + "</input><output>"
                    + body + "</output><fault name=\"" + FAULT + "\"><" + version + ":fault name=\"" + FAULT
                    + "\" use=\"literal\"/></fault></operation>\n");
        }
        out.append("</binding>\n");
    }
}
