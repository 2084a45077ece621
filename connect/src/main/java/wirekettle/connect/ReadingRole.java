package wirekettle.connect;

import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;

/** Looks whether a connection's role can do nothing but read. */
final class ReadingRole {
    private static final String CAN_WRITE =
            """
            select r.rolsuper or r.rolcreaterole or r.rolcreatedb or r.rolreplication
                or exists (select 1 from pg_namespace n where n.nspname !~ '^pg_' and n.nspname <> 'information_schema'
                    and has_schema_privilege(n.oid, 'CREATE'))
                or exists (select 1 from pg_class c join pg_namespace n on n.oid = c.relnamespace
                    where c.relkind in ('r', 'p', 'v', 'f') and n.nspname !~ '^pg_' and n.nspname <> 'information_schema'
                    and has_table_privilege(c.oid, 'INSERT, UPDATE, DELETE, TRUNCATE'))
            from pg_roles r where r.rolname = current_user
            """;

    private ReadingRole() {}

    /** Refuses a connection whose role could write: a query must not be able to, whatever it says. */
    static void check(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet found = statement.executeQuery(CAN_WRITE)) {
            if (!found.next() || found.getBoolean(1)) {
                throw new SQLException("the role queries run as may write in this database: name one that has only been"
                        + " granted select (WIREKETTLE_SQL_READER), or let queries of this connection write"
                        + " (WIREKETTLE_SQL_QUERIES_MAY_WRITE)");
            }
        }
    }
}
