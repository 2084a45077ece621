package wirekettle.core.contract;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.schema.ElementDecl;

/**
 * What one message carries on the wire.
 *
 * @param name the message's name in the WSDL
 * @param headers the SOAP header elements
 * @param body the elements inside the SOAP body: one for wrapped and rpc, as many as parts for bare
 * @param encoded whether elements tell their types as SOAP encoding wants it (SOAP 1.1, 5)
 * @param headerFaults the header elements a fault about a header may carry (WSDL 1.1, 3.7)
 * @param attachments the parts that travel beside the envelope (WSDL 1.1, 5)
 * @param documentation its documentation
 */
public record Message(
        String name,
        List<ElementDecl> headers,
        List<ElementDecl> body,
        boolean encoded,
        List<ElementDecl> headerFaults,
        List<Attachment> attachments,
        String documentation) {
    /** A message without content. */
    public static final Message EMPTY = new Message("", List.of(), List.of());

    /** A plain literal message. */
    public Message(String name, List<ElementDecl> headers, List<ElementDecl> body) {
        this(name, headers, body, false, List.of(), List.of(), "");
    }

    /** Returns the header elements, then those of the body. */
    public List<ElementDecl> elements() {
        List<ElementDecl> all = new ArrayList<>(headers);
        all.addAll(body);
        return all;
    }

    /**
     * A part that travels beside the envelope.
     *
     * @param part the part's name
     * @param types the content types it may have
     */
    public record Attachment(String part, List<String> types) {}
}
