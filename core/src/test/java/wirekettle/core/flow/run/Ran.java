package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.Iterator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.value.Node;

/** A run in memory: its ledger, and every row by the stage it went to. */
class Ran implements Ledger {
    final List<LedgerLine> lines = new ArrayList<>();
    final List<Claim> claims = new ArrayList<>();
    final List<KnownPassage> known = new ArrayList<>();
    final Map<String, List<String>> rows = new LinkedHashMap<>();
    final Map<String, String> refusals = new HashMap<>();
    Totals totals = Totals.NONE;
    boolean finished;
    boolean left;
    FlowRun run;
    FlowRun.Ended ended;

    /** Puts a run together. */
    Ran prepared(CompiledFlow flow, Doors doors, RecordSource source, Past past, FlowRun.Extent how) {
        Map<String, RecordSink> sinks = new LinkedHashMap<>();
        for (WriteStage write : flow.file().all(WriteStage.class)) {
            sinks.put(write.id(), sink(write.id()));
        }
        run = new FlowRun(flow, doors, new RunNames("9", source.name()), source, new Outputs(sinks), this, past, how);
        return this;
    }

    /** Runs a flow over records to its end. */
    static Ran of(CompiledFlow flow, Doors doors, List<Node> records) throws IOException {
        return new Ran()
                .prepared(flow, doors, source(records), Past.NONE, FlowRun.Extent.ALL)
                .go();
    }

    Ran go() throws IOException {
        ended = run.run();
        return this;
    }

    @Override
    public synchronized void keep(Batch batch) throws IOException {
        claims.addAll(batch.claims());
        known.addAll(batch.passages());
        lines.addAll(batch.ends());
        totals = batch.totals();
    }

    /** What happens when the rows of a stage are made durable. */
    void flushing(String stage) throws IOException {}

    /** Rows of a stage whose first value is refused with a reason: {@code stage|value}. */
    Ran refusing(String stage, String value, String reason) {
        refusals.put(stage + "|" + value, reason);
        return this;
    }

    private RecordSink sink(String stage) {
        List<String> into = rows.computeIfAbsent(stage, s -> new ArrayList<>());
        Map<Long, String> refused = new HashMap<>();
        boolean refuses = refusals.keySet().stream().anyMatch(each -> each.startsWith(stage + "|"));
        return new RecordSink() {
            @Override
            public void write(long ordinal, List<String[]> some) {
                for (String[] row : some) {
                    String text =
                            Arrays.stream(row).map(v -> v == null ? "" : v).collect(Collectors.joining("|"));
                    String reason = refusals.get(stage + "|" + row[0]);
                    if (reason != null) {
                        refused.put(ordinal, reason);
                    } else {
                        into.add(text);
                    }
                }
            }

            @Override
            public boolean mayRefuse() {
                return refuses;
            }

            @Override
            public Map<Long, String> flush() throws IOException {
                flushing(stage);
                Map<Long, String> told = Map.copyOf(refused);
                refused.clear();
                return told;
            }

            @Override
            public long position() {
                return into.size();
            }

            @Override
            public void finish() {
                finished = true;
            }

            @Override
            public void leave() {
                left = true;
            }

            @Override
            public void close() {}
        };
    }

    static RecordSource source(List<Node> records) {
        Iterator<Node> rest = records.iterator();
        return new RecordSource() {
            @Override
            public Item next() {
                return rest.hasNext() ? new Item(rest.next(), null) : null;
            }

            @Override
            public long size() {
                return records.size();
            }

            @Override
            public String name() {
                return "transports.csv";
            }

            @Override
            public void close() {}
        };
    }

    LedgerLine line(long ordinal) {
        return lines.stream()
                .filter(each -> each.ordinal() == ordinal)
                .findFirst()
                .orElseThrow();
    }
}
