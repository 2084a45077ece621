package wirekettle.core.contract;

import java.util.List;
import wirekettle.core.schema.ElementDecl;

/**
 * What one message carries on the wire.
 *
 * @param name the message's name in the WSDL
 * @param headers the SOAP header elements
 * @param body the elements inside the SOAP body: one for wrapped and rpc, as many as parts for bare
 */
public record Message(String name, List<ElementDecl> headers, List<ElementDecl> body) {
    /** A message without content. */
    public static final Message EMPTY = new Message("", List.of(), List.of());
}
