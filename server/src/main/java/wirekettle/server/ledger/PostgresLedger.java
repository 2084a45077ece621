package wirekettle.server.ledger;

import io.agroal.api.AgroalDataSource;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.jboss.logging.Logger;
import wirekettle.core.flow.run.BatchPlace;
import wirekettle.core.flow.run.Claim;
import wirekettle.core.flow.run.DrawnNumber;
import wirekettle.core.flow.run.Effect;
import wirekettle.core.flow.run.End;
import wirekettle.core.flow.run.KeptNode;
import wirekettle.core.flow.run.Ledger;
import wirekettle.core.flow.run.LedgerLine;
import wirekettle.core.flow.run.Passage;
import wirekettle.core.flow.run.Replay;
import wirekettle.core.flow.run.Totals;
import wirekettle.core.value.NodeWriter;
import wirekettle.server.secrets.Vault;
import wirekettle.server.web.Json;

/**
 * Keeps the books of runs: a batch is one transaction, written with arrays. Writing a batch once more, when nobody
 * knows whether the database had taken it, changes nothing.
 */
@ApplicationScoped
public class PostgresLedger {
    private static final Logger LOG = Logger.getLogger(PostgresLedger.class);
    private static final int MOST_TEXT = 1 << 20;
    private static final String SEALED_UNDER = "ledger";
    private static final long PATIENCE_NANOS = 120_000_000_000L;
    private static final long PAUSE_MILLIS = 500;

    private static final String CLAIM =
            """
            insert into passage (month, run_id, ordinal, path, stage, number, outcome, changes, fingerprint, made,
                last_member)
            select m.month, ?, c.* from (select month_of(started_at) as month from run where id = ?) m,
                unnest(?::bigint[], ?::text[], ?::text[], ?::int[], ?::text[], ?::boolean[], ?::text[], ?::bytea[],
                    ?::bigint[]) as c
            on conflict (month, run_id, ordinal, path, stage, number) do update set outcome = excluded.outcome,
                made = excluded.made, fingerprint = excluded.fingerprint, reply = null,
                last_member = excluded.last_member
            """;
    private static final String KNOWN =
            """
            insert into passage (month, run_id, ordinal, path, stage, number, outcome, changes, reply)
            select m.month, ?, k.* from (select month_of(started_at) as month from run where id = ?) m,
                unnest(?::bigint[], ?::text[], ?::text[], ?::int[], ?::text[], ?::boolean[], ?::bytea[]) as k
            on conflict (month, run_id, ordinal, path, stage, number) do update set outcome = excluded.outcome,
                reply = excluded.reply
            """;
    private static final String ENDS =
            """
            with new as (
                insert into record_end (month, run_id, ordinal, key, fingerprint, ended, rows, failure_class, cause,
                    message, stage, blame, note, saved, input, calls, entered, items, batches,
                    verdicts, numbers, carried)
                select m.month, ?, e.* from (select month_of(started_at) as month from run where id = ?) m,
                    unnest(?::bigint[], ?::text[], ?::text[], ?::text[], ?::int[], ?::text[], ?::text[], ?::text[],
                        ?::text[], ?::text[], ?::text[], ?::boolean[], ?::text[], ?::int[], ?::text[], ?::text[],
                        ?::text[], ?::bytea[], ?::text[], ?::bytea[]) as e
                on conflict do nothing
                returning run_id, ordinal, failure_class, cause, ended, stage, blame)
            insert into run_cause (run_id, failure_class, cause, ended, stage, blame, count)
            select run_id, coalesce(failure_class, ''), cause, ended, min(stage), min(blame), count(*) from new
            where cause is not null and ordinal > 0 group by run_id, coalesce(failure_class, ''), cause, ended
            on conflict (run_id, failure_class, cause, ended) do update set count = run_cause.count + excluded.count
            """;
    /** What was claimed for a batch is needed by its other records, and stays. */
    private static final String PASSAGES =
            """
            insert into passage (month, run_id, ordinal, path, stage, number, outcome, changes)
            select m.month, ?, p.* from (select month_of(started_at) as month from run where id = ?) m,
                unnest(?::bigint[], ?::text[], ?::text[], ?::int[], ?::text[], ?::boolean[]) as p
            on conflict (month, run_id, ordinal, path, stage, number) do update set outcome = excluded.outcome,
                made = case when passage.last_member is null then null else passage.made end,
                reply = case when passage.last_member is null then null else passage.reply end
            """;
    /** Of a record that was not done what it made and did stays: it may be sent again from there. */
    private static final String PASSAGES_LEFT =
            """
            insert into passage (month, run_id, ordinal, path, stage, number, outcome, changes)
            select m.month, ?, p.* from (select month_of(started_at) as month from run where id = ?) m,
                unnest(?::bigint[], ?::text[], ?::text[], ?::int[], ?::text[], ?::boolean[]) as p
            on conflict (month, run_id, ordinal, path, stage, number) do update set outcome = excluded.outcome
            """;

