package wirekettle.server.runs;

import com.fasterxml.jackson.core.type.TypeReference;
import io.quarkus.narayana.jta.QuarkusTransaction;
import io.quarkus.runtime.StartupEvent;
import jakarta.annotation.Priority;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Event;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.io.IOException;
import java.net.URI;
import java.nio.file.Path;
import java.time.Instant;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.jboss.logging.Logger;
import wirekettle.connect.HostRule;
import wirekettle.connect.PageFile;
import wirekettle.connect.SqlTransaction;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.StandIns;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.flow.run.Doors;
import wirekettle.core.flow.run.EndpointGate;
import wirekettle.core.flow.run.FlowRun;
import wirekettle.core.flow.run.Outputs;
import wirekettle.core.flow.run.PagedSource;
import wirekettle.core.flow.run.Past;
import wirekettle.core.flow.run.RecordSink;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.flow.run.Requests;
import wirekettle.core.flow.run.RowIndex;
import wirekettle.core.flow.run.RunNames;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.datasets.DatasetFolders;
import wirekettle.server.datasets.DatasetMapper;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.flows.FlowContext;
import wirekettle.server.flows.FlowMapper;
import wirekettle.server.flows.FlowRecords;
import wirekettle.server.hosts.Hosts;
import wirekettle.server.ledger.KeptAnswers;
import wirekettle.server.ledger.LedgerMapper;
import wirekettle.server.ledger.LedgerTexts;
import wirekettle.server.ledger.PostgresLedger;
import wirekettle.server.ledger.PostgresPast;
import wirekettle.server.ledger.RequestMapper;
import wirekettle.server.ledger.RunMapper;
import wirekettle.server.ledger.StoredRequests;
import wirekettle.server.secrets.StoredSecrets;
import wirekettle.server.series.SeriesStore;
import wirekettle.server.settings.Endpoints;
import wirekettle.server.uses.Uses;
import wirekettle.server.web.Json;
import wirekettle.server.web.Problem;

/** Starts runs and lets them go on, each on a thread of its own, and knows the ones going on. */
@ApplicationScoped
public class Runner {
    private static final Logger LOG = Logger.getLogger(Runner.class);
    private static final long AGAIN_SECONDS = 2;
    private static final long KEEP_SECONDS = 1;
    private static final int LAST = 9_000;

    @Inject
    FlowContext context;

    @Inject
    FlowRecords flowRecords;

    @Inject
    ContractStore contracts;

    @Inject
    DatasetStore datasets;

    @Inject
    DatasetFolders folders;

    @Inject
    RunMapper runs;

    @Inject
    LedgerMapper lines;

    @Inject
    PostgresLedger ledger;

    @Inject
    LedgerTexts texts;

    @Inject
    RequestMapper requests;

    @Inject
    KeptAnswers answers;

    @Inject
    FlowMapper flows;

    @Inject
    Hosts hosts;

    @Inject
    Uses uses;

    @Inject
    SeriesStore series;

    @Inject
    Gates gates;

    @Inject
    MemoryBudget memory;

    @Inject
    Leases leases;

    @Inject
    GoingRuns going;

    @Inject
    RunFiles files;

    @Inject
    Endpoints endpoints;

    @Inject
    StoredSecrets secrets;

    @Inject
    Event<RunEnded> ended;

    private final ScheduledExecutorService later = Executors.newSingleThreadScheduledExecutor(task -> {
        Thread thread = new Thread(task, "run-ends");
        thread.setDaemon(true);
        return thread;
    });

    /**
     * What began a run.
     *
     * @param kind hand, or the kind of the trigger
     * @param trigger the trigger, or null
     * @param file the file whose records it reads in the place of its dataset's, or null
     * @param requests what callers send it, or null
     */
    public record Begun(String kind, Long trigger, Path file, Requests requests) {
        /** Callers began it, by what they send. */
        public static final String CALLERS = "http";

        /** The messages of a queue did. */
        public static final String QUEUE = "queue";

