package wirekettle.connect;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.Set;
import java.util.regex.Pattern;
import wirekettle.core.value.Column;
import wirekettle.core.value.ScalarType;

/**
 * The keys one question asks for, compared as the column's type wants it: so that an index over it can serve.
 *
 * @param column the column they are looked for in
 */
record SqlKeys(Column column, Set<String> keys) {
    private static final Pattern WHOLE = Pattern.compile("[+-]?\\d{1,18}");

    private boolean whole() {
        return column.type() == ScalarType.INTEGER;
    }

    /** Returns the condition, with one mark for all keys. */
    String condition() {
        String name = SqlSource.quotedName(column.label());
        return whole() ? name + " = any(?)" : name + "::text = any(?)";
    }

    /** Puts the keys in the place of the mark; those that cannot be in the column are left out. */
    void set(Connection connection, PreparedStatement statement) throws SQLException {
        Object[] values = whole()
                ? keys.stream()
                        .filter(key -> WHOLE.matcher(key).matches())
                        .map(Long::valueOf)
                        .toArray()
                : keys.stream().map(this::asTheDatabaseWritesIt).toArray();
        statement.setArray(1, connection.createArrayOf(whole() ? "bigint" : "text", values));
    }

    private String asTheDatabaseWritesIt(String key) {
        return column.type() == ScalarType.DATETIME
                ? key.replace('T', ' ').replaceFirst("([+-]\\d\\d):00$", "$1")
                : key;
    }
}