    private static final String ATTEMPTS =
            """
            insert into passage_attempt (month, run_id, ordinal, path, stage, number, attempt, started_at, millis, status, sent,
                failure)
            select m.month, ?, a.* from (select month_of(started_at) as month from run where id = ?) m,
                unnest(?::bigint[], ?::text[], ?::text[], ?::int[], ?::int[], ?::timestamptz[], ?::bigint[], ?::int[],
                    ?::boolean[], ?::text[]) as a
            on conflict do nothing
            """;
    private static final String EXCHANGES =
            """
            insert into passage_exchange (month, run_id, ordinal, path, stage, number, address, request, status, reply)
            select m.month, ?, x.* from (select month_of(started_at) as month from run where id = ?) m,
                unnest(?::bigint[], ?::text[], ?::text[], ?::int[], ?::text[], ?::text[], ?::int[], ?::text[]) as x
            on conflict do nothing
            """;
    private static final String OF_PLACES =
            """
             (select ?::bigint as run_id, ?::bigint as same) r,
                unnest(?::bigint[], ?::text[], ?::text[], ?::text[]) as d(ordinal, path, stage, series), series s
            where s.name = d.series and n.series_id = s.id and n.run_id = r.run_id and n.ordinal = d.ordinal
                and n.path = d.path and n.stage = d.stage
            """;
    private static final String GIVEN_BACK =
            "update series_number n set run_id = null, ordinal = null, path = null, stage = null from" + OF_PLACES;
    private static final String USED = "delete from series_number n using" + OF_PLACES;
    private static final String TOTALS =
            """
            update run set read = ?, done = ?, rejected = ?, left_out = ?, in_doubt = ?, held_back = ?, saved = ?, rows = ?,
                calls = ?, stages = ?::jsonb, sums = ?::jsonb where id = ?
            """;
    private static final String WATERMARK =
            """
            insert into watermark (flow_id, environment, value, run_id)
            select flow_id, environment, ?, id from run where id = ?
            on conflict (flow_id, environment) do update set value = excluded.value, run_id = excluded.run_id,
                moved_at = now()
            """;
    private static final String PART =
            """
            update run_part set positions = positions || ?::jsonb, lease_until = now() + interval '60 seconds'
            where run_id = ? and part = 0 and fence = ?
            """;

    @Inject
    AgroalDataSource database;

    @Inject
    Vault vault;

    /** An effect of a record, within one run. */
    private record OfRecord(long ordinal, Effect effect) {}

    /** The ledger of one run, for whoever holds its part. */
    public final class OfRun implements Ledger {
        private final long run;
        private final long fence;
        private volatile String away;
        private volatile boolean givingUp;

        OfRun(long run, long fence) {
            this.run = run;
            this.fence = fence;
        }

        /** Returns why the database cannot be written now, null when it can. */
        public String away() {
            return away;
        }

        /** Waits no longer for a database that is away. */
        public void giveUp() {
            givingUp = true;
        }

        @Override
        public void keep(Batch batch) throws IOException {
            long until = System.nanoTime() + PATIENCE_NANOS;
            while (true) {
                try {
                    write(batch);
                    away = null;
                    return;
                } catch (SQLException e) {
                    if (!passing(e) || givingUp || System.nanoTime() > until) {
                        throw new IOException(e.getMessage(), e);
                    }
                    if (away == null) {
                        LOG.warnf("the ledger of run %d waits for the database: %s", run, e.getMessage());
                    }
                    away = "the database is away: " + e.getMessage();
                    pause();
                }
            }
        }

        private void pause() throws IOException {
            try {
                Thread.sleep(PAUSE_MILLIS);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw new IOException("interrupted while the database was away", e);
            }
        }

        private void write(Batch batch) throws SQLException, IOException {
            try (Connection connection = database.getConnection()) {
                connection.setAutoCommit(false);
                try {
                    claims(connection, batch.claims());
                    known(connection, batch.passages());
                    ends(connection, batch.ends());
                    totals(connection, batch.totals());
                    part(connection, batch.positions());
                    watermark(connection, batch.watermark());
                    connection.commit();
                } catch (SQLException | IOException | RuntimeException e) {
                    rollback(connection);
                    throw e;
                }
            }
        }

        private void rollback(Connection connection) {
            try {
                connection.rollback();
            } catch (SQLException e) {
                LOG.debugf("nothing to roll back: %s", e.getMessage());
            }
        }

