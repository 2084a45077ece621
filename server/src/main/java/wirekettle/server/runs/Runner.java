package wirekettle.server.runs;

import io.quarkus.runtime.StartupEvent;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.io.IOException;
import java.net.URI;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Stream;
import org.jboss.logging.Logger;
import wirekettle.connect.HostRule;
import wirekettle.core.flow.compile.PreparedFlow;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.run.FlowRun;
import wirekettle.core.flow.run.Ledger;
import wirekettle.core.flow.run.LedgerLine;
import wirekettle.core.flow.run.Outputs;
import wirekettle.core.flow.run.RecordSink;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.flow.run.RecordWork;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.datasets.DatasetMapper;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.flows.FlowContext;
import wirekettle.server.settings.Endpoints;
import wirekettle.server.settings.Hosts;
import wirekettle.server.uses.Uses;
import wirekettle.server.web.Problem;

/** Starts runs, each on a thread of its own, and knows the ones going on. */
@ApplicationScoped
public class Runner {
    private static final Logger LOG = Logger.getLogger(Runner.class);

    @Inject
    FlowContext context;

    @Inject
    ContractStore contracts;

    @Inject
    DatasetStore datasets;

    @Inject
    RunMapper runs;

    @Inject
    PostgresLedger ledger;

    @Inject
    Hosts hosts;

    @Inject
    Uses uses;

    @Inject
    MemoryBudget memory;

    private final Map<Long, FlowRun> going = new ConcurrentHashMap<>();

    void afterRestart(@Observes StartupEvent start) {
        int interrupted = runs.interrupt();
        if (interrupted > 0) {
            LOG.infof("%d runs were interrupted when the server stopped", interrupted);
        }
    }

    /** Starts a run of one revision of a flow; limit 0 means all records. */
    public long start(long flowId, int revision, FlowFile file, String environment, long limit, String by)
            throws IOException {
        PreparedFlow flow = context.prepare(file);
        if (!flow.runnable()) {
            throw new Problem(
                            422,
                            "not-ready",
                            "The flow cannot run yet: " + flow.problems().get(0).message())
                    .with("problems", flow.problems());
        }
        Endpoints.Route route = context.route(flow, environment);
        String address = route.reach().address();
        HostRule rule = hosts;
        rule.check(URI.create(address));
        DatasetMapper.Row dataset = datasets.named(flow.read().dataset());
        List<Stage.Write> targets = new ArrayList<>(
                flow.writes().stream().map(PreparedFlow.Written::stage).toList());
        if (flow.rejects() != null) {
            targets.add(flow.rejects().stage());
        }
        List<DatasetMapper.Row> written = Stream.concat(
                        targets.stream().map(Stage.Write::dataset), file.folders().stream())
                .map(datasets::named)
                .toList();
        Clock clock = context.clock();
        long records = context.records(flow.read());
        long total = limit > 0 ? Math.min(limit, records) : records;
        Instant at = clock.instant();
        long id = runs.add(flowId, revision, contracts.hash(flow.call().contract()), environment, by, at, total);
        uses.add(id, Uses.Kind.FLOW, file.name());
        uses.add(id, Uses.Kind.DATASET, dataset.name());
        written.forEach(row -> uses.add(id, Uses.Kind.DATASET, row.name()));
        uses.add(id, Uses.Kind.CONTRACT, flow.call().contract());
        uses.add(id, Uses.Kind.ENDPOINT, flow.call().endpoint());
        flow.secrets().forEach(secret -> uses.add(id, Uses.Kind.SECRET, secret));
        context.mapping(file).tables().keySet().forEach(table -> uses.add(id, Uses.Kind.CODES, table));
        RecordSource source = null;
        Map<String, RecordSink> sinks = new LinkedHashMap<>();
        try {
            source = datasets.openForRun(dataset);
            for (Stage.Write target : targets) {
                sinks.put(target.id(), datasets.sink(target, staged(id, target, sinks.isEmpty())));
            }
        } catch (IOException | RuntimeException e) {
            if (source != null) {
                source.close();
            }
            new Outputs(sinks).close();
            runs.end(id, "failed", e.getMessage());
            throw e;
        }
        boolean staged = !(sinks.get(targets.get(0).id()) instanceof wirekettle.connect.SqlSink);
        runs.output(id, staged ? staged(id, targets.get(0), true).toString() : null);
        Caller caller = Caller.of(
                route.transport(),
                route.reach(),
                flow.contract(),
                flow.offered(),
                flow.call().delivery().limits());
        Outputs outputs = new Outputs(sinks);
        RecordWork work = new RecordWork(flow, caller, route.reach(), Long.toString(id), source.name(), clock, memory);
        FlowRun run = new FlowRun(flow, work, source, outputs, ledgerOf(id), limit);
        going.put(id, run);
        RecordSource opened = source;
        Thread thread = new Thread(() -> work(id, run, opened, outputs, written), "run-" + id);
        thread.setDaemon(true);
        thread.start();
        return id;
    }

    /** The first output is what a run's page offers; the others stand beside it. */
    private Path staged(long id, Stage.Write target, boolean first) {
        String name = id + (first ? "" : "-" + target.id());
        String ending = target.document() == null ? ".csv" : "." + target.document();
        return datasets.data().resolve("runs").resolve(name + ending);
    }

    private Ledger ledgerOf(long id) {
        return new Ledger() {
            @Override
            public void claim(long ordinal) {
                ledger.claim(id, ordinal);
            }

            @Override
            public void append(List<LedgerLine> lines, long outputOffset, long claimed) {
                ledger.append(id, lines, outputOffset, claimed);
            }
        };
    }

    private void work(long id, FlowRun run, RecordSource source, Outputs outputs, List<DatasetMapper.Row> targets) {
        try (source;
                outputs) {
            run.run();
            for (DatasetMapper.Row target : targets) {
                datasets.look(target.id(), DatasetStore.spec(target));
            }
            runs.end(id, run.cancelled() ? "cancelled" : "done", null);
        } catch (IOException | RuntimeException e) {
            LOG.warnf("run %d failed: %s", id, e.getMessage());
            runs.end(id, "failed", e.getMessage());
        } finally {
            going.remove(id);
        }
    }

    /** Asks a run to end; what is done is kept, and takes the place of the earlier files only where told so. */
    public void cancel(long id, boolean takeResults) {
        FlowRun run = going.get(id);
        if (run != null) {
            run.cancel(takeResults);
        }
    }
}
