package wirekettle.server.settings;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import wirekettle.core.mapping.MessageStyle;
import wirekettle.server.web.Problem;

/** Where endpoints are reached, and how messages are written for them. */
@ApplicationScoped
public class Endpoints {
    @Inject
    SettingsMapper settings;

    /** Returns an endpoint's address in an environment; a problem says what to set where there is none. */
    public String address(String name, String environment) {
        Endpoint endpoint = name == null ? null : settings.endpoint(name);
        String address = endpoint == null ? "" : endpoint.address(environment);
        if (address.isBlank()) {
            throw new Problem(
                    422,
                    "no-address",
                    "Endpoint “" + name + "” has no address in " + environment
                            + ": set it in the call's Delivery or in Settings.");
        }
        return address;
    }

    /** Returns how messages are written for an endpoint, plain for one that is not known. */
    public MessageStyle style(String name) {
        Endpoint endpoint = name == null ? null : settings.endpoint(name);
        return endpoint == null ? MessageStyle.PLAIN : endpoint.style();
    }
}
