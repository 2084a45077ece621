package wirekettle.connect;

import java.io.IOException;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Types;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Base64;
import java.util.List;
import java.util.regex.Pattern;
import org.postgresql.core.NativeQuery;
import org.postgresql.core.Parser;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.value.Column;
import wirekettle.core.value.Layout;
import wirekettle.core.value.ScalarType;

/** Reads the rows of a PostgreSQL table or query, read-only, a thousand at a time; bytes are read as base64. */
public final class SqlSource implements RecordSource {
    private static final Pattern COMMENTS = Pattern.compile("--[^\n]*|/\\*(?s:.*?)\\*/");
    private static final Pattern QUERY = Pattern.compile("(?i)(select|with|values|table)\\b");

    private final ReadingConnection connection;
    private final boolean own;
    private final PreparedStatement statement;
    private final ResultSet rows;
    private final Layout layout;
    private final int[] types;
    private final String name;

    /** How long one statement may take, in seconds: the query itself, then each thousand of its rows. */
    static final int STATEMENT_SECONDS = 30;

    /**
     * Opens a query: one statement that gives rows, in a transaction that only reads unless the connection says
     * otherwise.
     *
     * @throws IOException with the reason when it is refused, fails or takes too long
     */
    public SqlSource(SqlConnector connector, String sql, String name) throws IOException {
        this(ReadingConnection.over(connector), sql, name, null, true);
    }

    /**
     * Opens a query over a connection there is.
     *
     * @param keys what stands in the place of its one mark, null when it has none
     * @param own whether the connection is closed with it
     */
    SqlSource(ReadingConnection connection, String sql, String name, SqlKeys keys, boolean own) throws IOException {
        this.name = name;
        this.connection = connection;
        this.own = own;
        try {
            mustBeOneQuery(sql);
            Connection opened = connection.begun();
            statement = opened.prepareStatement(sql);
            if (keys != null) {
                keys.set(opened, statement);
            }
            // bytes may be long: then few rows at a time are in memory
            statement.setFetchSize(hasBytes(statement.getMetaData()) ? 10 : 1_000);
            rows = statement.executeQuery();
            types = types(rows.getMetaData());
            layout = layout(rows.getMetaData());
        } catch (SQLException e) {
            connection.close();
            throw new IOException(reason(e), e);
        }
    }

    /** The driver would take several statements apart and run them one after the other, transaction or not. */
    static void mustBeOneQuery(String sql) throws SQLException {
        List<NativeQuery> statements = Parser.parseJdbcSql(sql, true, false, true, false, false);
        if (statements.size() > 1) {
            throw new SQLException("a query is one statement, and this text holds " + statements.size()
                    + ": leave out what stands behind the first ;");
        }
        String bare = COMMENTS.matcher(sql).replaceAll(" ").strip().replaceFirst("^\\(+\\s*", "");
        if (!QUERY.matcher(bare).lookingAt()) {
            throw new SQLException("a query begins with select, with, values or table, and gives rows");
        }
    }

    /** Returns a query over a whole table; the table's name is quoted. */
    public static String select(String table) {
        return "select * from " + quoted(table);
    }

    /** Returns an identifier in double quotes, its schema apart. */
    public static String quoted(String table) {
        StringBuilder out = new StringBuilder();
        for (String part : table.split("\\.")) {
            out.append(out.length() == 0 ? "" : ".").append(quotedName(part));
        }
        return out.toString();
    }

    /** Returns one name in double quotes. */
    static String quotedName(String name) {
        return '"' + name.replace("\"", "\"\"") + '"';
    }

    static String reason(SQLException e) {
        if ("57014".equals(e.getSQLState())) {
            return "the database took longer than " + STATEMENT_SECONDS + " seconds and was stopped; ask for less";
        }
        String said = String.valueOf(e.getMessage()).replaceAll("\\s+", " ");
        // what we refuse ourselves has no state of the database
        return e.getSQLState() == null ? said : "the database says: " + said;
    }

    private static Layout layout(ResultSetMetaData meta) throws SQLException {
        List<String> labels = new ArrayList<>();
        for (int i = 1; i <= meta.getColumnCount(); i++) {
            labels.add(meta.getColumnLabel(i));
        }
        List<String> names = Layout.safeNames(labels);
        List<Column> columns = new ArrayList<>();
        for (int i = 1; i <= labels.size(); i++) {
            boolean required = meta.isNullable(i) == ResultSetMetaData.columnNoNulls;
            columns.add(new Column(names.get(i - 1), labels.get(i - 1), type(meta.getColumnType(i)), null, required));
        }
        return new Layout(columns);
    }

    private static ScalarType type(int sql) {
        return switch (sql) {
            case Types.INTEGER, Types.BIGINT, Types.SMALLINT -> ScalarType.INTEGER;
            case Types.NUMERIC, Types.DECIMAL, Types.REAL, Types.DOUBLE, Types.FLOAT -> ScalarType.DECIMAL;
            case Types.BOOLEAN, Types.BIT -> ScalarType.BOOLEAN;
            case Types.DATE -> ScalarType.DATE;
            case Types.TIMESTAMP, Types.TIMESTAMP_WITH_TIMEZONE -> ScalarType.DATETIME;
            case Types.TIME, Types.TIME_WITH_TIMEZONE -> ScalarType.TIME;
            default -> ScalarType.STRING;
        };
    }

    /** Tells whether a column's bytes travel as base64. */
    static boolean binary(int sql) {
        return sql == Types.BINARY || sql == Types.VARBINARY || sql == Types.LONGVARBINARY || sql == Types.BLOB;
    }

    /** A statement that gives no rows has no description. */
    private static boolean hasBytes(ResultSetMetaData described) throws SQLException {
        return described != null && Arrays.stream(types(described)).anyMatch(SqlSource::binary);
    }

    private static int[] types(ResultSetMetaData meta) throws SQLException {
        int[] types = new int[meta.getColumnCount()];
        for (int i = 0; i < types.length; i++) {
            types[i] = meta.getColumnType(i + 1);
        }
        return types;
    }

    /** Returns the layout as the database describes it. */
    public Layout layout() {
        return layout;
    }

    @Override
    public Item next() throws IOException {
        try {
            if (!rows.next()) {
                return null;
            }
            List<String> values = new ArrayList<>();
            for (int i = 1; i <= layout.columns().size(); i++) {
                values.add(text(i, layout.columns().get(i - 1).type()));
            }
            return new Item(layout.record("record", values), null);
        } catch (SQLException e) {
            throw new IOException(reason(e), e);
        }
    }

    private String text(int column, ScalarType type) throws SQLException {
        if (binary(types[column - 1])) {
            byte[] bytes = rows.getBytes(column);
            return bytes == null ? "" : Base64.getEncoder().encodeToString(bytes);
        }
        String text = rows.getString(column);
        if (text == null) {
            return "";
        }
        return switch (type) {
            case BOOLEAN -> rows.getBoolean(column) ? "true" : "false";
            case DATETIME -> text.replaceFirst(" ", "T").replaceFirst("([+-]\\d\\d)$", "$1:00");
            default -> text;
        };
    }

    @Override
    public long size() {
        return -1;
    }

    @Override
    public String name() {
        return name;
    }

    @Override
    public void close() throws IOException {
        try {
            statement.close();
            connection.ended();
        } catch (SQLException e) {
            throw new IOException(reason(e), e);
        } finally {
            if (own) {
                connection.close();
            }
        }
    }
}
