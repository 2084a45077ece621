package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.Iterator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
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
        Map<Long, List<String>> waiting = new TreeMap<>();
        boolean refuses = refusals.keySet().stream().anyMatch(each -> each.startsWith(stage + "|"));
        return new RecordSink() {
            @Override
            public void write(long ordinal, List<String[]> some) {
                List<String> its = waiting.computeIfAbsent(ordinal, o -> new ArrayList<>());
                for (String[] row : some) {
                    its.add(Arrays.stream(row).map(v -> v == null ? "" : v).collect(Collectors.joining("|")));
                }
            }

            @Override
            public boolean mayRefuse() {
                return refuses;
            }

            @Override
            public Map<Long, String> tryRows() {
                Map<Long, String> refused = new HashMap<>();
                waiting.forEach((ordinal, its) -> its.forEach(row -> {
                    String reason = refusals.get(stage + "|" + row.split("\\|", -1)[0]);
                    if (reason != null) {
                        refused.put(ordinal, reason);
                    }
                }));
                waiting.keySet().removeAll(refused.keySet());
                return refused;
            }

            @Override
            public void takeBack(long ordinal) {
                waiting.remove(ordinal);
            }

            @Override
            public void flush() throws IOException {
                waiting.values().forEach(into::addAll);
                waiting.clear();
                flushing(stage);
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

    /** Returns what this ledger knows when its run goes on. */
    Past past() {
        Map<Long, Past.OpenRecord> open = new HashMap<>();
        claims.forEach(claim -> open.put(
                claim.ordinal(),
                Past.OpenRecord.claimed(open.get(claim.ordinal()), claim.fingerprint(), claim.effect(), claim.made())));
        known.stream().filter(each -> open.containsKey(each.ordinal())).forEach(each -> open.get(each.ordinal())
                .replay()
                .passage(each.passage().effect(), each.reply()));
        Past.OpenRecord.batches(List.copyOf(open.values()), open, ordinal -> lines.stream()
                .anyMatch(line -> line.ordinal() == ordinal));
        return new Past() {
            @Override
            public String ended(long ordinal) {
                return lines.stream()
                        .filter(line -> line.ordinal() == ordinal)
                        .map(LedgerLine::fingerprint)
                        .findFirst()
                        .orElse(null);
            }

            @Override
            public OpenRecord open(long ordinal) {
                return open.get(ordinal);
            }

            @Override
            public Once once(long ordinal) {
                boolean over = lines.stream().anyMatch(line -> line.ordinal() == ordinal);
                return new Once(open.get(ordinal), over);
            }

            @Override
            public Totals totals() {
                return totals;
            }
        };
    }
}