        /** Tells whether the records of a run are what is sent to it while it goes on. */
        public static boolean takes(String kind) {
            return kind.equals(CALLERS) || kind.equals(QUEUE);
        }

        /** A person did. */
        public static final Begun BY_HAND = new Begun("hand", null, null);

        /** What began a run of a dataset, an operation or a file. */
        public Begun(String kind, Long trigger, Path file) {
            this(kind, trigger, file, null);
        }
    }

    /**
     * How a run is wanted.
     *
     * @param limit how many records at most, 0 for all
     * @param pilot whether it pauses there, to go on with the rest
     * @param contracts the revisions of the contracts it calls, null for those there are now
     */
    public record RunRequest(
            String environment, long limit, boolean pilot, String by, Begun begun, Map<String, Integer> contracts) {
        /** Wants a run that a person begins, with contracts as they are now. */
        public RunRequest(String environment, long limit, boolean pilot, String by) {
            this(environment, limit, pilot, by, Begun.BY_HAND, null);
        }
    }

    /** After everything that runs call has started, simulators among it. */
    void afterRestart(@Observes @Priority(LAST) StartupEvent start) {
        takeOver();
        later.scheduleWithFixedDelay(this::keep, KEEP_SECONDS, KEEP_SECONDS, TimeUnit.SECONDS);
    }

    /** Keeps the runs of this server, does what is asked of them elsewhere, and takes over those nobody keeps. */
    private void keep() {
        try {
            leases.renew();
            secrets.takeDue(context.clock().instant());
            runs.wanted(leases.holder()).forEach(going::heed);
            going.ids().forEach(id -> runs.onHold(id, going.onHold(id)));
            takeOver();
        } catch (RuntimeException e) {
            LOG.debugf("leases are looked after again in a moment: %s", e.getMessage());
        }
    }

    private void takeOver() {
        List<Long> interrupted = leases.orphans();
        if (!interrupted.isEmpty()) {
            LOG.infof("%d runs were interrupted when a server stopped", interrupted.size());
            later.execute(() -> interrupted.forEach(this::goOnByItself));
        }
    }

    private void goOnByItself(long id) {
        try {
            RunMapper.Row row = runs.byId(id);
            FlowFile file = FlowFile.parse(flows.file(row.flowId(), row.flowRevision()));
            boolean triggered = row.triggerId() != null;
            if (triggered || file.source().map(ReadStage::goesOnByItself).orElse(false)) {
                resume(id);
                LOG.infof("run %d goes on by itself", id);
            } else {
                ended.fire(new RunEnded(id, "interrupted"));
            }
        } catch (IOException | RuntimeException e) {
            LOG.warnf("run %d cannot go on by itself: %s", id, e.getMessage());
            if (runs.byId(id).state().equals("interrupted")) {
                runs.end(id, "interrupted", "It could not go on by itself: " + e.getMessage());
                ended.fire(new RunEnded(id, "interrupted"));
            }
        }
    }

    /** Starts a run of one revision of a flow. */
    public long start(long flowId, int revision, FlowFile written, RunRequest wanted) throws IOException {
        Map<String, String> standIns = context.standIns(wanted.environment());
        FlowFile file = StandIns.in(written, standIns);
        Map<String, Integer> contracts =
                wanted.contracts() == null ? context.contractRevisions(file) : wanted.contracts();
        context.ofStandIns(written, file, contracts).stream().findFirst().ifPresent(problem -> {
            throw new Problem(
                    422,
                    "stand-in-differs",
                    "What stands for a dataset of the flow in " + wanted.environment() + " differs from it: "
                            + problem.message());
        });
        CompiledFlow flow = compiled(file, contracts);
        if (flow.source().stage().input() != null && wanted.begun().requests() == null) {
            throw new Problem(
                    422,
                    "answers-callers",
                    "The records of this flow are what callers send: publish it, and give it a trigger that answers"
                            + " them.");
        }
        mustReach(flow, wanted.environment());
        boolean unknown = wanted.begun().file() != null || wanted.begun().requests() != null;
        long records = unknown ? 0 : flowRecords.records(flow.source().stage());
        long total = wanted.limit() > 0 ? Math.min(wanted.limit(), records) : records;
        Instant at = context.clock().instant();
        long id = runs.add(
                flowId,
                revision,
                hashes(flow),
                wanted.environment(),
                wanted.by(),
                at,
                wanted.pilot() ? records : total,
                wanted.limit(),
                wanted.pilot());
        begun(id, flow, wanted.environment(), wanted.begun(), contracts, standIns);
        go(
                id,
                flow,
                wanted.environment(),
                PostgresPast.beginning(lines, texts, id),
                Map.of(),
                new FlowRun.Extent(wanted.limit(), wanted.pilot()),
                wanted.begun().requests());
        return id;
    }

