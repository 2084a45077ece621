package wirekettle.server.settings;

import jakarta.inject.Inject;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.Path;
import java.net.URI;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.server.contracts.ContractMapper;
import wirekettle.server.contracts.ContractStore;

/** What contracts say the ports behind endpoints want of their callers. */
@Path("/api")
public class EndpointAdviceResource {
    private static final int MOST = 500;

    @Inject
    ContractMapper mapper;

    @Inject
    ContractStore store;

    @Inject
    SettingsMapper settings;

    /** What a contract says of one endpoint's port. */
    @Schema(
            name = "EndpointAdvice",
            requiredProperties = {"endpoint", "contract", "port", "sentences"})
    public record PortAdvice(String endpoint, String contract, String port, List<String> sentences) {}

    /** Returns the advice for every endpoint named like a contract or with the address of one of its ports. */
    @GET
    @Path("endpoint-advice")
    public List<PortAdvice> advice() {
        List<PortAdvice> all = new ArrayList<>();
        Map<String, ContractStore.Counts> contracts = new LinkedHashMap<>();
        for (ContractMapper.Row row : mapper.page("%", "lower(name)", MOST, 0)) {
            contracts.put(row.name(), store.counts(row.id(), row.revision()));
        }
        for (Endpoint endpoint : settings.endpoints()) {
            contracts.forEach((name, counts) -> {
                for (ContractStore.PortAdvice port : counts.advice()) {
                    boolean its = name.equals(endpoint.name())
                            || endpoint.environments().values().stream()
                                    .anyMatch(way -> same(port.address(), way.address()));
                    if (its) {
                        all.add(new PortAdvice(endpoint.name(), name, port.port(), port.sentences()));
                    }
                }
            });
        }
        return all;
    }

    private static boolean same(String one, String other) {
        try {
            return !one.isBlank()
                    && !other.isBlank()
                    && URI.create(one).normalize().equals(URI.create(other).normalize());
        } catch (IllegalArgumentException e) {
            return one.equals(other);
        }
    }
}
