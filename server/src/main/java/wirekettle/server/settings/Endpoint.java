package wirekettle.server.settings;

import com.fasterxml.jackson.core.type.TypeReference;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.mapping.MessageStyle;
import wirekettle.server.web.Json;

/**
 * How a port is reached, by environment.
 *
 * @param id the id
 * @param name its name
 * @param testAddress the address in Test
 * @param liveAddress the address in Live
 * @param style how messages are written for it
 */
@Schema(requiredProperties = {"id", "name", "testAddress", "liveAddress", "style"})
public record Endpoint(Long id, String name, String testAddress, String liveAddress, MessageStyle style) {
    static Endpoint of(SettingsMapper.EndpointRow row) {
        return row == null
                ? null
                : new Endpoint(
                        row.id(),
                        row.name(),
                        row.testAddress(),
                        row.liveAddress(),
                        Json.read(row.style(), new TypeReference<MessageStyle>() {}));
    }

    /** Returns the address in an environment, Test or Live. */
    public String address(String environment) {
        return "Live".equals(environment) ? liveAddress : testAddress;
    }
}
