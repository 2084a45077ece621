package wirekettle.connect;

import java.sql.Connection;
import java.sql.SQLException;

/** Opens connections of the user's own: never the product's database role. */
@FunctionalInterface
public interface SqlConnector {
    /** Returns a new connection. */
    Connection open() throws SQLException;

    /** Tells whether queries typed by users may write over it. */
    default boolean queriesMayWrite() {
        return false;
    }
}
