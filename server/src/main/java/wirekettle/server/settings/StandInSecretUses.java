package wirekettle.server.settings;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.List;
import wirekettle.server.environments.Environments;
import wirekettle.server.secrets.SecretUser;

/** Secrets that stand for others in an environment, or have others standing for them. */
@ApplicationScoped
class StandInSecretUses implements SecretUser {
    @Inject
    Environments environments;

    @Override
    public List<String> uses(String secret) {
        return environments.all().stream()
                .filter(each ->
                        each.secrets().containsKey(secret) || each.secrets().containsValue(secret))
                .map(each -> "what stands for others in " + each.name())
                .toList();
    }
}
