package wirekettle.core.soap;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.soap.attachments.Multipart;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.soap.attachments.Xop;
import wirekettle.core.soap.security.Masking;
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

    /** Returns the reply in which no value tells a secret; the same when none did. */
    Reply masked(Masking masking) {
        return masking.inData()
                ? new Reply(
                        masked(headers, masking), masked(body, masking), fault == null ? null : fault.masked(masking))
                : this;
    }

    static List<Node> masked(List<Node> nodes, Masking masking) {
        return nodes.stream().map(masking::mask).toList();
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
