package wirekettle.server.ledger;

import java.sql.Array;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;

/** Rows of a run's books, sent to the database as one array a column. */
final class ArrayRows {
    private final long run;
    private final String sql;
    private final String[] types;
    private final List<List<Object>> columns = new ArrayList<>();

    /**
     * Collects rows for a statement; the run stands before them, twice.
     *
     * @param types the types of their columns, with blanks between them
     */
    ArrayRows(long run, String sql, String types) {
        this.run = run;
        this.sql = sql;
        this.types = types.split(" ");
        for (int i = 0; i < this.types.length; i++) {
            columns.add(new ArrayList<>());
        }
    }

    /** Adds a row. */
    void row(Object... values) {
        for (int i = 0; i < values.length; i++) {
            columns.get(i).add(values[i]);
        }
    }

    /** Executes the statement with the rows, unless there are none. */
    void run(Connection connection) throws SQLException {
        if (columns.get(0).isEmpty()) {
            return;
        }
        List<Array> arrays = new ArrayList<>();
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            statement.setLong(1, run);
            statement.setLong(2, run);
            for (int i = 0; i < types.length; i++) {
                Object[] values = types[i].equals("bytea")
                        ? columns.get(i).toArray(byte[][]::new)
                        : columns.get(i).toArray();
                Array array = connection.createArrayOf(types[i], values);
                arrays.add(array);
                statement.setArray(3 + i, array);
            }
            statement.executeUpdate();
        } finally {
            for (Array array : arrays) {
                array.free();
            }
        }
    }
}
