package wirekettle.connect;

import java.io.IOException;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;

/** A connection for queries: its role can only read, unless queries of this connection may write. For one thread. */
final class ReadingConnection implements AutoCloseable {
    private final SqlConnector connector;
    private Connection connection;

    private ReadingConnection(SqlConnector connector) {
        this.connector = connector;
    }

    /** Returns a connection that is opened when it is needed, and again after it broke. */
    static ReadingConnection over(SqlConnector connector) {
        return new ReadingConnection(connector);
    }

    /** Begins a transaction of limited time. */
    Connection begun() throws SQLException {
        if (connection == null) {
            connection = opened();
        }
        try (Statement statement = connection.createStatement()) {
            statement.execute("set local statement_timeout = '" + SqlSource.STATEMENT_SECONDS + "s'");
        }
        return connection;
    }

    private Connection opened() throws SQLException {
        Connection opened = connector.open();
        try {
            boolean commits = connector.queriesMayWrite();
            if (!commits) {
                ReadingRole.check(opened);
            }
            opened.setReadOnly(!commits);
            opened.setAutoCommit(false);
            return opened;
        } catch (SQLException e) {
            try {
                opened.close();
            } catch (SQLException closing) {
                e.addSuppressed(closing);
            }
            throw e;
        }
    }

    /** Ends the transaction. */
    void ended() throws SQLException {
        if (connector.queriesMayWrite()) {
            connection.commit();
        } else {
            connection.rollback();
        }
    }

    @Override
    public void close() throws IOException {
        Connection its = connection;
        connection = null;
        try {
            if (its != null) {
                its.close();
            }
        } catch (SQLException e) {
            throw new IOException(SqlSource.reason(e), e);
        }
    }
}
