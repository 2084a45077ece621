package wirekettle.server.signin;

import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;

/**
 * Someone who may sign in, and look.
 *
 * @param id the id
 * @param name the sign-in name
 * @param build whether they may make and change contracts, datasets, flows and simulators
 * @param manage whether they may manage secrets, endpoints, hosts, connections and people
 * @param run the environments they may call services and start runs in
 */
@Schema(requiredProperties = {"id", "name", "build", "manage", "run"})
public record Person(Long id, String name, Boolean build, Boolean manage, List<String> run) {
    /** Tells whether they have a right; RUN where they have it in any environment. */
    boolean may(Right right) {
        return switch (right) {
            case NONE, LOOK -> true;
            case BUILD -> build;
            case RUN -> !run.isEmpty();
            case MANAGE -> manage;
        };
    }
}
