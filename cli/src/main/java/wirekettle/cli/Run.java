package wirekettle.cli;

import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import java.util.stream.Stream;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import wirekettle.connect.CsvSink;
import wirekettle.connect.CsvSource;
import wirekettle.connect.DocumentSink;
import wirekettle.connect.FileLedger;
import wirekettle.connect.FileState;
import wirekettle.connect.FolderFiles;
import wirekettle.connect.FolderSource;
import wirekettle.connect.HostRule;
import wirekettle.connect.HttpTransport;
import wirekettle.connect.PageFile;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.CompiledMap;
import wirekettle.core.flow.file.DatasetSpec;
import wirekettle.core.flow.file.EndpointSpec;
import wirekettle.core.flow.file.FlowBundle;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.flow.run.Doors;
import wirekettle.core.flow.run.End;
import wirekettle.core.flow.run.EndpointGate;
import wirekettle.core.flow.run.FlowRun;
import wirekettle.core.flow.run.Ledger;
import wirekettle.core.flow.run.LedgerLine;
import wirekettle.core.flow.run.Outputs;
import wirekettle.core.flow.run.PagedSource;
import wirekettle.core.flow.run.Past;
import wirekettle.core.flow.run.RecordSink;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.flow.run.RowIndex;
import wirekettle.core.flow.run.RunNames;
import wirekettle.core.flow.run.Totals;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.soap.Transport;
import wirekettle.core.soap.security.Secrets;

/** Runs a flow bundle. */
@Command(
        name = "run",
        mixinStandardHelpOptions = true,
        description = "Run a flow bundle (folder or zip). Exit 0 all written, 1 some rejected, 2 could not run.")
final class Run implements Callable<Integer> {
    @Parameters(paramLabel = "BUNDLE", description = "a bundle's folder or zip")
    private Path bundlePath;

    @Option(names = "--in", paramLabel = "NAME=FILE", description = "the file or folder of a dataset that is read")
    private Map<String, Path> in = Map.of();

    @Option(names = "--out", paramLabel = "NAME=FILE", description = "the file or folder of a dataset that is written")
    private Map<String, Path> out = Map.of();

    @Option(names = "--endpoint", paramLabel = "NAME=ADDRESS", description = "the address of an endpoint")
    private Map<String, String> endpoints = Map.of();

    @Option(names = "--allow", paramLabel = "HOST", description = "a host that may be called, besides those named here")
    private List<String> allow = List.of();

    @Option(names = "--value", paramLabel = "NAME=VALUE", description = "a named value of the environment: $env/NAME")
    private Map<String, String> values = Map.of();

    @Option(names = "--secrets", paramLabel = "FOLDER", description = "holds a file for each secret the endpoint uses")
    private Path secrets;

    @Option(names = "--at", paramLabel = "INSTANT", description = "fix start and now, as in 2026-11-23T09:14:02Z")
    private Instant at;

    @Option(names = "--limit", paramLabel = "N", description = "only the first N records")
    private long limit;

    @Option(names = "--json", description = "counts and causes as JSON")
    private boolean json;

    @Option(names = "--ledger", paramLabel = "FILE", description = "keep the run's books in a file")
    private Path ledgerFile;

    @Option(names = "--resume", description = "go on with the run whose books --ledger names")
    private boolean resume;

    @Option(
            names = "--state",
            paramLabel = "FILE",
            description = "keeps what a run leaves for the next: where series stand, how far an operation was read")
    private Path stateFile;