    /** Lets a run that was paused or interrupted go on where it was. */
    public void resume(long id) throws IOException {
        RunMapper.Row row = runs.byId(id);
        FlowFile file = StandIns.in(FlowFile.parse(flows.file(row.flowId(), row.flowRevision())), standInsOf(id));
        CompiledFlow flow = compiled(file, contractsOf(id));
        mustBeAsThen(flow, id);
        mustReach(flow, row.environment());
        boolean goesOn = QuarkusTransaction.requiringNew().call(() -> {
            runs.take(id, leases.holder());
            boolean its = runs.goOn(id) > 0;
            if (!its) {
                QuarkusTransaction.setRollbackOnly();
            }
            return its;
        });
        if (!goesOn) {
            throw new Problem(
                    409, "not-waiting", "Run " + id + " is " + row.state() + ": there is nothing to go on with.");
        }
        String kept = runs.positions(id);
        Map<String, Long> positions = kept == null ? Map.of() : Json.read(kept, new TypeReference<>() {});
        go(id, flow, row.environment(), new PostgresPast(lines, texts, row), positions, FlowRun.Extent.ALL);
    }

    /** Returns the revisions of the contracts a run began with, none for a run of before that was kept. */
    Map<String, Integer> contractsOf(long id) {
        String kept = runs.contracts(id);
        return kept == null ? Map.of() : Json.read(kept, new TypeReference<>() {});
    }

    /** Returns what stood for the datasets of a run when it began. */
    Map<String, String> standInsOf(long id) {
        return Json.read(runs.datasets(id), new TypeReference<>() {});
    }

    void begun(
            long id,
            CompiledFlow flow,
            String environment,
            Begun begun,
            Map<String, Integer> contracts,
            Map<String, String> standIns) {
        runs.take(id, leases.holder());
        runs.keepMonth(id);
        String file = begun.file() == null ? null : begun.file().toString();
        runs.begun(id, begun.kind(), begun.trigger(), file, Json.write(contracts));
        runs.keepValues(id, Json.write(context.values(environment)), Json.write(standIns));
        use(id, flow);
    }

    /** A run that does not say which revisions of contracts it began with goes on only where these are the same. */
    void mustBeAsThen(CompiledFlow flow, long id) {
        if (runs.contracts(id) == null && !hashes(flow).equals(runs.contractHashes(id))) {
            throw new Problem(
                    409,
                    "contract-changed",
                    "A contract of this flow was refreshed since the run began: what is left cannot go on as it was."
                            + " Start a new run with the records that have no end.");
        }
    }

    CompiledFlow compiled(FlowFile file, Map<String, Integer> contracts) {
        CompiledFlow flow = context.compile(file, contracts);
        if (!flow.runnable()) {
            String why = flow.problems().isEmpty()
                    ? "a stage is not finished"
                    : flow.problems().get(0).message();
            throw new Problem(422, "not-ready", "The flow cannot run yet: " + why).with("problems", flow.problems());
        }
        return flow;
    }

