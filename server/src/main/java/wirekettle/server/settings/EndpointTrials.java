package wirekettle.server.settings;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.List;
import java.util.Objects;
import wirekettle.connect.EndpointTest;
import wirekettle.connect.Probe;
import wirekettle.core.contract.Port;
import wirekettle.core.contract.SoapVersion;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.hosts.Hosts;

/** Tries step by step to reach endpoints; nothing that could change data is asked of them. */
@ApplicationScoped
public class EndpointTrials {
    @Inject
    Hosts hosts;

    @Inject
    ContractStore contracts;

    /** Tries a way to an endpoint; the contract of its name says how it is spoken to. */
    public Probe of(String name, Endpoints.Route route) {
        return EndpointTest.of(hosts, route.reach(), version(name));
    }

    /** The SOAP version of the contract an endpoint is named after; SOAP 1.1 when there is none. */
    private SoapVersion version(String name) {
        var contract = contracts.byName(name);
        if (contract == null) {
            return SoapVersion.SOAP_11;
        }
        List<Port> ports = contract.services().stream()
                .flatMap(service -> service.ports().stream())
                .filter(Port::callable)
                .toList();
        return ports.stream()
                .map(Port::soapVersion)
                .filter(Objects::nonNull)
                .findFirst()
                .orElse(ports.isEmpty() ? SoapVersion.SOAP_11 : null);
    }
}