    @Override
    public Integer call() throws IOException {
        if (resume && ledgerFile == null) {
            throw new IOException("--resume needs --ledger FILE");
        }
        FlowBundle bundle = FlowBundle.read(bundlePath);
        CompiledFlow flow = Check.compiled(bundle);
        if (!flow.runnable() || !flow.problems().isEmpty()) {
            Check.tell(flow);
            return 2;
        }
        boolean draws = flow.all(CompiledMap.class).stream()
                .anyMatch(map -> !map.draws().isEmpty());
        boolean leaves = draws || flow.source().watermark() != null;
        if (leaves && stateFile == null) {
            throw new IOException((draws ? "the flow draws numbers of a series" : "the flow reads on from where it was")
                    + ": give --state FILE, where that is kept");
        }
        Path staged = ledgerFile == null
                ? Files.createTempDirectory("kettle-")
                : ledgerFile.resolveSibling(ledgerFile.getFileName() + ".staged");
        boolean done = ledgerFile == null;
        Causes causes = new Causes();
        try (FileLedger books = ledgerFile == null
                        ? null
                        : resume ? FileLedger.resume(ledgerFile) : FileLedger.begin(ledgerFile);
                FileState state = leaves ? FileState.open(stateFile, ledgerName(), resume) : null;
                RecordSource source = source(bundle, flow, state);
                Outputs outputs = outputs(bundle, flow, staged, books)) {
            causes.books = books;
            causes.state = state;
            causes.flow = bundle.flow().name();
            FlowRun run = new FlowRun(
                    flow,
                    state == null ? doors(bundle, flow) : doors(bundle, flow).with(state),
                    new RunNames("shell", source.name(), "", valued(bundle)),
                    source,
                    outputs,
                    causes,
                    books == null ? Past.NONE : books,
                    FlowRun.Extent.only(limit));
            FlowRun.Ended ended = run.run();
            if (ended == FlowRun.Ended.DONE && books != null) {
                books.over();
                done = true;
            }
            Totals totals = run.totals();
            report(totals, causes);
            return ended == FlowRun.Ended.DONE
                            && totals.of(End.REJECTED) + totals.of(End.IN_DOUBT) + totals.of(End.HELD_BACK) == 0
                    ? 0
                    : 1;
        } finally {
            farewell();
            if (done) {
                remove(staged);
            }
        }
    }

    /** The named values of the bundle, those given here over them. */
    private Map<String, String> valued(FlowBundle bundle) throws IOException {
        Map<String, String> all = new TreeMap<>(bundle.values());
        for (Map.Entry<String, String> given : values.entrySet()) {
            if (!all.containsKey(given.getKey())) {
                throw new IOException("the flow uses no value “" + given.getKey() + "”: it uses "
                        + (all.isEmpty() ? "none" : String.join(", ", all.keySet())));
            }
            all.put(given.getKey(), given.getValue());
        }
        return all;
    }

    private String ledgerName() {
        return ledgerFile == null ? "" : ledgerFile.toAbsolutePath().normalize().toString();
    }

    private static void remove(Path staged) throws IOException {
        if (!Files.exists(staged)) {
            return;
        }
        try (Stream<Path> left = Files.walk(staged)) {
            for (Path file : left.sorted(Comparator.reverseOrder()).toList()) {
                Files.delete(file);
            }
        }
    }

    private Doors doors(FlowBundle bundle, CompiledFlow flow) throws IOException {
        Clock clock = at == null ? Clock.systemUTC() : Clock.fixed(at, ZoneOffset.UTC);
        Map<String, Doors.Line> lines = new HashMap<>();
        for (CompiledCall call : flow.all(CompiledCall.class)) {
            lines.put(call.id(), line(bundle, call));
        }
        return new Doors(
                call -> lines.get(call.id()),
                new RowIndex(dataset -> source(bundle, dataset)),
                new FolderFiles(folders(bundle)),
                clock,
                MemoryBudget.ofHeap(),
                Throwable::printStackTrace);
    }

    private Doors.Line line(FlowBundle bundle, CompiledCall call) throws IOException {
        String endpoint = call.stage().endpoint();
        String address = address(bundle, endpoint);
        List<String> hosts = new ArrayList<>(allow);
        if (endpoints.containsKey(endpoint)) {
            hosts.add(HostRule.entry(java.net.URI.create(address)));
        }
        hosts.add("127.0.0.1");
        hosts.add("localhost");
        // one way to an endpoint for all its calls: they share its session
        Way way = ways.get(endpoint);
        if (way == null) {
            EndpointReach reach = reach(bundle, call, address);
            way = new Way(reach, new HttpTransport(HostRule.of(hosts), reach));
            ways.put(endpoint, way);
        }
        call.secrets().forEach(this::secret);
        Caller caller = Caller.of(
                way.transport(),
                way.reach(),
                call.contract(),
                call.offered(),
                call.stage().delivery().limits());
        return new Doors.Line(caller, way.reach(), EndpointGate.open());
    }

