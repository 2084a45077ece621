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

    private record Key(String endpoint, String environment, EndpointSettings.Limits limits, boolean callers) {}

    private final Map<Key, EndpointGate> gates = new ConcurrentHashMap<>();

    /** Returns the gate of an endpoint in an environment, with its limits as they are now. */
    EndpointGate of(String endpoint, String environment) {
        return gates.computeIfAbsent(
                key(endpoint, environment, false), key -> EndpointGate.of(key.limits(), context.clock()));
    }

    /** Returns the gate of those whose callers wait: nothing of theirs waits for an endpoint that is down. */
    EndpointGate ofCallers(String endpoint, String environment) {
        return gates.computeIfAbsent(key(endpoint, environment, true), key -> EndpointGate.ofCallers(key.limits()));
    }

    private Key key(String endpoint, String environment, boolean callers) {
        Endpoint known = settings.endpoint(endpoint);
        return new Key(
                endpoint,
                environment,
                known == null ? null : known.way(environment).settings().limits(),
                callers);
    }
}