        private void claims(Connection connection, List<Claim> claims) throws SQLException {
            if (claims.isEmpty()) {
                return;
            }
            ArrayRows columns = new ArrayRows(run, 9);
            // one row for each effect: the last claim of it counts
            Map<OfRecord, Claim> last = new LinkedHashMap<>();
            claims.forEach(claim -> last.put(new OfRecord(claim.ordinal(), claim.effect()), claim));
            for (Claim claim : last.values()) {
                Effect effect = claim.effect();
                columns.row(
                        claim.ordinal(),
                        effect.path(),
                        effect.stage(),
                        effect.number(),
                        "claimed",
                        true,
                        claim.fingerprint(),
                        sealed(claim.made()),
                        claim.last());
            }
            columns.run(
                    connection, CLAIM, "bigint", "text", "text", "int", "text", "boolean", "text", "bytea", "bigint");
        }

        private void known(Connection connection, List<KnownPassage> passages) throws SQLException {
            if (passages.isEmpty()) {
                return;
            }
            ArrayRows columns = new ArrayRows(run, 7);
            Map<OfRecord, KnownPassage> last = new LinkedHashMap<>();
            passages.forEach(known ->
                    last.put(new OfRecord(known.ordinal(), known.passage().effect()), known));
            for (KnownPassage known : last.values()) {
                Passage passage = known.passage();
                Effect effect = passage.effect();
                columns.row(
                        known.ordinal(),
                        effect.path(),
                        effect.stage(),
                        effect.number(),
                        passage.outcome().word(),
                        passage.changes(),
                        known.reply() == null ? null : sealed(known.reply()));
            }
            columns.run(connection, KNOWN, "bigint", "text", "text", "int", "text", "boolean", "bytea");
        }

        private void ends(Connection connection, List<LedgerLine> lines) throws SQLException {
            if (lines.isEmpty()) {
                return;
            }
            ArrayRows ends = new ArrayRows(run, 20);
            ArrayRows passages = new ArrayRows(run, 6);
            ArrayRows left = new ArrayRows(run, 6);
            ArrayRows attempts = new ArrayRows(run, 10);
            ArrayRows exchanges = new ArrayRows(run, 8);
            for (LedgerLine line : lines) {
                end(ends, line);
                boolean over = line.end() == End.DONE || line.end() == End.LEFT_OUT;
                for (Passage passage : line.passages()) {
                    passage(over ? passages : left, attempts, exchanges, line.ordinal(), passage);
                }
            }
            passages.run(connection, PASSAGES, "bigint", "text", "text", "int", "text", "boolean");
            left.run(connection, PASSAGES_LEFT, "bigint", "text", "text", "int", "text", "boolean");
            attempts.run(
                    connection,
                    ATTEMPTS,
                    "bigint",
                    "text",
                    "text",
                    "int",
                    "int",
                    "timestamptz",
                    "bigint",
                    "int",
                    "boolean",
                    "text");
            exchanges.run(connection, EXCHANGES, "bigint", "text", "text", "int", "text", "text", "int", "text");
            ends.run(
                    connection,
                    ENDS,
                    "bigint",
                    "text",
                    "text",
                    "text",
                    "int",
                    "text",
                    "text",
                    "text",
                    "text",
                    "text",
                    "text",
                    "boolean",
                    "text",
                    "int",
                    "text",
                    "text",
                    "text",
                    "bytea",
                    "text",
                    "bytea");
            numbers(connection, lines, DrawnNumber.Fate.GIVEN_BACK, GIVEN_BACK);
            numbers(connection, lines, DrawnNumber.Fate.USED, USED);
        }

        /** Settles the numbers of gapless series with the ends of their records. */
        private void numbers(Connection connection, List<LedgerLine> lines, DrawnNumber.Fate fate, String sql)
                throws SQLException {
            ArrayRows numbers = new ArrayRows(run, 4);
            for (LedgerLine line : lines) {
                for (DrawnNumber number : line.numbers(fate)) {
                    numbers.row(
                            line.ordinal(),
                            number.path(),
                            number.stage(),
                            number.series().name());
                }
            }
            numbers.run(connection, sql, "bigint", "text", "text", "text");
        }

        private void end(ArrayRows ends, LedgerLine line) {
            var failure = line.failure();
            boolean over = line.end() == End.DONE || line.end() == End.LEFT_OUT;
            Map<String, String> verdicts = Replay.verdicts(line);
            ends.row(
                    line.ordinal(),
                    clean(line.key()),
                    line.fingerprint(),
                    line.end().word(),
                    line.rows(),
                    failure == null ? null : failure.failureClass().word(),
                    failure == null ? null : clean(failure.cause()),
                    failure == null ? null : clean(failure.message()),
                    line.stage(),
                    failure == null ? null : clean(failure.blame()),
                    clean(line.note()),
                    line.saved(),
                    line.input() == null ? null : clean(NodeWriter.write(line.input(), false)),
                    line.calls(),
                    numbers(line.entered()),
                    line.items().isEmpty() ? null : clean(Json.write(line.items())),
                    line.batches().isEmpty() ? null : Json.write(places(line.batches())),
                    over || verdicts.isEmpty() ? null : sealed(Json.write(verdicts)),
                    line.numbers().isEmpty() ? null : clean(Json.write(drawn(line.numbers()))),
                    line.carried() == null ? null : sealed(KeptNode.write(line.carried())));
        }

