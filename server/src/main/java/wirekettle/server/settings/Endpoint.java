package wirekettle.server.settings;

import org.eclipse.microprofile.openapi.annotations.media.Schema;

/**
 * How a port is reached, by environment.
 *
 * @param id the id
 * @param name its name
 * @param testAddress the address in Test
 * @param liveAddress the address in Live
 */
@Schema(requiredProperties = {"id", "name", "testAddress", "liveAddress"})
public record Endpoint(Long id, String name, String testAddress, String liveAddress) {
    /** Returns the address in an environment, Test or Live. */
    public String address(String environment) {
        return "Live".equals(environment) ? liveAddress : testAddress;
    }
}
