package wirekettle.server.flows;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.eclipse.microprofile.config.inject.ConfigProperty;
import wirekettle.core.contract.Contract;
import wirekettle.core.flow.DatasetSpec;
import wirekettle.core.flow.FlowFile;
import wirekettle.core.flow.PreparedFlow;
import wirekettle.core.flow.Stage;
import wirekettle.core.mapping.Expressions;
import wirekettle.core.mapping.MessageStyle;
import wirekettle.core.value.Layout;
import wirekettle.core.value.Node;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.datasets.DatasetMapper;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.settings.Endpoints;

/** Brings a flow file together with the contracts, datasets and endpoints it names. */
@ApplicationScoped
public class FlowContext {
    @Inject
    ContractStore contracts;

    @Inject
    DatasetMapper datasets;

    @Inject
    DatasetStore datasetStore;

    @Inject
    Endpoints endpoints;

    @ConfigProperty(name = "wirekettle.fixed-clock")
    Optional<String> fixedClock;

    private final Expressions expressions = new Expressions();

    /** Returns the expression engine all previews and runs share. */
    public Expressions expressions() {
        return expressions;
    }

    /** Returns the clock, fixed when the server was told so. */
    public Clock clock() {
        return fixedClock
                .filter(c -> !c.isBlank())
                .map(c -> Clock.fixed(Instant.parse(c), ZoneOffset.UTC))
                .orElse(Clock.systemUTC());
    }

    /** Compiles a flow against what is there now. */
    public PreparedFlow prepare(FlowFile file) {
        return PreparedFlow.of(file, contractsOf(file), layoutsOf(file), stylesOf(file), expressions);
    }

    /** Returns the contracts a flow names, those that are there. */
    public Map<String, Contract> contractsOf(FlowFile file) {
        Map<String, Contract> found = new HashMap<>();
        for (Stage stage : file.stages()) {
            if (stage instanceof Stage.Call call) {
                Contract contract = contracts.byName(call.contract());
                if (contract != null) {
                    found.put(call.contract(), contract);
                }
            }
        }
        return found;
    }

    private Map<String, MessageStyle> stylesOf(FlowFile file) {
        Map<String, MessageStyle> found = new HashMap<>();
        file.first(Stage.Call.class)
                .filter(call -> call.endpoint() != null)
                .ifPresent(call -> found.put(call.endpoint(), endpoints.style(call.endpoint())));
        return found;
    }

    private Map<String, Layout> layoutsOf(FlowFile file) {
        Map<String, Layout> found = new HashMap<>();
        file.first(Stage.Read.class).ifPresent(read -> {
            DatasetMapper.Row row = read.dataset() == null ? null : datasets.byName(read.dataset());
            DatasetSpec spec = row == null ? null : DatasetStore.spec(row);
            if (spec != null && spec.layout() != null) {
                found.put(read.dataset(), spec.layout());
            }
        });
        return found;
    }

    /** Returns the layout of the dataset a flow reads, or null. */
    public Layout layout(Stage.Read read) {
        DatasetMapper.Row row = read == null || read.dataset() == null ? null : datasets.byName(read.dataset());
        return row == null ? null : DatasetStore.spec(row).layout();
    }

    /** Returns the first records of the dataset a flow reads; none when it has none. */
    public List<Node> samples(Stage.Read read) throws IOException {
        DatasetMapper.Row row = read == null || read.dataset() == null ? null : datasets.byName(read.dataset());
        return row == null || DatasetStore.spec(row).layout() == null ? List.of() : datasetStore.samples(row);
    }

    /** Returns how many records the dataset a flow reads has. */
    public long records(Stage.Read read) {
        DatasetMapper.Row row = read == null || read.dataset() == null ? null : datasets.byName(read.dataset());
        return row == null ? 0 : row.rows();
    }

    /** Returns how a Call reaches its endpoint in an environment. */
    public Endpoints.Route route(Stage.Call call, String environment) {
        return endpoints.route(call.endpoint(), environment);
    }
}
