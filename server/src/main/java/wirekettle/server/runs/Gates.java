package wirekettle.server.runs;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import wirekettle.core.flow.run.EndpointGate;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.server.settings.Endpoint;
import wirekettle.server.settings.SettingsMapper;

/** The gates of endpoints: all runs of this server go through the same one. */
@ApplicationScoped
class Gates {
    @Inject
    SettingsMapper settings;

    private record Key(String endpoint, String environment, Integer atOnce, Double perSecond) {}

    private final Map<Key, EndpointGate> gates = new ConcurrentHashMap<>();

    /** Returns the gate of an endpoint in an environment, with its limits as they are now. */
    EndpointGate of(String endpoint, String environment) {
        Endpoint known = settings.endpoint(endpoint);
        EndpointSettings.Limits limits =
                known == null ? null : known.way(environment).settings().limits();
        Key key = new Key(
                endpoint,
                environment,
                limits == null ? null : limits.atOnce(),
                limits == null ? null : limits.perSecond());
        return gates.computeIfAbsent(
                key,
                k -> new EndpointGate(
                        k.atOnce() == null ? 0 : k.atOnce(), k.perSecond() == null ? 0 : k.perSecond(), true));
    }
}
