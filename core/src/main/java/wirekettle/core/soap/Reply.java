package wirekettle.core.soap;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.soap.attachments.Multipart;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.soap.attachments.Xop;
import wirekettle.core.value.Node;

/**
 * A reply taken apart.
 *
 * @param headers the header elements
 * @param body the elements of the body; empty for a fault
 * @param fault the fault, or null
 */
public record Reply(List<Node> headers, List<Node> body, SoapFault fault) {
    /** Returns the reply with the content of its parts where its elements stand for them. */
    Reply resolved(List<Part> parts) throws Multipart.Broken {
        return fault == null
                ? new Reply(headers, resolved(body, parts), null)
                : new Reply(
                        headers,
                        body,
                        new SoapFault(fault.code(), fault.reason(), resolved(fault.detail(), parts), fault.headers()));
    }

    private static List<Node> resolved(List<Node> nodes, List<Part> parts) throws Multipart.Broken {
        List<Node> resolved = new ArrayList<>();
        for (Node each : nodes) {
            resolved.add(Xop.resolved(each, parts));
        }
        return resolved;
    }

    /** Returns the reply whose parts are no longer there: elements that stood for them hold nothing. */
    Reply resolvedWithoutParts() {
        try {
            return resolved(null);
        } catch (Multipart.Broken e) {
            throw new IllegalStateException("nothing is looked for", e);
        }
    }
}
