package wirekettle.server.series;

import io.agroal.api.AgroalDataSource;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.HashMap;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.FilledBy;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.run.Numbers;
import wirekettle.core.value.Series;
import wirekettle.server.ledger.Patience;
import wirekettle.server.ledger.PostgresLedger;

/** Draws the numbers of series: each once in an environment, whatever runs at the same time. */
@ApplicationScoped
public class SeriesStore {
    /** How many numbers of a series that may have gaps are taken at a time. */
    private static final int TAKEN = 50;

    @Inject
    SeriesMapper mapper;

    @Inject
    AgroalDataSource database;

    private final Map<String, Block> blocks = new ConcurrentHashMap<>();

    /** Numbers taken that are not drawn yet. */
    private static final class Block {
        private long next;
        private long until;
    }

    private interface Draw {
        long from(Connection connection) throws SQLException;
    }

    static Series series(SeriesMapper.Row row) {
        return new Series(row.name(), row.gapless(), row.start(), row.pattern(), row.yearly(), row.zone());
    }

    /** Returns the series a flow names, those that are there. */
    public Map<String, Series> of(FlowFile file) {
        Map<String, Series> found = new HashMap<>();
        for (Fill fill : file.fills()) {
            if (fill.by() instanceof FilledBy.Number number && !found.containsKey(number.series())) {
                SeriesMapper.Row row = mapper.byName(number.series());
                if (row != null) {
                    found.put(row.name(), series(row));
                }
            }
        }
        return found;
    }

    /** Returns where a run draws. */
    public Numbers drawing(long run, String environment) {
        return (series, year, place) -> {
            int counted = series.counted(year);
            return series.gapless()
                    ? patient(connection -> gapless(connection, series, environment, counted, run, place))
                    : increasing(series, environment, counted);
        };
    }

    /** Returns numbers for looking: the one that would be drawn next, and nothing is drawn. */
    public Numbers looking(String environment) {
        return (series, year, place) -> {
            Long next = mapper.wouldGive(series.name(), environment, series.counted(year));
            return next == null ? series.start() : next;
        };
    }

    /** Gives back what a run that is over holds, as far as nothing was done with it. */
    public void ended(long run) {
        mapper.release(run);
    }

    private long increasing(Series series, String environment, int year) throws IOException {
        Block block = blocks.computeIfAbsent(series.name() + "\n" + environment + "\n" + year, key -> new Block());
        synchronized (block) {
            if (block.next == block.until) {
                block.next = patient(connection -> taken(connection, series, environment, year));
                block.until = block.next + TAKEN;
            }
            return block.next++;
        }
    }

    /** A database that is away for a moment is waited for, as the ledger does. */
    private long patient(Draw draw) throws IOException {
        Patience patience = new Patience();
        while (true) {
            try (Connection connection = database.getConnection()) {
                connection.setAutoCommit(false);
                try {
                    long number = draw.from(connection);
                    connection.commit();
                    return number;
                } finally {
                    connection.rollback(); // nothing is left to take back once it is committed
                }
            } catch (SQLException e) {
                if (!PostgresLedger.passing(e) || patience.over()) {
                    throw new IOException(e.getMessage(), e);
                }
                patience.pause();
            }
        }
    }

    private static Long one(Connection connection, String sql, Object... values) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            for (int i = 0; i < values.length; i++) {
                statement.setObject(i + 1, values[i]);
            }
            if (!statement.execute()) {
                return null;
            }
            try (ResultSet result = statement.getResultSet()) {
                if (!result.next()) {
                    return null;
                }
                long value = result.getLong(1);
                return result.wasNull() ? null : value;
            }
        }
    }

    private static long id(Connection connection, Series series) throws SQLException {
        Long id = one(connection, "select id from series where name = ?", series.name());
        if (id == null) {
            throw new SQLException("the series was removed");
        }
        return id;
    }

    private static long taken(Connection connection, Series series, String environment, int year) throws SQLException {
        return one(
                connection,
                "insert into series_next (series_id, environment, year, next) values (?, ?, ?, ?)"
                        + " on conflict (series_id, environment, year) do update set next = series_next.next + "
                        + TAKEN + " returning next - " + TAKEN,
                id(connection, series),
                environment,
                year,
                series.start() + TAKEN);
    }

    private static long gapless(
            Connection connection, Series series, String environment, int year, long run, Numbers.Place place)
            throws SQLException {
        long id = id(connection, series);
        Long held = one(
                connection,
                "select number from series_number"
                        + " where run_id = ? and ordinal = ? and path = ? and stage = ? and series_id = ?",
                run,
                place.ordinal(),
                place.path(),
                place.stage(),
                id);
        if (held != null) {
            return held;
        }
        one(
                connection,
                "insert into series_next (series_id, environment, year, next) values (?, ?, ?, ?) on conflict do nothing",
                id,
                environment,
                year,
                series.start());
        // who holds this row draws alone
        Long next = one(
                connection,
                "select next from series_next where series_id = ? and environment = ? and year = ? for update",
                id,
                environment,
                year);
        Long back = one(
                connection,
                "update series_number set run_id = ?, ordinal = ?, path = ?, stage = ? where series_id = ?"
                        + " and environment = ? and year = ? and number = (select min(number) from series_number"
                        + " where series_id = ? and environment = ? and year = ? and run_id is null) returning number",
                run,
                place.ordinal(),
                place.path(),
                place.stage(),
                id,
                environment,
                year,
                id,
                environment,
                year);
        if (back != null) {
            return back;
        }
        one(
                connection,
                "insert into series_number (series_id, environment, year, number, run_id, ordinal, path, stage)"
                        + " values (?, ?, ?, ?, ?, ?, ?, ?)",
                id,
                environment,
                year,
                next,
                run,
                place.ordinal(),
                place.path(),
                place.stage());
        one(
                connection,
                "update series_next set next = ? where series_id = ? and environment = ? and year = ?",
                next + 1,
                id,
                environment,
                year);
        return next;
    }
}
