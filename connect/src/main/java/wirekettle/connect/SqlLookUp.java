package wirekettle.connect;

import java.io.IOException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.flow.run.KeyedRows;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.value.Column;
import wirekettle.core.value.Node;

/** Asks a table or query for the rows of many keys at once, over one connection. */
public final class SqlLookUp implements KeyedRows {
    private final ReadingConnection connection;
    private final String from;
    private final String name;
    private final Column column;

    /**
     * Opens a query to be asked by key.
     *
     * @param sql the query, without parameters
     * @param column the field's name in the flow
     * @throws IOException when it cannot be opened, or gives no such column
     */
    public SqlLookUp(SqlConnector connector, String sql, String name, String column) throws IOException {
        this.name = name;
        this.from = "select * from (" + bare(sql) + "\n) as looked_into where ";
        this.connection = ReadingConnection.over(connector);
        try (SqlSource described = new SqlSource(connection, from + "false", name, null, false)) {
            this.column = described.layout().columns().stream()
                    .filter(each -> each.name().equals(column))
                    .findFirst()
                    .orElseThrow(() -> new IOException(name + " has no column " + column + " any more"));
        } catch (IOException e) {
            connection.close();
            throw e;
        }
    }

    private static String bare(String sql) throws IOException {
        try {
            SqlSource.mustBeOneQuery(sql);
        } catch (java.sql.SQLException e) {
            throw new IOException(SqlSource.reason(e), e);
        }
        return sql.strip().replaceFirst(";+\\s*$", "");
    }

    @Override
    public Map<String, List<Node>> rows(Set<String> keys) throws IOException {
        SqlKeys its = new SqlKeys(column, keys);
        Map<String, List<Node>> found = new HashMap<>();
        try (SqlSource source = new SqlSource(connection, from + its.condition(), name, its, false)) {
            for (RecordSource.Item item = source.next(); item != null; item = source.next()) {
                String value = item.node().textOf(column.name());
                // a column of type char(n) fills its values up with spaces
                String key = keys.contains(value) ? value : value.stripTrailing();
                List<Node> rows = found.computeIfAbsent(key, k -> new ArrayList<>(1));
                if (rows.size() < MOST_OF_A_KEY) {
                    rows.add(item.node());
                }
            }
        }
        return found;
    }

    @Override
    public void close() throws IOException {
        connection.close();
    }
}