    /** How an endpoint is reached. */
    private record Way(EndpointReach reach, HttpTransport transport) {}

    private final Map<String, Way> ways = new HashMap<>();

    /** Ends the sessions of the run. */
    private void farewell() {
        ways.values().forEach(way -> {
            if (way.reach().session() != null) {
                way.reach().session().farewell(way.transport(), way.reach(), Transport.Limits.DEFAULT);
            }
        });
    }

    private String address(FlowBundle bundle, String endpoint) throws IOException {
        String named = endpoints.get(endpoint);
        EndpointSpec spec = bundle.endpoints().get(endpoint);
        if (named == null && spec == null) {
            throw new IOException(
                    "the bundle has no endpoint “" + endpoint + "”; give --endpoint " + endpoint + "=ADDRESS");
        }
        return named != null ? named : spec.address();
    }

    private EndpointReach reach(FlowBundle bundle, CompiledCall call, String address) throws IOException {
        EndpointSpec spec = bundle.endpoints().get(call.stage().endpoint());
        EndpointSettings settings = spec == null || spec.settings() == null ? EndpointSettings.PLAIN : spec.settings();
        try {
            call.secrets().forEach(this::secret);
            return EndpointReach.of(address, settings, this::secret, Clock.systemUTC())
                    .with(new FolderFiles(folders(bundle)));
        } catch (Secrets.SecretMissing e) {
            throw new IOException(
                    "the endpoint “" + call.stage().endpoint() + "” uses secrets: give --secrets FOLDER with a file"
                            + " named like each; " + e.getMessage().replaceAll(":.*", ""));
        }
    }

    /** The folders files are sent from and written to, where they are on this machine. */
    private Map<String, Path> folders(FlowBundle bundle) {
        Map<String, Path> folders = new TreeMap<>();
        for (String name : bundle.folders()) {
            folders.put(name, out.getOrDefault(name, read(bundle.datasets().get(name))));
        }
        return folders;
    }

    /** Where a dataset is read from: as said, else beside a bundle that is a folder, else here. */
    private Path read(DatasetSpec spec) {
        Path said = in.get(spec.name());
        return said != null
                ? said
                : Files.isDirectory(bundlePath) ? bundlePath.resolve(spec.file()) : Path.of(spec.file());
    }

    /** A secret is the content of the file of its name, without the line's end. */
    private String secret(String name) {
        try {
            Path file = secrets == null ? null : secrets.resolve(name);
            if (file == null || !Files.isRegularFile(file)) {
                throw new Secrets.SecretMissing(name);
            }
            return Files.readString(file).replaceFirst("\\R$", "");
        } catch (IOException e) {
            throw new Secrets.SecretMissing(name);
        }
    }

    private RecordSource source(FlowBundle bundle, CompiledFlow flow, FileState state) throws IOException {
        ReadStage read = flow.source().stage();
        if (read.from() == null) {
            return source(bundle, read.dataset());
        }
        String operation = read.from().call().operation();
        String since = state == null ? null : state.watermark(bundle.flow().name());
        if (ledgerFile == null) {
            return new PagedSource(operation, PagedSource.Kept.NONE, since);
        }
        PageFile pages = PageFile.open(ledgerFile.resolveSibling(ledgerFile.getFileName() + ".pages"), since);
        return new PagedSource(operation, pages, pages.watermark());
    }