    /** Refuses before anything begins what would fail for every record: an address or secret that is not there. */
    void mustReach(CompiledFlow flow, String environment) throws IOException {
        Set<String> missing = new TreeSet<>(flow.file().values());
        missing.removeAll(context.values(environment).keySet());
        if (!missing.isEmpty()) {
            throw new Problem(
                            422,
                            "value-missing",
                            environment + " has no value “" + String.join("”, “", missing)
                                    + "”, and the flow uses it: set it in Settings, Environments.")
                    .with("values", missing);
        }
        HostRule rule = hosts;
        for (CompiledCall call : flow.all(CompiledCall.class)) {
            rule.check(URI.create(context.route(call, environment).reach().address()));
        }
        for (WriteStage target : flow.file().all(WriteStage.class)) {
            datasets.queue(target.dataset()).ifPresent(queue -> endpoints.broker(queue.endpoint(), environment));
        }
    }

    String hashes(CompiledFlow flow) {
        Map<String, String> hashes = new TreeMap<>();
        for (CompiledCall call : flow.all(CompiledCall.class)) {
            hashes.put(call.stage().contract(), contracts.hash(call.stage().contract()));
        }
        return Json.write(hashes);
    }

    private void use(long id, CompiledFlow flow) {
        FlowFile file = flow.file();
        uses.add(id, Uses.Kind.FLOW, file.name());
        file.all().forEach(stage -> uses.add(id, Uses.Kind.DATASET, stage.dataset()));
        file.folders().forEach(folder -> uses.add(id, Uses.Kind.DATASET, folder));
        for (CompiledCall call : flow.all(CompiledCall.class)) {
            uses.add(id, Uses.Kind.CONTRACT, call.stage().contract());
            uses.add(id, Uses.Kind.ENDPOINT, call.stage().endpoint());
        }
        flow.secrets().forEach(secret -> uses.add(id, Uses.Kind.SECRET, secret));
        context.mapping(file).series().keySet().forEach(name -> uses.add(id, Uses.Kind.SERIES, name));
        context.mapping(file).tables().keySet().forEach(table -> uses.add(id, Uses.Kind.CODES, table));
    }

    void go(long id, CompiledFlow flow, String environment, Past past, Map<String, Long> positions, FlowRun.Extent how)
            throws IOException {
        go(id, flow, environment, past, positions, how, null);
    }

    private void go(
            long id,
            CompiledFlow flow,
            String environment,
            Past past,
            Map<String, Long> positions,
            FlowRun.Extent how,
            Requests callers)
            throws IOException {
        List<WriteStage> targets = flow.file().all(WriteStage.class);
        WriteStage results = flow.file().results().orElse(null);
        RecordSource source = null;
        Map<String, RecordSink> sinks = new LinkedHashMap<>();
        SqlTransaction tables = datasets.transaction();
        try {
            boolean again = runs.byId(id).originRun() != null;
            source = callers != null ? callers : source(id, flow, past);
            for (WriteStage target : targets) {
                sinks.put(
                        target.id(),
                        datasets.sink(
                                again ? target.added() : target,
                                files.staged(id, target, target.equals(results)),
                                "run " + id + " " + target.id(),
                                positions.getOrDefault(target.id(), 0L),
                                tables,
                                endpoint -> endpoints.broker(endpoint, environment)));
            }
            boolean staged = results != null && !sinks.get(results.id()).mayRefuse();
            runs.output(id, staged ? files.staged(id, results, true).toString() : null);
        } catch (IOException | RuntimeException e) {
            if (source != null) {
                source.close();
            }
            new Outputs(sinks).close();
            runs.end(id, past.totals().read() == 0 ? "failed" : "interrupted", e.getMessage());
            throw e;
        }
        Outputs outputs = new Outputs(sinks);
        PostgresLedger.OfRun books = ledger.of(id, runs.take(id, leases.holder()));
        Map<String, EndpointGate> its = new HashMap<>();
        RowIndex rows = new RowIndex(flowRecords.lookUpsForRun());
        Doors doors =
                doors(flow, environment, its, rows, waitedFor(id, callers)).with(series.drawing(id, environment));
        Map<String, String> values = Json.read(runs.values(id), new TypeReference<>() {});
        RunNames names = new RunNames(Long.toString(id), source.name(), files.given(id), values);
        FlowRun run = new FlowRun(flow, doors, names, source, outputs, books, past, how);
        going.add(id, run, books, List.copyOf(its.values()), source);
        RecordSource opened = source;
        Thread thread = new Thread(() -> work(id, run, opened, outputs, rows, flow), "run-" + id);
        thread.setDaemon(true);
        thread.start();
    }

