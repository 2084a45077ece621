package wirekettle.connect;

import java.io.IOException;
import java.sql.Connection;
import java.sql.ParameterMetaData;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Savepoint;
import java.sql.Statement;
import java.sql.Types;
import java.util.ArrayList;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Collectors;
import wirekettle.core.flow.run.RecordSink;
import wirekettle.core.value.Column;
import wirekettle.core.value.ScalarType;

/** Inserts or upserts rows into a PostgreSQL table; values are always bound. */
public final class SqlSink implements RecordSink {
    private final SqlTransaction transaction;
    private final PreparedStatement insert;
    private final List<Column> columns;
    private final boolean[] binary;
    /** Rows taken that are not in the transaction yet, and those that are, by record in order. */
    private final Map<Long, List<String[]>> waiting = new TreeMap<>();

    private final Map<Long, List<String[]>> tried = new TreeMap<>();
    private final SqlPosition position;
    private long seen;
    private long last;

    /**
     * Opens the table.
     *
     * @param transaction the transaction it writes in, together with the other tables of a run
     * @param run what the run and its output are called where positions are kept, null to keep none
     * @param from the last record the ledger knows of when the run goes on, 0 when it begins
     * @param keys the columns an upsert is decided by; empty means insert
     * @param create whether a missing table is created from the columns
     */
    public SqlSink(
            SqlTransaction transaction,
            String table,
            List<Column> columns,
            List<String> keys,
            boolean create,
            String run,
            long from)
            throws IOException {
        this.transaction = transaction;
        this.columns = columns;
        this.binary = new boolean[columns.size()];
        try {
            Connection connection = transaction.connection();
            if (create) {
                try (Statement statement = connection.createStatement()) {
                    statement.execute(createTable(table, columns, keys));
                }
                connection.commit();
            }
            insert = connection.prepareStatement(insert(table, columns, keys));
            ParameterMetaData wanted = insert.getParameterMetaData();
            for (int i = 0; i < columns.size(); i++) {
                binary[i] = SqlSource.binary(wanted.getParameterType(i + 1));
            }
            position = run == null ? null : SqlPosition.of(connection, run, from);
            last = position == null ? 0 : position.last();
            transaction.join(this);
        } catch (SQLException e) {
            transaction.leave(this);
            throw new IOException(SqlSource.reason(e), e);
        } catch (IOException e) {
            transaction.leave(this);
            throw e;
        }
    }

    static String createTable(String table, List<Column> columns, List<String> keys) {
        String fields = columns.stream()
                .map(c -> SqlSource.quoted(c.name()) + " " + sqlType(c.type()) + (c.required() ? " not null" : ""))
                .collect(Collectors.joining(", "));
        String unique = keys.isEmpty()
                ? ""
                : ", unique (" + keys.stream().map(SqlSource::quoted).collect(Collectors.joining(", ")) + ")";
        return "create table if not exists " + SqlSource.quoted(table) + " (" + fields + unique + ")";
    }

    private static String sqlType(ScalarType type) {
        return switch (type) {
            case INTEGER -> "bigint";
            case DECIMAL -> "numeric";
            case BOOLEAN -> "boolean";
            case DATE -> "date";
            case DATETIME -> "timestamptz";
            case TIME -> "time";
            case STRING -> "text";
        };
    }

    static String insert(String table, List<Column> columns, List<String> keys) {
        String names = columns.stream().map(c -> SqlSource.quoted(c.name())).collect(Collectors.joining(", "));
        String marks = columns.stream()
                .map(c -> c.type() == ScalarType.STRING ? "?" : "cast(? as " + sqlType(c.type()) + ")")
                .collect(Collectors.joining(", "));
        String sql = "insert into " + SqlSource.quoted(table) + " (" + names + ") values (" + marks + ")";
        if (keys.isEmpty()) {
            return sql;
        }
        String on = keys.stream().map(SqlSource::quoted).collect(Collectors.joining(", "));
        String set = columns.stream()
                .filter(c -> !keys.contains(c.name()))
                .map(c -> SqlSource.quoted(c.name()) + " = excluded." + SqlSource.quoted(c.name()))
                .collect(Collectors.joining(", "));
        return sql + " on conflict (" + on + ") do " + (set.isEmpty() ? "nothing" : "update set " + set);
    }

