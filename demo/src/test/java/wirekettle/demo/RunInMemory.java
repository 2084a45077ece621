package wirekettle.demo;

import java.io.IOException;
import java.util.ArrayList;
import java.util.Iterator;
import java.util.List;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.run.Doors;
import wirekettle.core.flow.run.FlowRun;
import wirekettle.core.flow.run.Ledger;
import wirekettle.core.flow.run.LedgerLine;
import wirekettle.core.flow.run.Outputs;
import wirekettle.core.flow.run.Past;
import wirekettle.core.flow.run.RecordSink;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.flow.run.RunNames;
import wirekettle.core.value.Node;

/** A run of a flow with one Write, called {@code write}: its ledger lines and its rows. */
final class RunInMemory implements Ledger, RecordSink {
    final List<String> rows = new ArrayList<>();
    final List<String> failures = new ArrayList<>();
    final List<LedgerLine> lines = new ArrayList<>();

    /** Runs a flow over records. */
    static RunInMemory of(CompiledFlow flow, Doors doors, Node... records) throws IOException {
        RunInMemory run = new RunInMemory();
        Outputs outputs = Outputs.of("write", run);
        new FlowRun(
                        flow,
                        doors,
                        new RunNames("1", "loans"),
                        source(records),
                        outputs,
                        run,
                        Past.NONE,
                        FlowRun.Extent.ALL)
                .run();
        return run;
    }

    private static RecordSource source(Node... records) {
        Iterator<Node> nodes = List.of(records).iterator();
        return new RecordSource() {
            @Override
            public Item next() {
                return nodes.hasNext() ? new Item(nodes.next(), null) : null;
            }

            @Override
            public long size() {
                return records.length;
            }

            @Override
            public String name() {
                return "loans";
            }

            @Override
            public void close() {}
        };
    }

    @Override
    public void keep(Batch batch) {
        lines.addAll(batch.ends());
        for (LedgerLine line : batch.ends()) {
            if (line.failure() != null) {
                failures.add(line.failure().failureClass().word() + ": "
                        + line.failure().cause() + ": " + line.failure().message());
            }
        }
    }

    @Override
    public void write(long ordinal, List<String[]> some) {
        some.forEach(row -> rows.add(String.join("|", row)));
    }

    @Override
    public void flush() {}

    @Override
    public long position() {
        return rows.size();
    }

    @Override
    public void finish() {}

    @Override
    public void leave() {}

    @Override
    public void close() {}
}
