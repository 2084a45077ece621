package wirekettle.connect;

import java.io.IOException;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;

/**
 * How far a run has written to a database, kept there in the same transaction as its rows: in the small table
 * {@code wirekettle_position}, where the role may create it.
 */
final class SqlPosition {
    private final Connection connection;
    private final String run;
    private final boolean kept;
    private final long last;

    private SqlPosition(Connection connection, String run, boolean kept, long last) {
        this.connection = connection;
        this.run = run;
        this.kept = kept;
        this.last = last;
    }

    /**
     * Opens the position of a run.
     *
     * @param from the last record the ledger knows of, 0 for a run that begins
     * @throws IOException when the run cannot go on because it is not known what the table holds
     */
    static SqlPosition of(Connection connection, String run, long from) throws SQLException, IOException {
        boolean kept = created(connection);
        if (!kept) {
            if (from > 0) {
                throw new IOException("the role may not keep positions in the database (create table"
                        + " wirekettle_position): nobody knows which rows behind record " + from
                        + " stand in the table already; look there, and start a new run with the rest");
            }
            return new SqlPosition(connection, run, false, 0);
        }
        try (PreparedStatement read =
                connection.prepareStatement("select ordinal from wirekettle_position where run = ?")) {
            read.setString(1, run);
            try (ResultSet found = read.executeQuery()) {
                return new SqlPosition(connection, run, true, found.next() ? found.getLong(1) : 0);
            }
        }
    }

    private static boolean created(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("create table if not exists wirekettle_position"
                    + " (run text primary key, ordinal bigint not null)");
            connection.commit();
            return true;
        } catch (SQLException e) {
            connection.rollback();
            return false;
        }
    }

    /** Returns the last record whose rows are in the table. */
    long last() {
        return last;
    }

    /** Notes the last record, in the transaction of its rows. */
    void keep(long ordinal) throws SQLException {
        if (kept) {
            try (PreparedStatement write =
                    connection.prepareStatement("insert into wirekettle_position (run, ordinal) values (?, ?)"
                            + " on conflict (run) do update set ordinal = excluded.ordinal")) {
                write.setString(1, run);
                write.setLong(2, ordinal);
                write.executeUpdate();
            }
        }
    }

    /** Removes the run's position: it has ended. */
    void forget() throws SQLException {
        if (kept) {
            try (PreparedStatement remove =
                    connection.prepareStatement("delete from wirekettle_position where run = ?")) {
                remove.setString(1, run);
                remove.executeUpdate();
            }
        }
    }
}
