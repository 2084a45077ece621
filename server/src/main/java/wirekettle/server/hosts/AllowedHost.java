package wirekettle.server.hosts;

import java.time.Instant;
import org.eclipse.microprofile.openapi.annotations.media.Schema;

/**
 * A host that imports and calls may reach.
 *
 * @param host {@code host}, {@code host:port} or {@code *.domain}
 * @param allowedBy who allowed it
 * @param allowedAt when
 */
@Schema(requiredProperties = {"host", "allowedBy", "allowedAt"})
public record AllowedHost(String host, String allowedBy, Instant allowedAt) {}
