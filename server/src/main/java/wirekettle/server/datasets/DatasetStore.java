package wirekettle.server.datasets;

import com.fasterxml.jackson.core.type.TypeReference;
import io.quarkus.runtime.StartupEvent;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.eclipse.microprofile.config.inject.ConfigProperty;
import org.jboss.logging.Logger;
import wirekettle.connect.CsvLook;
import wirekettle.connect.CsvLook.RowFinding;
import wirekettle.connect.CsvSink;
import wirekettle.connect.CsvSource;
import wirekettle.connect.DocumentSink;
import wirekettle.connect.FolderFiles;
import wirekettle.connect.FolderSource;
import wirekettle.connect.SpooledRows;
import wirekettle.connect.SqlConnector;
import wirekettle.connect.SqlLookUp;
import wirekettle.connect.SqlSink;
import wirekettle.connect.SqlSource;
import wirekettle.connect.SqlTransaction;
import wirekettle.connect.queue.Broker;
import wirekettle.connect.queue.QueueSink;
import wirekettle.core.flow.file.DatasetSpec;
import wirekettle.core.flow.file.DatasetSpec.CsvShape;
import wirekettle.core.flow.file.DatasetSpec.Kind;
import wirekettle.core.flow.file.NamedText;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.flow.run.KeyedRows;
import wirekettle.core.flow.run.RecordSink;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.value.Node;
import wirekettle.server.web.Json;
import wirekettle.server.web.Problem;

/** Keeps datasets, opens them, and remembers their first rows as samples. */
@ApplicationScoped
public class DatasetStore {
    private static final Logger LOG = Logger.getLogger(DatasetStore.class);
    private static final int SAMPLES = 1_000;

    @Inject
    DatasetMapper mapper;

    @ConfigProperty(name = "wirekettle.data")
    String data;

    @ConfigProperty(name = "wirekettle.sql.url")
    Optional<String> sqlUrl;

    @ConfigProperty(name = "wirekettle.sql.user")
    Optional<String> sqlUser;

    @ConfigProperty(name = "wirekettle.sql.password")
    Optional<String> sqlPassword;

    @ConfigProperty(name = "wirekettle.sql.reader.user")
    Optional<String> readerUser;

    @ConfigProperty(name = "wirekettle.sql.reader.password")
    Optional<String> readerPassword;

    @ConfigProperty(name = "wirekettle.sql.queries-may-write")
    boolean queriesMayWrite;

    @Inject
    QueryLimit limit;

    private final Map<String, List<Node>> samples = new LinkedHashMap<>(16, 0.75f, true) {
        @Override
        protected boolean removeEldestEntry(Map.Entry<String, List<Node>> eldest) {
            return size() > 12;
        }
    };

    /** Returns a row's spec. */
    public static DatasetSpec spec(DatasetMapper.Row row) {
        return Json.read(row.spec(), new TypeReference<DatasetSpec>() {});
    }

    /** Returns a dataset by name; a missing one is a problem. */
    public DatasetMapper.Row named(String name) {
        DatasetMapper.Row row = name == null ? null : mapper.byName(name);
        if (row == null) {
            throw new Problem(422, "no-dataset", "There is no dataset “" + name + "”; add it or pick another.");
        }
        return row;
    }

    /** Returns the name of a dataset's file or folder: readable, and no other dataset's. */
    static String fileName(String name, long id, String ending) {
        String plain = name.replaceAll("[^\\p{L}\\p{N}_-]", "_");
        return (plain.length() > 60 ? plain.substring(0, 60) : plain) + "-" + id + ending;
    }

    /** Datasets of older versions may share a file because their names differ in a sign only: each gets its own. */
    void apart(@Observes StartupEvent start) throws IOException {
        Set<String> taken = new HashSet<>();
        for (DatasetMapper.Row row : mapper.all()) {
            DatasetSpec spec = spec(row);
            if (spec.file() == null || taken.add(spec.file().toLowerCase(Locale.ROOT))) {
                continue;
            }
            String ending = spec.file().replaceFirst("^.*(?=\\.)", "");
            DatasetSpec own = spec.at(fileName(row.name(), row.id(), ending));
            Path from = file(spec);
            if (folder(spec)) {
                Files.createDirectories(file(own));
                for (Path each : FolderFiles.list(from)) {
                    Files.copy(each, file(own).resolve(each.getFileName()), StandardCopyOption.REPLACE_EXISTING);
                }
            } else if (Files.exists(from)) {
                Files.copy(from, file(own), StandardCopyOption.REPLACE_EXISTING);
            }
            mapper.spec(row.id(), Json.write(own));
            LOG.warnf("the dataset “%s” shared its file with another: it has one of its own now", row.name());
        }
    }

    /** Returns where the product keeps its files. */
    public Path data() {
        return Path.of(data);
    }