        private static List<LedgerMapper.NumberLine> drawn(List<DrawnNumber> numbers) {
            return numbers.stream()
                    .map(each -> new LedgerMapper.NumberLine(
                            each.series().name(),
                            each.series().text(each.number(), each.year()),
                            each.path(),
                            each.stage(),
                            each.fate() == DrawnNumber.Fate.GIVEN_BACK
                                    && each.series().gapless()))
                    .toList();
        }

        private static List<LedgerMapper.BatchLine> places(List<BatchPlace> batches) {
            return batches.stream()
                    .map(each -> new LedgerMapper.BatchLine(
                            each.stage(), each.first(), each.path(), each.position(), each.of(), each.said()))
                    .toList();
        }

        /** The stages a record came to, each once: with its items it may have come to one many times. */
        private static String numbers(int[] stages) {
            return IntStream.of(stages).distinct().mapToObj(Integer::toString).collect(Collectors.joining(" "));
        }

        private void passage(
                ArrayRows passages, ArrayRows attempts, ArrayRows exchanges, long ordinal, Passage passage) {
            String path = passage.effect().path();
            String stage = passage.effect().stage();
            int number = passage.effect().number();
            passages.row(ordinal, path, stage, number, passage.outcome().word(), passage.changes());
            for (Passage.Attempt attempt : passage.attempts()) {
                attempts.row(
                        ordinal,
                        path,
                        stage,
                        number,
                        attempt.number(),
                        attempt.started().toString(),
                        attempt.millis(),
                        attempt.status(),
                        attempt.sent(),
                        clean(attempt.failure()));
            }
            Passage.Exchange exchange = passage.exchange();
            if (exchange != null) {
                exchanges.row(
                        ordinal,
                        path,
                        stage,
                        number,
                        exchange.address(),
                        text(exchange.request()),
                        exchange.status(),
                        text(exchange.reply()));
            }
        }

        private void totals(Connection connection, Totals totals) throws SQLException {
            try (PreparedStatement update = connection.prepareStatement(TOTALS)) {
                int at = 1;
                update.setLong(at++, totals.read());
                for (End end : End.values()) {
                    update.setLong(at++, totals.of(end));
                }
                update.setLong(at++, totals.saved());
                update.setLong(at++, totals.rows());
                update.setLong(at++, totals.calls());
                update.setString(at++, Json.write(totals.stages()));
                update.setString(at++, Json.write(totals.sums()));
                update.setLong(at, run);
                update.executeUpdate();
            }
        }

        private void watermark(Connection connection, String value) throws SQLException {
            if (value == null) {
                return;
            }
            try (PreparedStatement update = connection.prepareStatement(WATERMARK)) {
                update.setString(1, clean(value));
                update.setLong(2, run);
                update.executeUpdate();
            }
        }

        private void part(Connection connection, Map<String, Long> positions) throws SQLException, IOException {
            try (PreparedStatement update = connection.prepareStatement(PART)) {
                update.setString(1, Json.write(positions));
                update.setLong(2, run);
                update.setLong(3, fence);
                if (update.executeUpdate() == 0) {
                    throw new IOException("another server goes on with this run");
                }
            }
        }
    }

    /** Returns the ledger of a run, for the holder of a fencing number. */
    public OfRun of(long run, long fence) {
        return new OfRun(run, fence);
    }

    private byte[] sealed(String text) {
        return vault.seal(SEALED_UNDER, text);
    }

    /** Returns what was sealed. */
    String opened(byte[] sealed) {
        return vault.open(SEALED_UNDER, sealed);
    }

    /** Tells whether the database may be there again in a moment. */
    public static boolean passing(SQLException e) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof SQLException sql) {
                String state = String.valueOf(sql.getSQLState());
                // no connection, shutting down, starting up, taking no connections, out of disk, too many connections
                if (state.startsWith("08")
                        || state.startsWith("57P0")
                        || state.startsWith("53")
                        || state.equals("55000")) {
                    return true;
                }
            }
            if (cause instanceof java.net.SocketException || cause instanceof java.io.EOFException) {
                return true;
            }
        }
        return false;
    }

    private static String text(byte[] bytes) {
        if (bytes == null) {
            return null;
        }
        int length = Math.min(bytes.length, MOST_TEXT);
        return clean(new String(bytes, 0, length, StandardCharsets.UTF_8));
    }

    /** The database cannot hold the character U+0000. */
    private static String clean(String text) {
        return text == null ? null : text.replace('\u0000', '\uFFFD');
    }
}
