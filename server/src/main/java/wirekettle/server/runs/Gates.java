package wirekettle.server.runs;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import wirekettle.core.flow.run.EndpointGate;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.server.flows.FlowContext;
import wirekettle.server.settings.Endpoint;
import wirekettle.server.settings.SettingsMapper;

/** The gates of endpoints: all runs of this server go through the same one. */
@ApplicationScoped
class Gates {
    @Inject
    SettingsMapper settings;

    @Inject
    FlowContext context;

    private record Key(String endpoint, String environment, EndpointSettings.Limits limits) {}

    private final Map<Key, EndpointGate> gates = new ConcurrentHashMap<>();

    /** Returns the gate of an endpoint in an environment, with its limits as they are now. */
    EndpointGate of(String endpoint, String environment) {
        Endpoint known = settings.endpoint(endpoint);
        EndpointSettings.Limits limits =
                known == null ? null : known.way(environment).settings().limits();
        return gates.computeIfAbsent(
                new Key(endpoint, environment, limits), key -> EndpointGate.of(key.limits(), context.clock()));
    }
}
