package wirekettle.core.flow;

import com.fasterxml.jackson.annotation.JsonInclude;
import wirekettle.core.mapping.MessageStyle;

/**
 * How a port is reached in one environment.
 *
 * @param name the endpoint's name
 * @param address the address called
 * @param style how messages are written for it, null for the plain style
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record EndpointSpec(String name, String address, MessageStyle style) {
    /** An endpoint that takes messages in the plain style. */
    public EndpointSpec(String name, String address) {
        this(name, address, null);
    }
}
