package wirekettle.server.flows;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.eclipse.microprofile.config.inject.ConfigProperty;
import wirekettle.core.contract.Contract;
import wirekettle.core.expression.Expressions;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.MessageStyle;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.compile.Surroundings;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.DatasetSpec;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.LookUpStage;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.run.Numbers;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.value.Layout;
import wirekettle.server.codes.CodeTables;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.datasets.DatasetFolders;
import wirekettle.server.datasets.DatasetMapper;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.environments.Environments;
import wirekettle.server.series.SeriesStore;
import wirekettle.server.settings.Endpoints;
import wirekettle.server.web.Problem;

/** Connects a flow file with the contracts, datasets and endpoints it names. */
@ApplicationScoped
public class FlowContext {
    @Inject
    ContractStore contracts;

    @Inject
    DatasetMapper datasets;

    @Inject
    Endpoints endpoints;

    @Inject
    Environments environments;

    @ConfigProperty(name = "wirekettle.fixed-clock")
    Optional<String> fixedClock;

    @Inject
    CodeTables codeTables;

    @Inject
    SeriesStore series;

    @Inject
    DatasetFolders folders;

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
    public CompiledFlow compile(FlowFile file) {
        return compile(file, Map.of());
    }

    /** Returns the revisions of the contracts a flow calls, as they are now. */
    public Map<String, Integer> contractRevisions(FlowFile file) {
        return contracts.revisions(
                file.all(CallStage.class).stream().map(CallStage::contract).toList());
    }

    /** Compiles a flow against what is there now, but for the contracts whose revisions are given. */
    public CompiledFlow compile(FlowFile file, Map<String, Integer> revisions) {
        return CompiledFlow.of(
                file,
                new Surroundings(
                        contractsOf(file), layoutsOf(file), stylesOf(file), mapping(file), environments.valueNames()));
    }

    /** Returns a number that changes whenever a contract that a flow calls does. */
    int contractsVersion(CompiledFlow flow) {
        return flow.all(CompiledCall.class).stream()
                .map(call -> System.identityHashCode(call.contract()))
                .toList()
                .hashCode();
    }

    /**
     * Returns the call that is a stage, or the last one whose reply is in reach at it; the first for no stage; or
     * null.
     */
    static CompiledCall call(CompiledFlow flow, String stage) {
        List<CompiledCall> calls = flow.all(CompiledCall.class);
        if (stage == null || flow.stage(stage) == null) {
            return calls.isEmpty() ? null : calls.get(0);
        }
        if (flow.stage(stage) instanceof CompiledCall call) {
            return call;
        }
        CompiledCall last = null;
        for (CompiledCall call : calls) {
            last = flow.at(stage).get(String.valueOf(call.stage().as())) == null ? last : call;
        }
        return last;
    }

    /** Returns the folders as they are for looking: nothing is written to them. */
    Folders foldersForLooking() {
        return folders.forLooking();
    }

    /** Returns the numbers series would give next in an environment. */
    Numbers numbersForLooking(String environment) {
        return series.looking(environment);
    }

    /** Returns the named values of an environment. */
    public Map<String, String> values(String environment) {
        return environments.values(environment);
    }

    /** Returns the problems a flow has with what stands for its datasets, and does not have with those it names. */
    public List<FlowProblem> ofStandIns(FlowFile written, FlowFile standing, Map<String, Integer> contracts) {
        if (standing == written) {
            return List.of();
        }
        List<FlowProblem> problems =
                new ArrayList<>(compile(standing, contracts).problems());
        problems.removeAll(compile(written, contracts).problems());
        return problems;
    }

    /** Returns what stands for the datasets flows name in an environment. */
    public Map<String, String> standIns(String environment) {
        return environments.datasets(environment);
    }

    /** Returns what the fills of a flow may use. */
    public MappingContext mapping(FlowFile file) {
        return MappingContext.of(expressions)
                .with(codeTables.of(file))
                .with(folders.among(file.folders()))
                .drawing(series.of(file));
    }

    /** Returns the contracts a flow names, those that are there. */
    public Map<String, Contract> contractsOf(FlowFile file) {
        return contractsOf(file, Map.of());
    }

    private Map<String, Contract> contractsOf(FlowFile file, Map<String, Integer> revisions) {
        Map<String, Contract> found = new HashMap<>();
        for (CallStage call : file.all(CallStage.class)) {
            String name = call.contract();
            Contract contract = name == null ? null : contracts.byName(name, revisions.get(name));
            if (contract != null) {
                found.put(call.contract(), contract);
            }
        }
        return found;
    }

    private Map<String, MessageStyle> stylesOf(FlowFile file) {
        Map<String, MessageStyle> found = new HashMap<>();
        for (CallStage call : file.all(CallStage.class)) {
            if (call.endpoint() != null) {
                found.computeIfAbsent(call.endpoint(), endpoints::style);
            }
        }
        return found;
    }

    private Map<String, Layout> layoutsOf(FlowFile file) {
        Map<String, Layout> found = new HashMap<>();
        for (Stage stage : file.all()) {
            boolean reads = stage instanceof ReadStage || stage instanceof LookUpStage;
            DatasetMapper.Row row = reads && stage.dataset() != null ? datasets.byName(stage.dataset()) : null;
            DatasetSpec spec = row == null ? null : DatasetStore.spec(row);
            if (spec != null && spec.layout() != null) {
                found.put(stage.dataset(), spec.layout());
            }
        }
        return found;
    }

    /**
     * Returns how a call reaches its endpoint in an environment; a secret its fills send and nobody wrote is a
     * problem.
     */
    public Endpoints.Route route(CompiledCall call, String environment) {
        Endpoints.Route route =
                endpoints.route(call.stage().endpoint(), environment).withStandIns(environments.secrets(environment));
        Secrets secrets = route.reach().secrets().ofFills();
        try {
            call.secrets().forEach(secrets::text);
            call.keys().forEach(secrets::key);
        } catch (Secrets.SecretElsewhere e) {
            throw new Problem(409, "secret-elsewhere", "A fill sends a secret, and " + e.getMessage() + ".")
                    .with("secret", e.name())
                    .with("destination", e.destination());
        } catch (Secrets.SecretMissing e) {
            throw new Problem(422, "secret-missing", "A fill sends a secret, and " + e.getMessage() + ".");
        }
        return route;
    }
}