    /** Returns the file of a CSV dataset, the folder of one of files. */
    public Path file(DatasetSpec spec) {
        return data().resolve("datasets").resolve(spec.file());
    }

    /** Opens connections for users' own SQL; never the product's role. */
    public SqlConnector connector() {
        if (sqlUrl.filter(u -> !u.isBlank()).isEmpty()) {
            throw new Problem(
                    422, "no-connection", "No database connection for datasets is set up; start with WIREKETTLE_SQL.");
        }
        return () -> DriverManager.getConnection(sqlUrl.get(), sqlUser.orElse(""), sqlPassword.orElse(""));
    }

    /** Looks at the whole dataset again and keeps layout, row count and findings. */
    public DatasetMapper.Row look(long id, DatasetSpec spec) throws IOException {
        if (spec.kind() == Kind.CSV) {
            Path file = file(spec);
            if (Files.exists(file) && Files.size(file) > 0) {
                CsvShape shape = spec.csv() == null ? CsvLook.shape(file) : spec.csv();
                CsvLook.Seen seen = CsvLook.look(file, shape);
                DatasetSpec known =
                        new DatasetSpec(spec.name(), Kind.CSV, spec.file(), shape, null, null, null, seen.layout());
                List<RowFinding> findings = new ArrayList<>(seen.findings());
                if (seen.rows() == 0) {
                    findings.add(new RowFinding(1, "the file has no records; check the delimiter, or give another"));
                }
                mapper.update(
                        id,
                        Json.write(known),
                        seen.rows(),
                        Json.write(findings),
                        Math.max(findings.size(), seen.findingCount()));
            }
        } else if (folder(spec)) {
            Path files = file(spec);
            mapper.update(id, Json.write(spec), FolderFiles.list(files).size(), "[]", 0);
        } else if (!documents(spec)) {
            long rows = 0;
            try (QueryLimit.Place place = limit.enter();
                    SqlSource source = sql(spec)) {
                while (rows < 100_000 && source.next() != null) {
                    rows++;
                }
                DatasetSpec known = new DatasetSpec(
                        spec.name(),
                        spec.kind(),
                        null,
                        null,
                        spec.connection(),
                        spec.table(),
                        spec.query(),
                        source.layout());
                mapper.update(id, Json.write(known), rows, "[]", 0);
            }
        }
        synchronized (samples) {
            samples.keySet().removeIf(k -> k.startsWith(id + " "));
        }
        return mapper.byId(id);
    }

    /** Returns connections that can only read, unless queries may write here. */
    private SqlConnector reading() {
        SqlConnector writing = connector();
        if (queriesMayWrite) {
            return new SqlConnector() {
                @Override
                public Connection open() throws SQLException {
                    return writing.open();
                }

                @Override
                public boolean queriesMayWrite() {
                    return true;
                }
            };
        }
        if (readerUser.filter(u -> !u.isBlank()).isEmpty()) {
            throw new Problem(
                    422,
                    "no-reader",
                    "No role for reading is set up: start with WIREKETTLE_SQL_READER, a role that has only been granted"
                            + " select.");
        }
        return () -> DriverManager.getConnection(sqlUrl.get(), readerUser.get(), readerPassword.orElse(""));
    }

    private SqlSource sql(DatasetSpec spec) throws IOException {
        return new SqlSource(reading(), query(spec), spec.name());
    }

    private static String query(DatasetSpec spec) {
        return spec.kind() == Kind.TABLE ? SqlSource.select(spec.table()) : spec.query();
    }

    /** Returns a dataset that can be asked for the rows of a key in a column, null for one that must be read whole. */
    public KeyedRows byKey(DatasetMapper.Row row, String column) throws IOException {
        DatasetSpec spec = spec(row);
        return sqlKind(spec) ? new SqlLookUp(reading(), query(spec), spec.name(), column) : null;
    }

    /** Opens a dataset to be looked at: of queries a person has a few going on at once. */
    public RecordSource open(DatasetMapper.Row row) throws IOException {
        DatasetSpec spec = spec(row);
        return sqlKind(spec) ? limit.counted(() -> openForRun(row)) : openForRun(row);
    }

    private static boolean sqlKind(DatasetSpec spec) {
        return spec.kind().sql();
    }

    /**
     * Opens a dataset for a run that can go on later: the rows of a table or query are read once into a file.
     *
     * @param spooled where such rows are kept
     */
    public RecordSource openForRun(DatasetMapper.Row row, Path spooled) throws IOException {
        return sqlKind(spec(row)) ? new SpooledRows(spooled, row.name(), () -> openForRun(row)) : openForRun(row);
    }

