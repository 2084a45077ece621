package wirekettle.core.soap;

import java.util.List;
import wirekettle.core.value.Node;

/**
 * A reply taken apart.
 *
 * @param headers the header elements
 * @param body the elements of the body; empty for a fault
 * @param fault the fault, or null
 */
public record Reply(List<Node> headers, List<Node> body, SoapFault fault) {}
