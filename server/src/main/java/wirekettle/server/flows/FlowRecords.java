package wirekettle.server.flows;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.run.GroupedSource;
import wirekettle.core.flow.run.KeyedRows;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.flow.run.RowIndex;
import wirekettle.core.record.InputReader;
import wirekettle.core.value.Layout;
import wirekettle.core.value.Node;
import wirekettle.server.datasets.DatasetMapper;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.environments.Environments;
import wirekettle.server.web.Problem;

/** The records a flow reads and the rows it looks up, in an environment. */
@ApplicationScoped
public class FlowRecords {
    @Inject
    DatasetMapper datasets;

    @Inject
    DatasetStore datasetStore;

    @Inject
    Environments environments;

    @Inject
    KeptReplyMapper kept;

    private final Map<String, Long> groups = new ConcurrentHashMap<>();
    private final Map<String, Node> farRecords = LatestMap.of(64);

    /** Returns the datasets rows are looked up in, for looking: those that stand for them in an environment. */
    RowIndex.Opener lookUps(String environment) {
        return lookUps(environment, datasetStore::open);
    }

    /** Returns the datasets rows are looked up in, for a run, whose flow names those it uses. */
    public RowIndex.Opener lookUpsForRun() {
        return lookUps(null, datasetStore::openForRun);
    }

    private interface Opening {
        RecordSource of(DatasetMapper.Row row) throws IOException;
    }

    private RowIndex.Opener lookUps(String environment, Opening opening) {
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
                String its = standingFor(name, environment);
                DatasetMapper.Row row = its == null ? null : datasets.byName(its);
                if (row == null) {
                    throw new IOException("there is no dataset “" + name + "”");
                }
                return row;
            }
        };
    }

    /** Returns the layout of the dataset a flow names, or null. */
    Layout layout(ReadStage read) {
        DatasetMapper.Row row = dataset(named(read));
        return row == null ? null : DatasetStore.spec(row).layout();
    }

    private static Source named(ReadStage read) {
        return new Source(read, read == null ? null : read.dataset(), null, 0, null);
    }

    private DatasetMapper.Row dataset(Source source) {
        return source.dataset() == null ? null : datasets.byName(source.dataset());
    }

    /**
     * Where a flow's records come from while it is looked at.
     *
     * @param read the Read, null when the flow has none
     * @param dataset the dataset, the one that stands for it in the environment; null where an operation gives them
     * @param from the operation that gives the records, null where a dataset does
     * @param flow the flow whose kept replies count
     * @param environment in which they were kept
     */
    record Source(ReadStage read, String dataset, CompiledCall from, long flow, String environment) {
        private boolean isOperation() {
            return read != null && read.from() != null;
        }
    }

    /** Returns where the records of a flow come from in an environment. */
    Source of(CompiledFlow flow, long id, String environment) {
        if (flow.source() == null) {
            return new Source(null, null, null, id, environment);
        }
        ReadStage read = flow.source().stage();
        String dataset = standingFor(read.dataset(), environment);
        return new Source(read, dataset, flow.source().from(), id, environment);
    }

    private String standingFor(String dataset, String environment) {
        return dataset == null ? null : environments.datasets(environment).getOrDefault(dataset, dataset);
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

    /** Returns the samples of what callers send; one that is no document is left out. */
    private static List<Node> inputs(ReadStage read) {
        InputReader reader = new InputReader(read.input(), String.valueOf(read.as()));
        List<Node> all = new ArrayList<>();
        for (String sample : read.input().samples()) {
            try {
                all.add(reader.json(sample.getBytes(StandardCharsets.UTF_8), Map.of(), new ArrayList<>()));
            } catch (InputReader.Unreadable e) {
                // it is being typed
            }
        }
        return all;
    }

    /** Returns the first records a flow reads; none when it has none. */
    List<Node> samples(Source source) throws IOException {
        if (source.isOperation()) {
            return rowsOfReply(source);
        }
        ReadStage read = source.read();
        if (read != null && read.input() != null) {
            return inputs(read);
        }
        DatasetMapper.Row row = dataset(source);
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
        if (source.read() != null && source.read().input() != null) {
            return new ListedRecords("callers", inputs(source.read()));
        }
        if (source.isOperation()) {
            return new ListedRecords(source.from().stage().operation(), rowsOfReply(source));
        }
        DatasetMapper.Row row = dataset(source);
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
        if (read != null && read.input() != null) {
            return "input " + read.input().hashCode() + " " + read.as();
        }
        DatasetMapper.Row row = dataset(source);
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
        if (source.read() != null && source.read().input() != null) {
            return inputs(source.read()).size();
        }
        DatasetMapper.Row row = dataset(source);
        if (row == null || source.read().groupBy().isEmpty()) {
            return row == null ? 0 : row.rows();
        }
        return groups.computeIfAbsent(version(source), v -> counted(source));
    }

    /** Returns how many records the dataset a flow names has; 0 where an operation gives them. */
    public long records(ReadStage read) {
        return read == null || read.dataset() == null && read.input() == null ? 0 : records(named(read));
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
}
