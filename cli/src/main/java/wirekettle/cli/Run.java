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
import wirekettle.connect.FolderFiles;
import wirekettle.connect.FolderSource;
import wirekettle.connect.HostRule;
import wirekettle.connect.HttpTransport;
import wirekettle.core.expression.Expressions;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.MessageStyle;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.compile.PreparedFlow;
import wirekettle.core.flow.file.DatasetSpec;
import wirekettle.core.flow.file.EndpointSpec;
import wirekettle.core.flow.file.FlowBundle;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.run.FlowRun;
import wirekettle.core.flow.run.Ledger;
import wirekettle.core.flow.run.LedgerLine;
import wirekettle.core.flow.run.Outcome;
import wirekettle.core.flow.run.Outputs;
import wirekettle.core.flow.run.RecordSink;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.flow.run.RecordWork;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.Reach;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.value.Layout;

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

    @Option(names = "--secrets", paramLabel = "FOLDER", description = "holds a file for each secret the endpoint uses")
    private Path secrets;

    @Option(names = "--at", paramLabel = "INSTANT", description = "fix start and now, as in 2026-11-23T09:14:02Z")
    private Instant at;

    @Option(names = "--limit", paramLabel = "N", description = "only the first N records")
    private long limit;

    @Option(names = "--json", description = "counts and causes as JSON")
    private boolean json;

    @Override
    public Integer call() throws IOException {
        FlowBundle bundle = FlowBundle.read(bundlePath);
        Map<String, Layout> layouts = new TreeMap<>();
        bundle.datasets().forEach((name, spec) -> {
            if (spec.layout() != null) {
                layouts.put(name, spec.layout());
            }
        });
        PreparedFlow flow = PreparedFlow.of(
                bundle.flow(),
                new PreparedFlow.Around(
                        bundle.contracts(),
                        layouts,
                        styles(bundle),
                        MappingContext.of(new Expressions())
                                .with(bundle.codeTables())
                                .with(bundle.folders())));
        if (!flow.runnable() || !flow.problems().isEmpty()) {
            for (FlowProblem problem : flow.problems()) {
                System.err.println("kettle: stage " + problem.stage() + ": " + problem.message());
            }
            return 2;
        }
        Clock clock = at == null ? Clock.systemUTC() : Clock.fixed(at, ZoneOffset.UTC);
        String address = address(bundle, flow);
        List<String> hosts = new ArrayList<>(allow);
        if (endpoints.containsKey(flow.call().endpoint())) {
            hosts.add(HostRule.entry(java.net.URI.create(address)));
        }
        hosts.add("127.0.0.1");
        hosts.add("localhost");
        Reach reach = reach(bundle, flow, address);
        Caller caller = Caller.of(
                new HttpTransport(HostRule.of(hosts), reach),
                reach,
                flow.contract(),
                flow.offered(),
                flow.call().delivery().limits());
        Causes causes = new Causes();
        Path staged = Files.createTempDirectory("kettle-");
        try (RecordSource source = source(bundle, flow);
                Outputs outputs = outputs(bundle, flow, staged)) {
            RecordWork work = new RecordWork(flow, caller, reach, "shell", source.name(), clock);
            FlowRun.Counts counts = new FlowRun(flow, work, source, outputs, causes, limit).run();
            report(counts, causes);
            return counts.rejected() + counts.inDoubt() == 0 ? 0 : 1;
        } finally {
            try (Stream<Path> left = Files.walk(staged)) {
                for (Path file : left.sorted(Comparator.reverseOrder()).toList()) {
                    Files.delete(file);
                }
            }
        }
    }

    private String address(FlowBundle bundle, PreparedFlow flow) throws IOException {
        String named = endpoints.get(flow.call().endpoint());
        EndpointSpec spec = bundle.endpoints().get(flow.call().endpoint());
        if (named == null && spec == null) {
            throw new IOException("the bundle has no endpoint “" + flow.call().endpoint() + "”; give --endpoint "
                    + flow.call().endpoint() + "=ADDRESS");
        }
        return named != null ? named : spec.address();
    }

    private Reach reach(FlowBundle bundle, PreparedFlow flow, String address) throws IOException {
        EndpointSpec spec = bundle.endpoints().get(flow.call().endpoint());
        EndpointSettings settings = spec == null || spec.settings() == null ? EndpointSettings.PLAIN : spec.settings();
        try {
            flow.secrets().forEach(this::secret);
            return Reach.of(address, settings, this::secret, Clock.systemUTC()).with(new FolderFiles(folders(bundle)));
        } catch (Secrets.SecretMissing e) {
            throw new IOException(
                    "the endpoint “" + flow.call().endpoint() + "” uses secrets: give --secrets FOLDER with a file"
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

    private static Map<String, MessageStyle> styles(FlowBundle bundle) {
        Map<String, MessageStyle> styles = new HashMap<>();
        bundle.endpoints().forEach((name, spec) -> {
            if (spec.style() != null) {
                styles.put(name, spec.style());
            }
        });
        return styles;
    }

    private RecordSource source(FlowBundle bundle, PreparedFlow flow) throws IOException {
        DatasetSpec folder = bundle.datasets().get(flow.read().dataset());
        if (folder != null && folder.kind().equals("folder")) {
            if (!Files.isDirectory(read(folder))) {
                throw new IOException(
                        "there is no folder " + read(folder) + "; give --in " + folder.name() + "=FOLDER");
            }
            return new FolderSource(read(folder));
        }
        DatasetSpec spec = dataset(bundle, flow.read().dataset());
        Path file = read(spec);
        if (!Files.isRegularFile(file)) {
            throw new IOException("there is no file " + file + "; give --in " + spec.name() + "=FILE");
        }
        return new CsvSource(file, spec.csv(), spec.layout());
    }

    private Outputs outputs(FlowBundle bundle, PreparedFlow flow, Path staged) throws IOException {
        Map<String, RecordSink> sinks = new LinkedHashMap<>();
        for (PreparedFlow.Written write : flow.writes()) {
            sinks.put(write.stage().id(), sink(bundle, write.stage(), staged));
        }
        if (flow.rejects() != null) {
            sinks.put(flow.rejects().stage().id(), sink(bundle, flow.rejects().stage(), staged));
        }
        return new Outputs(sinks);
    }

    private RecordSink sink(FlowBundle bundle, Stage.Write write, Path staged) throws IOException {
        DatasetSpec spec = bundle.datasets().get(write.dataset());
        boolean append = write.mode().equals("append");
        if (spec != null && write.document() != null && write.document().equals(spec.kind())) {
            Path file = out.getOrDefault(spec.name(), Path.of(spec.file()));
            return new DocumentSink(file, staged.resolve(write.id()), spec.kind(), append);
        }
        spec = dataset(bundle, write.dataset());
        Path file = out.getOrDefault(spec.name(), Path.of(spec.file()));
        DatasetSpec.CsvShape shape = spec.csv() == null ? DatasetSpec.CsvShape.DEFAULT : spec.csv();
        return new CsvSink(file, staged.resolve(write.id()), shape, write.labels(), append);
    }

    private static DatasetSpec dataset(FlowBundle bundle, String name) throws IOException {
        DatasetSpec spec = bundle.datasets().get(name);
        if (spec == null) {
            throw new IOException("the bundle has no dataset “" + name + "”");
        }
        if (!spec.kind().equals("csv")) {
            throw new IOException("dataset “" + name + "” is a " + spec.kind() + "; from a shell, CSV files are run");
        }
        return spec;
    }

    private void report(FlowRun.Counts counts, Causes causes) throws IOException {
        if (json) {
            Map<String, Object> report = new LinkedHashMap<>();
            report.put("read", counts.read());
            report.put("written", counts.written());
            report.put("rejected", counts.rejected());
            report.put("inDoubt", counts.inDoubt());
            report.put("rows", counts.rows());
            report.put("calls", counts.calls());
            report.put("causes", causes.counts);
            System.out.println(new ObjectMapper().writeValueAsString(report));
            return;
        }
        System.out.println(counts.read() + " read, " + counts.written() + " written, " + counts.rejected()
                + " rejected, " + counts.inDoubt() + " in doubt, " + counts.rows() + " rows");
        causes.counts.forEach((cause, n) -> System.out.println("  " + n + " × " + cause));
    }

    private static final class Causes implements Ledger {
        private final Map<String, Integer> counts = new TreeMap<>();

        @Override
        public void claim(long ordinal) {}

        @Override
        public void append(List<LedgerLine> lines, long outputOffset, long claimed) {
            for (LedgerLine line : lines) {
                if (line.outcome() != Outcome.WRITTEN) {
                    counts.merge(line.failureClass().word() + ": " + line.cause(), 1, Integer::sum);
                }
            }
        }
    }
}