    /** Who waits for an answer does not wait for an endpoint that is down; a message does. */
    private boolean waitedFor(long id, Requests callers) {
        return callers != null && runs.byId(id).begunBy().equals(Begun.CALLERS);
    }

    private RecordSource source(long id, CompiledFlow flow, Past past) throws IOException {
        ReadStage read = flow.source().stage();
        if (read.input() != null) {
            return new StoredRequests(requests, texts, answers, id, past);
        }
        String file = runs.byId(id).file();
        if (file != null) {
            return datasets.openFile(datasets.named(read.dataset()), Path.of(file));
        }
        if (read.from() == null) {
            return datasets.openForRun(datasets.named(read.dataset()), files.rows(id));
        }
        PageFile pages = PageFile.open(files.rows(id), runs.watermark(id));
        return new PagedSource(read.from().call().operation(), pages, pages.watermark());
    }

    private Doors doors(
            CompiledFlow flow, String environment, Map<String, EndpointGate> its, RowIndex rows, boolean answers) {
        return new Doors(
                call -> {
                    Endpoints.Route route = context.route(call, environment);
                    EndpointGate gate = its.computeIfAbsent(
                            call.stage().endpoint(),
                            endpoint ->
                                    answers ? gates.ofCallers(endpoint, environment) : gates.of(endpoint, environment));
                    Caller caller = Caller.of(
                            route.transport(),
                            route.reach(),
                            call.contract(),
                            call.offered(),
                            call.stage().delivery().limits());
                    return new Doors.Line(caller, route.reach(), gate);
                },
                rows,
                folders,
                context.clock(),
                memory,
                thrown -> LOG.error("a record could not be worked on", thrown));
    }

    private void work(long id, FlowRun run, RecordSource source, Outputs outputs, RowIndex rows, CompiledFlow flow) {
        String state = "failed";
        String why = null;
        try (source;
                outputs;
                rows) {
            FlowRun.Ended ended = run.run();
            state = ended.name().toLowerCase(java.util.Locale.ROOT);
            why = ended == FlowRun.Ended.STOPPED && run.note() == null ? "A failure lane stopped the run." : run.note();
            looked(flow);
            if (ended == FlowRun.Ended.DONE) {
                files.forgetRows(id);
            }
            if (ended != FlowRun.Ended.PAUSED) {
                requests.forget(id);
            }
        } catch (IOException | RuntimeException | Error e) {
            LOG.warnf("run %d failed: %s", id, e.getMessage());
            // what the ledger knows is whole: the run can go on from there
            why = e.getMessage();
        } finally {
            if (source instanceof Requests callers) {
                callers.over();
            }
            end(id, state, why);
        }
    }

    /** Looks at what was written, so that the datasets show it. */
    private void looked(CompiledFlow flow) throws IOException {
        List<String> written = Stream.concat(
                        flow.file().all(WriteStage.class).stream().map(WriteStage::dataset),
                        flow.file().folders().stream())
                .distinct()
                .toList();
        for (String name : written) {
            DatasetMapper.Row target = datasets.named(name);
            datasets.look(target.id(), DatasetStore.spec(target));
        }
    }

    /** Says how a run ended; a database that is away is told once it is back. */
    private void end(long id, String state, String why) {
        try {
            if (runs.endHeld(id, leases.holder(), state, why) > 0) {
                going.over(id, state);
                ended.fire(new RunEnded(id, state));
            } else {
                LOG.warnf("run %d goes on at another server", id);
            }
            going.remove(id);
        } catch (RuntimeException e) {
            LOG.warnf("run %d has ended, and the database does not know yet: %s", id, e.getMessage());
            later.schedule(() -> end(id, state, why), AGAIN_SECONDS, TimeUnit.SECONDS);
        }
    }
}
