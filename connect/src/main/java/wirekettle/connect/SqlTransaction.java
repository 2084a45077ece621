package wirekettle.connect;

import java.io.IOException;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;

/**
 * The transaction the tables of one run are written in together: rows of a record come into all of them or into none,
 * and two Writes to one table never wait for each other. For one thread.
 */
public final class SqlTransaction {
    private final SqlConnector connector;
    private final List<SqlSink> sinks = new ArrayList<>();
    private Connection connection;

    /** Makes a transaction over a connection that is opened when it is needed. */
    public SqlTransaction(SqlConnector connector) {
        this.connector = connector;
    }

    Connection connection() throws SQLException {
        if (connection == null) {
            Connection opened = connector.open();
            opened.setAutoCommit(false);
            connection = opened;
        }
        return connection;
    }

    void join(SqlSink sink) {
        sinks.add(sink);
    }

    /** Undoes what was tried in all tables since the last commit; it is tried again. */
    void rollback() throws IOException {
        try {
            connection.rollback();
        } catch (SQLException e) {
            throw new IOException(SqlSource.reason(e), e);
        }
        sinks.forEach(SqlSink::rolledBack);
    }

    /** Makes durable what was tried in all tables, with how far each of them goes. */
    void commit() throws IOException {
        if (sinks.stream().noneMatch(SqlSink::changed)) {
            return;
        }
        try {
            for (SqlSink sink : sinks) {
                sink.keepPosition();
            }
            connection.commit();
        } catch (SQLException e) {
            throw new IOException(SqlSource.reason(e), e);
        }
        sinks.forEach(SqlSink::committed);
    }

    /** Closes the connection when the last table is closed. */
    void leave(SqlSink sink) throws IOException {
        sinks.remove(sink);
        if (sinks.isEmpty()) {
            close();
        }
    }

    private void close() throws IOException {
        try {
            if (connection != null) {
                connection.close();
            }
        } catch (SQLException e) {
            throw new IOException(SqlSource.reason(e), e);
        } finally {
            connection = null;
        }
    }
}
