package wirekettle.server.flows;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
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
import wirekettle.core.flow.run.GroupedSource;
import wirekettle.core.flow.run.KeyedRows;
import wirekettle.core.flow.run.Numbers;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.flow.run.RowIndex;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.value.Layout;
import wirekettle.core.value.Node;
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
    DatasetStore datasetStore;

    @Inject
    Endpoints endpoints;

    @Inject
    Environments environments;

    @ConfigProperty(name = "wirekettle.fixed-clock")
    Optional<String> fixedClock;

    @Inject
    CodeTables codeTables;

    @Inject
    KeptReplyMapper kept;

    @Inject
    SeriesStore series;

    @Inject
    DatasetFolders folders;

    private final Expressions expressions = new Expressions();
    private final Map<String, Long> groups = new ConcurrentHashMap<>();
    private final Map<String, Node> farRecords = LatestMap.of(64);

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

    /** Returns the datasets rows are looked up in, for looking. */
    RowIndex.Opener lookUps() {
        return lookUps(datasetStore::open);
    }

    /** Returns the datasets rows are looked up in, for a run. */
    public RowIndex.Opener lookUpsForRun() {
        return lookUps(datasetStore::openForRun);
    }

    private interface Opening {
        RecordSource of(DatasetMapper.Row row) throws IOException;
    }

    private RowIndex.Opener lookUps(Opening opening) {
        return new RowIndex.Opener() {
            @Override
            public RecordSource open(String name) throws IOException {
                return opening.of(named(name));
            }

            @Override
            public KeyedRows byKey(String name, String column) throws IOException {
                return datasetStore.byKey(named(name), column);
            }

            private DatasetMapper.Row named(String name) throws IOException {
                DatasetMapper.Row row = name == null ? null : datasets.byName(name);
                if (row == null) {
                    throw new IOException("there is no dataset “" + name + "”");
                }
                return row;
            }
        };
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

    /** Returns the layout of the dataset a flow reads, or null. */
    public Layout layout(ReadStage read) {
        DatasetMapper.Row row = dataset(read);
        return row == null ? null : DatasetStore.spec(row).layout();
    }

    private DatasetMapper.Row dataset(ReadStage read) {
        return read == null || read.dataset() == null ? null : datasets.byName(read.dataset());
    }

    /**
     * Where a flow's records come from while it is looked at.
     *
     * @param read the Read, null when the flow has none
     * @param from the operation that gives the records, null where a dataset does
     * @param flow the flow whose kept replies count
     * @param environment in which they were kept
     */
    record Source(ReadStage read, CompiledCall from, long flow, String environment) {
        static Source of(CompiledFlow flow, long id, String environment) {
            return flow.source() == null
                    ? new Source(null, null, id, environment)
                    : new Source(flow.source().stage(), flow.source().from(), id, environment);
        }

        private boolean isOperation() {
            return read != null && read.from() != null;
        }
    }

    private KeptReplyMapper.Row reply(Source source) {
        return source.from() == null
                ? null
                : kept.all(source.flow(), source.from().id(), source.environment()).stream()
                        .filter(row -> row.path().equals(ReadStage.FromOperation.PATH) && row.failure() == null)
                        .findFirst()
                        .orElse(null);
    }

    /** Returns the records of the reply kept of the operation that gives them. */
    private List<Node> rowsOfReply(Source source) {
        boolean sound = source.from() != null && source.from().usable();
        return sound ? source.from().pages().rowsOf(KeptReplies.bare(reply(source), source.from())) : List.of();
    }

    /** Returns the first records a flow reads; none when it has none. */
    List<Node> samples(Source source) throws IOException {
        if (source.isOperation()) {
            return rowsOfReply(source);
        }
        ReadStage read = source.read();
        DatasetMapper.Row row = dataset(read);
        if (row == null || DatasetStore.spec(row).layout() == null || DatasetStore.documents(DatasetStore.spec(row))) {
            return List.of();
        }
        List<Node> rows = datasetStore.samples(row);
        if (read.groupBy().isEmpty()) {
            return rows;
        }
        List<Node> records = GroupedSource.of(rows, read.groupBy());
        // the last group may go on behind the rows that were read
        boolean cut = row.rows() > rows.size() && records.size() > 1;
        return cut ? records.subList(0, records.size() - 1) : records;
    }

    /**
     * One of the records a flow reads.
     *
     * @param number its place, from 1
     * @param node its value; null where the operation that gives the records was not called yet
     */
    record Numbered(long number, Node node) {}

    /** Returns the record of a number, the nearest one there is for a number out of range; null when there is none. */
    Numbered record(Source source, long number) throws IOException {
        List<Node> first = samples(source);
        if (first.isEmpty()) {
            return source.isOperation() ? new Numbered(1, null) : null;
        }
        long wanted = Math.max(1, Math.min(number, Math.max(first.size(), records(source))));
        if (wanted <= first.size()) {
            return new Numbered(wanted, first.get((int) wanted - 1));
        }
        String key = version(source) + " " + wanted;
        Node known = farRecords.get(key);
        if (known == null) {
            known = far(source, wanted);
            if (known == null) {
                return new Numbered(first.size(), first.get(first.size() - 1)); // the dataset has fewer by now
            }
            farRecords.put(key, known);
        }
        return new Numbered(wanted, known);
    }

    private Node far(Source source, long number) throws IOException {
        try (RecordSource records = open(source)) {
            long at = 1;
            RecordSource.Item item = records.next();
            while (item != null && at < number) {
                item = records.next();
                at++;
            }
            return item == null ? null : item.node();
        }
    }

    /** Opens the records a flow reads, for looking; null when it reads none. */
    RecordSource open(Source source) throws IOException {
        if (source.isOperation()) {
            return new ListedRecords(source.from().stage().operation(), rowsOfReply(source));
        }
        DatasetMapper.Row row = dataset(source.read());
        return row == null
                ? null
                : GroupedSource.of(datasetStore.open(row), source.read().groupBy());
    }

    /** Returns a text that changes whenever the records a flow reads may have. */
    String version(Source source) {
        if (source.isOperation()) {
            KeptReplyMapper.Row row = reply(source);
            return (row == null ? "none" : row.calledAt() + " " + row.requestHash())
                    + source.read().from().rows()
                    + source.read().as();
        }
        ReadStage read = source.read();
        DatasetMapper.Row row = dataset(read);
        return row == null
                ? "none"
                : row.id() + " " + row.rows() + " " + row.spec().hashCode() + " " + row.findingCount() + " "
                        + read.groupBy() + " " + read.as();
    }

    /** Returns how many records a flow reads; of an operation those of the reply that is kept. */
    long records(Source source) {
        if (source.isOperation()) {
            return rowsOfReply(source).size();
        }
        return records(source.read());
    }

    /** Returns how many records the dataset a flow reads has; 0 where an operation gives them. */
    public long records(ReadStage read) {
        DatasetMapper.Row row = dataset(read);
        if (row == null || read.groupBy().isEmpty()) {
            return row == null ? 0 : row.rows();
        }
        Source source = new Source(read, null, 0, null);
        return groups.computeIfAbsent(version(source), v -> counted(source));
    }

    private long counted(Source source) {
        long count = 0;
        try (RecordSource records = open(source)) {
            while (records.next() != null) {
                count++;
            }
        } catch (IOException e) {
            throw new Problem(422, "not-readable", "The dataset cannot be read: " + e.getMessage());
        }
        return count;
    }

    /**
     * Returns how a call reaches its endpoint in an environment; a secret its fills send and nobody wrote is a
     * problem.
     */
    public Endpoints.Route route(CompiledCall call, String environment) {
        Endpoints.Route route = endpoints.route(call.stage().endpoint(), environment);
        try {
            call.secrets().forEach(route.reach().secrets()::text);
            call.keys().forEach(route.reach().secrets()::key);
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
