package wirekettle.core.soap;

import java.io.ByteArrayInputStream;
import java.util.List;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/** Reads replies tolerantly: an envelope of either SOAP version is understood, whatever was asked. */
public final class ReplyReader {
    private ReplyReader() {}

    /** Returns the reply; throws when it is no envelope. */
    public static Reply read(byte[] bytes) throws XmlProblem {
        Node envelope = NodeReader.read(new ByteArrayInputStream(bytes), "reply", XmlLimits.MESSAGES);
        String namespace = envelope.name().namespace();
        boolean soap = envelope.name().local().equals("Envelope")
                && (namespace.equals(SoapVersion.SOAP_11.envelope())
                        || namespace.equals(SoapVersion.SOAP_12.envelope()));
        Node body = soap ? envelope.child("Body") : null;
        if (body == null) {
            throw new XmlProblem(
                    "no-envelope", "the answer is " + envelope.name().local() + ", no SOAP envelope", "reply", 1, 1);
        }
        Node header = envelope.child("Header");
        List<Node> headers = header == null ? List.of() : header.children();
        if (!body.children().isEmpty()) {
            Node first = body.children().get(0);
            if (first.name().local().equals("Fault") && first.name().namespace().equals(namespace)) {
                return new Reply(headers, List.of(), fault(first, headers));
            }
        }
        return new Reply(headers, MultiReferences.resolve(body.children()), null);
    }

    private static SoapFault fault(Node fault, List<Node> headers) {
        Node code = fault.child("Code");
        if (code == null) {
            Node detail = fault.child("detail");
            return new SoapFault(
                    local(fault.textOf("faultcode")),
                    fault.textOf("faultstring"),
                    detail == null ? List.of() : detail.children(),
                    headers);
        }
        StringBuilder codes = new StringBuilder(local(code.textOf("Value")));
        for (Node sub = code.child("Subcode"); sub != null; sub = sub.child("Subcode")) {
            codes.append('/').append(local(sub.textOf("Value")));
        }
        Node reason = fault.child("Reason");
        Node detail = fault.child("Detail");
        return new SoapFault(
                codes.toString(),
                reason == null ? "" : reason.textOf("Text"),
                detail == null ? List.of() : detail.children(),
                headers);
    }

    private static String local(String qualified) {
        return qualified.strip().substring(qualified.strip().indexOf(':') + 1);
    }
}