    /** Opens a file that has the form of a dataset, to be read in the place of what the dataset holds. */
    public RecordSource openFile(DatasetMapper.Row row, Path file) throws IOException {
        DatasetSpec spec = spec(row);
        if (spec.kind() != Kind.CSV || spec.layout() == null) {
            throw new Problem(
                    422,
                    "no-file-form",
                    "“" + row.name() + "” is no CSV dataset with a layout: files that come cannot be read like it.");
        }
        if (!Files.exists(file)) {
            throw new IOException("the file " + file.getFileName() + " is gone");
        }
        return new CsvSource(file, spec.csv(), spec.layout());
    }

    /** Opens a dataset to be read whole. */
    public RecordSource openForRun(DatasetMapper.Row row) throws IOException {
        DatasetSpec spec = spec(row);
        if (documents(spec)) {
            throw new Problem(422, "not-readable", "“" + spec.name() + "” holds documents written by flows.");
        }
        if (folder(spec)) {
            return new FolderSource(file(spec));
        }
        if (spec.kind() != Kind.CSV) {
            return sql(spec);
        }
        if (spec.layout() == null || !Files.exists(file(spec))) {
            throw new Problem(422, "no-rows", "The dataset “" + row.name() + "” has no file yet.");
        }
        return new CsvSource(file(spec), spec.csv(), spec.layout());
    }

    /** Tells whether a dataset holds nested documents: these are written, not read. */
    public static boolean documents(DatasetSpec spec) {
        return spec.kind().documents();
    }

    /** Tells whether a dataset is a folder of files. */
    public static boolean folder(DatasetSpec spec) {
        return spec.kind() == Kind.FOLDER;
    }

    /** Returns the queue a dataset is, empty for any other and for none. */
    public Optional<DatasetSpec.Queue> queue(String name) {
        DatasetMapper.Row row = name == null ? null : mapper.byName(name);
        return row == null ? Optional.empty() : Optional.ofNullable(spec(row).queue());
    }

    /** Returns the transaction in which a run writes all its tables. */
    public SqlTransaction transaction() {
        return new SqlTransaction(() -> connector().open());
    }

    /**
     * Opens the target of a Write stage.
     *
     * @param staged where a file is written until the run ends
     * @param run what the run and the stage are called where a database keeps positions
     * @param from the position from which the run goes on, 0 when it begins
     * @param tables the transaction of the run's tables
     * @param brokers what gives the brokers of queues
     */
    public RecordSink sink(
            WriteStage write, Path staged, String run, long from, SqlTransaction tables, QueueSink.Brokers brokers)
            throws IOException {
        DatasetSpec spec = spec(named(write.dataset()));
        if (spec.kind() == Kind.CSV) {
            CsvShape shape = spec.csv() == null ? CsvShape.DEFAULT : spec.csv();
            return new CsvSink(file(spec), staged, shape, write.labels(), write.mode() == WriteStage.Mode.APPEND, from);
        }
        if (documents(spec)) {
            if (write.document() != spec.form()) {
                throw new Problem(
                        422,
                        "not-writable",
                        "“" + spec.name() + "” takes documents in "
                                + spec.form().word().toUpperCase(Locale.ROOT)
                                + ": pick it once more in the Write stage, or choose another.");
            }
            if (spec.queue() != null) {
                List<String> properties =
                        write.properties().stream().map(NamedText::name).toList();
                Broker broker = brokers.of(spec.queue().endpoint());
                return new QueueSink(broker, spec.queue().name(), spec.form(), properties, run, from);
            }
            return new DocumentSink(
                    file(spec), staged, spec.form().word(), write.mode() == WriteStage.Mode.APPEND, from);
        }
        if (folder(spec)) {
            throw new Problem(
                    422,
                    "not-writable",
                    "“" + spec.name() + "” is a folder; rows go elsewhere, a column's content can be written to it.");
        }
        if (write.document() != null) {
            throw new Problem(422, "not-writable", "“" + spec.name() + "” takes rows, not nested documents.");
        }
        if (spec.kind() == Kind.QUERY) {
            throw new Problem(422, "not-writable", "“" + spec.name() + "” is a query; rows are written to a table.");
        }
        List<String> keys = write.mode() == WriteStage.Mode.UPSERT ? write.keys() : List.of();
        return new SqlSink(tables, spec.table(), write.columns(), keys, true, run, from);
    }

    /** Returns the first records, at most a thousand, from memory where possible. */
    public List<Node> samples(DatasetMapper.Row row) throws IOException {
        String key = row.id() + " " + row.spec().hashCode() + " " + row.rows();
        synchronized (samples) {
            List<Node> known = samples.get(key);
            if (known != null) {
                return known;
            }
        }
        List<Node> first = new ArrayList<>();
        try (RecordSource source = open(row)) {
            for (RecordSource.Item item = source.next(); item != null && first.size() < SAMPLES; item = source.next()) {
                first.add(item.node());
            }
        }
        synchronized (samples) {
            samples.put(key, List.copyOf(first));
        }
        return first;
    }
}
