package wirekettle.server.ledger;

import com.fasterxml.jackson.core.type.TypeReference;
import io.agroal.api.AgroalDataSource;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jboss.logging.Logger;
import wirekettle.core.flow.run.Claim;
import wirekettle.core.flow.run.Effect;
import wirekettle.core.flow.run.End;
import wirekettle.core.flow.run.Ledger;
import wirekettle.core.flow.run.Passage;
import wirekettle.core.flow.run.Totals;
import wirekettle.server.web.Json;

/**
 * Keeps the books of runs: a batch is one transaction, written with arrays. Writing a batch once more, when nobody
 * knows whether the database had taken it, changes nothing.
 */
@ApplicationScoped
public class PostgresLedger {
    private static final Logger LOG = Logger.getLogger(PostgresLedger.class);

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
    private static final String PART = "select hold_part(?, ?, ?::jsonb)";
    /** What the database says where another server holds the part of a run. */
    private static final String HELD_ELSEWHERE = "WK001";

    @Inject
    AgroalDataSource database;

    @Inject
    LedgerTexts texts;

    /** An effect of a record, within one run. */
    private record OfRecord(long ordinal, Effect effect) {}

    /** The ledger of one run, for whoever holds its part. */
    public final class OfRun implements Ledger {
        private final long run;
        private final long fence;
        private volatile String away;
        private volatile boolean givingUp;

        private final Pace pace;

        OfRun(long run, long fence) {
            this.run = run;
            this.fence = fence;
            this.pace = new Pace(run, slowest(run));
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
            Patience patience = new Patience();
            while (true) {
                try {
                    write(batch);
                    away = null;
                    return;
                } catch (SQLException e) {
                    if (!passing(e) || givingUp || patience.over()) {
                        throw new IOException(e.getMessage(), e);
                    }
                    if (away == null) {
                        LOG.warnf("the ledger of run %d waits for the database: %s", run, e.getMessage());
                    }
                    away = "the database is away: " + e.getMessage();
                    patience.pause();
                }
            }
        }

        private void write(Batch batch) throws SQLException, IOException {
            OneTrip trip = new OneTrip();
            trip.add(PART, run, fence, Json.write(batch.positions()));
            claims(trip, batch.claims());
            known(trip, batch.passages());
            EndRows ends = new EndRows(run, texts);
            batch.ends().forEach(ends::add);
            ends.to(trip);
            pace.to(trip, batch.ends());
            totals(trip, batch.totals());
            if (batch.watermark() != null) {
                trip.add(WATERMARK, LedgerTexts.clean(batch.watermark()), run);
            }
            try (Connection connection = database.getConnection()) {
                trip.run(connection);
                pace.kept();
            } catch (SQLException e) {
                if (HELD_ELSEWHERE.equals(e.getSQLState())) {
                    throw new IOException("another server goes on with this run", e);
                }
                throw e;
            }
        }

        private void claims(OneTrip trip, List<Claim> claims) {
            ArrayRows columns = new ArrayRows(run, CLAIM, "bigint text text int text boolean text bytea bigint");
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
                        texts.sealed(claim.made()),
                        claim.last());
            }
            columns.to(trip);
        }

        private void known(OneTrip trip, List<KnownPassage> passages) {
            ArrayRows columns = new ArrayRows(run, KNOWN, "bigint text text int text boolean bytea");
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
                        known.reply() == null ? null : texts.sealed(known.reply()));
            }
            columns.to(trip);
        }

        private void totals(OneTrip trip, Totals totals) {
            List<Object> values = new ArrayList<>(List.of(totals.read()));
            for (End end : End.values()) {
                values.add(totals.of(end));
            }
            values.addAll(List.of(
                    totals.saved(),
                    totals.rows(),
                    totals.calls(),
                    Json.write(totals.stages()),
                    Json.write(totals.sums()),
                    run));
            trip.add(TOTALS, values.toArray());
        }
    }

    /** Returns the records of a run whose calls took longest so far. */
    private List<Pace.Slow> slowest(long run) {
        try (Connection connection = database.getConnection();
                PreparedStatement query = connection.prepareStatement("select slowest::text from run where id = ?")) {
            query.setLong(1, run);
            try (ResultSet rows = query.executeQuery()) {
                return rows.next() ? Json.read(rows.getString(1), new TypeReference<>() {}) : List.of();
            }
        } catch (SQLException e) {
            LOG.debugf("the slowest records of run %d are not known: %s", run, e.getMessage());
            return List.of();
        }
    }

    /** Returns the ledger of a run, for the holder of a fencing number. */
    public OfRun of(long run, long fence) {
        return new OfRun(run, fence);
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
}
