package wirekettle.server.settings;

import java.util.Map;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.fill.MessageStyle;
import wirekettle.core.soap.EndpointSettings;

/**
 * How a port is reached, by environment.
 *
 * @param id the id
 * @param name its name
 * @param style how messages are written for it
 * @param environments how it is reached in each environment that was set
 * @param simulator the simulator that answers for it in the environment Simulator, or null
 */
@Schema(requiredProperties = {"id", "name", "style", "environments"})
public record Endpoint(Long id, String name, MessageStyle style, Map<String, Way> environments, Long simulator) {
    /**
     * How it is reached in one environment.
     *
     * @param address where it is, empty when that is not known
     * @param settings what reaching it takes
     */
    @Schema(
            name = "EndpointWay",
            requiredProperties = {"address", "settings"})
    public record Way(String address, EndpointSettings settings) {
        /** Nothing known yet. */
        static final Way NONE = new Way("", EndpointSettings.PLAIN);
    }

    /** Returns how it is reached in an environment. */
    public Way way(String environment) {
        return environments.getOrDefault(environment, Way.NONE);
    }

    /** Returns the address in an environment, empty when there is none. */
    public String address(String environment) {
        return way(environment).address();
    }
}