    private RecordSource source(FlowBundle bundle, String name) throws IOException {
        DatasetSpec folder = bundle.datasets().get(name);
        if (folder != null && folder.kind() == DatasetSpec.Kind.FOLDER) {
            if (!Files.isDirectory(read(folder))) {
                throw new IOException(
                        "there is no folder " + read(folder) + "; give --in " + folder.name() + "=FOLDER");
            }
            return new FolderSource(read(folder));
        }
        DatasetSpec spec = dataset(bundle, name);
        Path file = read(spec);
        if (!Files.isRegularFile(file)) {
            throw new IOException("there is no file " + file + "; give --in " + spec.name() + "=FILE");
        }
        return new CsvSource(file, spec.csv(), spec.layout());
    }

    private Outputs outputs(FlowBundle bundle, CompiledFlow flow, Path staged, FileLedger books) throws IOException {
        Map<String, RecordSink> sinks = new LinkedHashMap<>();
        for (WriteStage write : flow.file().all(WriteStage.class)) {
            sinks.put(write.id(), sink(bundle, write, staged, books == null ? 0 : books.position(write.id())));
        }
        return new Outputs(sinks);
    }

    private RecordSink sink(FlowBundle bundle, WriteStage write, Path staged, long from) throws IOException {
        DatasetSpec spec = bundle.datasets().get(write.dataset());
        boolean append = write.mode() == WriteStage.Mode.APPEND;
        if (spec != null
                && write.document() != null
                && write.document().word().equals(spec.kind().word())) {
            Path file = out.getOrDefault(spec.name(), Path.of(spec.file()));
            return new DocumentSink(
                    file, staged.resolve(write.id()), spec.kind().word(), append, from);
        }
        spec = dataset(bundle, write.dataset());
        Path file = out.getOrDefault(spec.name(), Path.of(spec.file()));
        DatasetSpec.CsvShape shape = spec.csv() == null ? DatasetSpec.CsvShape.DEFAULT : spec.csv();
        return new CsvSink(file, staged.resolve(write.id()), shape, write.labels(), append, from);
    }

    private static DatasetSpec dataset(FlowBundle bundle, String name) throws IOException {
        DatasetSpec spec = bundle.datasets().get(name);
        if (spec == null) {
            throw new IOException("the bundle has no dataset “" + name + "”");
        }
        if (spec.kind() != DatasetSpec.Kind.CSV) {
            throw new IOException(
                    "dataset “" + name + "” is a " + spec.kind().word() + "; from a shell, CSV files are run");
        }
        return spec;
    }

    private void report(Totals totals, Causes causes) throws IOException {
        if (json) {
            Map<String, Object> report = new LinkedHashMap<>();
            report.put("read", totals.read());
            for (End end : End.values()) {
                report.put(end.word(), totals.of(end));
            }
            report.put("rows", totals.rows());
            report.put("calls", totals.calls());
            report.put("stages", totals.stages());
            report.put("causes", causes.counts);
            System.out.println(new ObjectMapper().writeValueAsString(report));
            return;
        }
        StringBuilder line = new StringBuilder(totals.read() + " read");
        for (End end : End.values()) {
            boolean usual = end == End.DONE || end == End.REJECTED || end == End.IN_DOUBT;
            if (usual || totals.of(end) > 0) {
                line.append(", ")
                        .append(totals.of(end))
                        .append(" ")
                        .append(end.word().replace('-', ' '));
            }
        }
        System.out.println(line + ", " + totals.rows() + " rows");
        causes.counts.forEach((cause, n) -> System.out.println("  " + n + " × " + cause));
    }

    /** Counts the causes, and keeps the books where there are some. */
    private static final class Causes implements Ledger {
        private final Map<String, Integer> counts = new TreeMap<>();
        private FileLedger books;
        private FileState state;
        private String flow;

        @Override
        public void keep(Batch batch) throws IOException {
            if (books != null) {
                books.keep(batch);
            }
            if (batch.watermark() != null) {
                state.watermark(flow, batch.watermark());
            }
            for (LedgerLine line : batch.ends()) {
                if (state != null) {
                    state.settle(line);
                }
                if (line.failure() != null) {
                    String cause = line.failure().failureClass().word() + ": "
                            + line.failure().cause();
                    counts.merge(cause, 1, Integer::sum);
                }
            }
        }
    }
}