    @Override
    public void write(long ordinal, List<String[]> some) {
        seen = Math.max(seen, ordinal);
        if (position != null && ordinal <= position.last()) {
            return; // its rows came in before the crash
        }
        waiting.computeIfAbsent(ordinal, o -> new ArrayList<>()).addAll(some);
    }

    @Override
    public Map<Long, String> tryRows() throws IOException {
        Map<Long, String> refused = new LinkedHashMap<>();
        if (waiting.isEmpty()) {
            return refused;
        }
        try {
            Connection connection = transaction.connection();
            Savepoint before = connection.setSavepoint();
            try {
                for (List<String[]> some : waiting.values()) {
                    for (String[] row : some) {
                        bind(row);
                        insert.addBatch();
                    }
                }
                insert.executeBatch();
            } catch (SQLException e) {
                insert.clearBatch();
                connection.rollback(before);
                oneByOne(connection, refused);
            }
        } catch (SQLException e) {
            throw new IOException(SqlSource.reason(e), e);
        }
        waiting.keySet().removeAll(refused.keySet());
        waiting.forEach((ordinal, rows) ->
                tried.computeIfAbsent(ordinal, o -> new ArrayList<>()).addAll(rows));
        waiting.clear();
        return refused;
    }

    /** After a batch was refused: record by record, so only the ones to blame are rejected. */
    private void oneByOne(Connection connection, Map<Long, String> refused) throws SQLException {
        for (Map.Entry<Long, List<String[]>> entry : waiting.entrySet()) {
            Savepoint before = connection.setSavepoint();
            try {
                for (String[] row : entry.getValue()) {
                    bind(row);
                    insert.executeUpdate();
                }
                connection.releaseSavepoint(before);
            } catch (SQLException e) {
                connection.rollback(before);
                refused.put(entry.getKey(), SqlSource.reason(e));
            }
        }
    }

    @Override
    public void takeBack(long ordinal) throws IOException {
        waiting.remove(ordinal);
        if (tried.remove(ordinal) != null) {
            transaction.rollback();
        }
    }

    /** Tries again what was in the transaction: it was rolled back. */
    void rolledBack() {
        tried.forEach((ordinal, rows) ->
                waiting.computeIfAbsent(ordinal, o -> new ArrayList<>()).addAll(0, rows));
        tried.clear();
    }

    /** Tells whether the transaction has something new of it. */
    boolean changed() {
        return seen > last || !tried.isEmpty();
    }

    /** Says in the transaction how far its rows go. */
    void keepPosition() throws SQLException {
        if (seen > last) {
            last = seen;
            if (position != null) {
                position.keep(last);
            }
        }
    }

    void committed() {
        tried.clear();
    }

    @Override
    public void flush() throws IOException {
        transaction.commit();
    }

    private void bind(String[] row) throws SQLException {
        for (int i = 0; i < columns.size(); i++) {
            String value = row[i];
            boolean text = columns.get(i).type() == ScalarType.STRING;
            if (value == null || value.isEmpty() && !text) {
                insert.setNull(i + 1, binary[i] ? Types.BINARY : Types.VARCHAR);
            } else if (binary[i]) {
                insert.setBytes(i + 1, bytes(columns.get(i), value));
            } else {
                insert.setString(i + 1, value);
            }
        }
    }

    private static byte[] bytes(Column column, String value) throws SQLException {
        try {
            return Base64.getMimeDecoder().decode(value);
        } catch (IllegalArgumentException e) {
            throw new SQLException("the column " + column.name() + " takes bytes, and the value is no base64");
        }
    }

    @Override
    public long position() {
        return last;
    }

    @Override
    public boolean mayRefuse() {
        return true;
    }

    @Override
    public void finish() throws IOException {
        transaction.commit();
        try {
            if (position != null) {
                position.forget();
                transaction.connection().commit();
            }
        } catch (SQLException e) {
            throw new IOException(SqlSource.reason(e), e);
        }
    }

    @Override
    public void leave() {
        waiting.clear(); // what was flushed stands in the table, what was not has no line in the ledger
        tried.clear();
    }

    @Override
    public void close() throws IOException {
        transaction.leave(this);
    }
}
