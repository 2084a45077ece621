package wirekettle.server.ledger;

import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import wirekettle.core.flow.run.Claim;
import wirekettle.core.flow.run.Effect;
import wirekettle.core.flow.run.End;
import wirekettle.core.flow.run.Failure;
import wirekettle.core.flow.run.ItemEnd;
import wirekettle.core.flow.run.Ledger;
import wirekettle.core.flow.run.LedgerLine;
import wirekettle.core.flow.run.Passage;
import wirekettle.core.flow.run.Totals;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.server.Database;
import wirekettle.server.flows.FlowMapper;
import wirekettle.server.secrets.Vaults;

/** The books of runs over a database, as tests write into them. */
final class Books implements AutoCloseable {
    static final Instant NOVEMBER = Instant.parse("2026-11-28T22:00:00Z");
    static final Instant DECEMBER = Instant.parse("2026-12-01T00:00:00Z");

    final Database database;
    final PostgresLedger ledger = new PostgresLedger();
    final RunMapper runs;
    final LedgerMapper lines;
    private final long flow;

    Books(Path folder) throws Exception {
        database = Database.open();
        ledger.database = database.source();
        ledger.texts = new LedgerTexts();
        ledger.texts.vault = Vaults.at(folder.resolve("secret.key"));
        runs = database.mapper(RunMapper.class);
        lines = database.mapper(LedgerMapper.class);
        flow = database.mapper(FlowMapper.class).add("Check borrowers", "ada");
    }

    /** Begins a run. */
    long run(Instant at) {
        long run = runs.add(flow, 1, "{}", "Test", "ada", at, 100, 0, false);
        runs.keepMonth(run);
        return run;
    }

    /** Takes a run's part, as a server does that goes on with it. */
    PostgresLedger.OfRun held(long run) {
        return ledger.of(run, runs.take(run, "server"));
    }

    PostgresPast past(long run) {
        return new PostgresPast(lines, ledger.texts, runs.byId(run));
    }

    static Ledger.Batch ends(LedgerLine... ended) {
        return new Ledger.Batch(List.of(), List.of(), List.of(ended), Map.of(), null, totals(ended));
    }

    static Ledger.Batch claims(Claim... claims) {
        return new Ledger.Batch(List.of(claims), List.of(), List.of(), Map.of(), null, Totals.NONE);
    }

    static Ledger.Batch known(long ordinal, Passage passage, String reply) {
        var known = new Ledger.KnownPassage(ordinal, passage, reply);
        return new Ledger.Batch(List.of(), List.of(known), List.of(), Map.of(), null, Totals.NONE);
    }

    private static Totals totals(LedgerLine... ended) {
        long[] sums = new long[End.values().length];
        for (LedgerLine line : ended) {
            sums[line.end().ordinal()]++;
        }
        List<Long> all = java.util.Arrays.stream(sums).boxed().toList();
        return new Totals(ended.length, all, 0, 0, 0, Map.of("read", new Totals.OfStage(ended.length, 0, 0)), Map.of());
    }

    static LedgerLine done(long ordinal, String key) {
        return line(ordinal, key, End.DONE, null, List.of());
    }

    static LedgerLine rejected(long ordinal, String key, String cause, Passage... passages) {
        Failure failure = new Failure(
                FailureClass.FAULT, cause, cause + " said of " + key, "book", null, "", "", 500, 1, null, false);
        return line(ordinal, key, End.REJECTED, failure, List.of(passages));
    }

    static LedgerLine line(long ordinal, String key, End end, Failure failure, List<Passage> passages) {
        Node input = end == End.DONE
                ? null
                : Node.build(Name.of("loan")).add("no", String.valueOf(key)).done();
        String stage = failure == null ? null : failure.stage();
        return new LedgerLine(
                ordinal,
                key,
                "print-" + ordinal,
                end,
                1,
                failure,
                stage,
                null,
                false,
                input,
                passages,
                new int[] {0, 1},
                end == End.DONE ? List.of() : List.of(new ItemEnd("lines:2", End.REJECTED, "book", "too heavy")),
                List.of(),
                Map.of(),
                List.of(),
                null);
    }

    static Passage passage(String stage, Passage.Outcome outcome, String reply) {
        Passage.Attempt attempt = new Passage.Attempt(1, NOVEMBER, 12, 200, true, null);
        Passage.Exchange exchange = new Passage.Exchange(
                "http://127.0.0.1:9/book",
                "<book/>".getBytes(StandardCharsets.UTF_8),
                200,
                reply == null ? null : reply.getBytes(StandardCharsets.UTF_8));
        return new Passage(Effect.of(stage, 1), outcome, true, List.of(attempt), exchange);
    }

    static Claim claim(long ordinal, String stage, String made) {
        return new Claim(ordinal, "print-" + ordinal, Effect.of(stage, 1), made, null);
    }

    @Override
    public void close() throws Exception {
        database.close();
    }
}
