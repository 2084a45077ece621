package wirekettle.server.ledger;

import java.sql.Array;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;

/**
 * Statements that are one transaction and travel to the database together, its commit with them: nobody waits for the
 * answer to each. What they give back is not looked at. For one thread.
 */
final class OneTrip {
    private final StringBuilder sql = new StringBuilder();
    private final List<Object> values = new ArrayList<>();

    /** The values of an array, and their type in the database. */
    record Column(String type, Object[] values) {}

    /** Adds a statement with the values of its parameters. */
    void add(String statement, Object... its) {
        sql.append(statement.strip()).append(";\n");
        values.addAll(Arrays.asList(its));
    }

    /** Executes all of it, or nothing; the connection is in no transaction before and after. */
    void run(Connection connection) throws SQLException {
        connection.setAutoCommit(false);
        List<Array> arrays = new ArrayList<>();
        try (PreparedStatement all = connection.prepareStatement(sql + "commit")) {
            int at = 1;
            for (Object value : values) {
                if (value instanceof Column column) {
                    Array array = connection.createArrayOf(column.type(), column.values());
                    arrays.add(array);
                    all.setArray(at++, array);
                } else {
                    all.setObject(at++, value);
                }
            }
            all.execute();
        } catch (SQLException | RuntimeException e) {
            connection.rollback();
            throw e;
        } finally {
            for (Array array : arrays) {
                array.free();
            }
        }
    }
}
