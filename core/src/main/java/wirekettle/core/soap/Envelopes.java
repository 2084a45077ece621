package wirekettle.core.soap;

import java.util.List;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.value.XmlText;

/** Builds envelopes from ready trees (SOAP 1.1, 4; SOAP 1.2 part 1, 5). */
public final class Envelopes {
    private Envelopes() {}

    /** Returns the text of an envelope, indented by one space a level when asked; version null means plain XML. */
    public static String write(SoapVersion version, List<Node> headers, List<Node> body, boolean indented) {
        if (version == null) {
            return body.isEmpty() ? "" : NodeWriter.write(body.get(0), indented);
        }
        Node.Builder envelope = Node.build(new Name(version.envelope(), "Envelope"));
        if (!headers.isEmpty()) {
            envelope.add(Node.branch(new Name(version.envelope(), "Header"), headers));
        }
        envelope.add(Node.branch(new Name(version.envelope(), "Body"), body));
        return NodeWriter.write(envelope.done(), indented);
    }

    /** Returns a fault envelope with a typed detail. */
    public static String fault(SoapVersion version, boolean senderIsToBlame, String reason, Node detail) {
        return fault(version, senderIsToBlame, reason, detail, null);
    }

    /** Returns a fault envelope whose detail, when it is about a header, is a header itself (SOAP 1.1, 4.4). */
    public static String fault(SoapVersion version, boolean senderIsToBlame, String reason, Node detail, Node header) {
        FaultCode code = senderIsToBlame ? FaultCode.SENDER : FaultCode.RECEIVER;
        return fault(version, code, reason, detail, header == null ? List.of() : List.of(header));
    }

    /** Returns a fault envelope with headers. */
    public static String fault(SoapVersion version, FaultCode code, String reason, Node detail, List<Node> headers) {
        String detailXml = detail == null ? "" : NodeWriter.write(detail, false);
        String escaped = XmlText.escape(reason);
        StringBuilder before = new StringBuilder();
        headers.forEach(each -> before.append(NodeWriter.write(each, false)));
        String open = "<s:Envelope xmlns:s=\"" + version.envelope() + "\">"
                + (before.isEmpty() ? "" : "<s:Header>" + before + "</s:Header>") + "<s:Body><s:Fault>";
        String close = "</s:Fault></s:Body></s:Envelope>";
        if (version == SoapVersion.SOAP_11) {
            return open + "<faultcode>s:" + code.name(version) + "</faultcode><faultstring>" + escaped
                    + "</faultstring>" + (detail == null ? "" : "<detail>" + detailXml + "</detail>") + close;
        }
        return open + "<s:Code><s:Value>s:" + code.name(version) + "</s:Value></s:Code><s:Reason><s:Text"
                + " xml:lang=\"en\">" + escaped + "</s:Text></s:Reason>"
                + (detail == null ? "" : "<s:Detail>" + detailXml + "</s:Detail>") + close;
    }
}
