package wirekettle.server.signin;

import java.time.Instant;
import org.eclipse.microprofile.openapi.annotations.media.Schema;

/**
 * Someone who may sign in.
 *
 * @param id the id
 * @param name the sign-in name
 * @param mayAllowHosts whether they may allow hosts and manage people
 * @param lockedUntil until when sign-in is refused after repeated failures, or null
 */
@Schema(requiredProperties = {"id", "name", "mayAllowHosts"})
public record Person(Long id, String name, Boolean mayAllowHosts, Instant lockedUntil) {}
