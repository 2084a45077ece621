package wirekettle.server.ledger;

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

    /** Adds the statement with the rows to what is written together, unless there are none. */
    void to(OneTrip trip) {
        if (columns.get(0).isEmpty()) {
            return;
        }
        Object[] values = new Object[2 + types.length];
        values[0] = run;
        values[1] = run;
        for (int i = 0; i < types.length; i++) {
            Object[] its = types[i].equals("bytea")
                    ? columns.get(i).toArray(byte[][]::new)
                    : columns.get(i).toArray();
            values[2 + i] = new OneTrip.Column(types[i], its);
        }
        trip.add(sql, values);
    }
}
