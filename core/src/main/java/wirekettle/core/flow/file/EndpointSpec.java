package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import wirekettle.core.fill.MessageStyle;
import wirekettle.core.soap.EndpointSettings;

/**
 * How a port is reached in one environment.
 *
 * @param name the endpoint's name
 * @param address the address called
 * @param style how messages are written for it, null for the plain style
 * @param settings what reaching it takes, secrets by name only; null for nothing special
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record EndpointSpec(String name, String address, MessageStyle style, EndpointSettings settings) {
    /** An endpoint that takes messages in the plain style. */
    public EndpointSpec(String name, String address) {
        this(name, address, null, null);
    }
}
