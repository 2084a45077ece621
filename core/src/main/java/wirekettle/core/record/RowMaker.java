package wirekettle.core.record;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/** Turns what is in reach at the end of a flow into rows. Safe for several threads. */
public interface RowMaker {
    /** Returns what is wrong with the mapping itself. */
    List<MappingProblem> designProblems();

    /** Returns the columns' names in order. */
    List<String> names();

    /** Returns the rows for one record, values in column order (null for none); problems are added. */
    List<String[]> rows(Scope scope, List<MappingProblem> problems);

    /**
     * Returns what is made as a tree: a record with a child for each column, where there are rows with such a record
     * called {@code row} for each; a nested document as it is.
     */
    default Node node(Scope scope, List<MappingProblem> problems) {
        List<String> names = names();
        List<Node> records = new ArrayList<>();
        for (String[] row : rows(scope, problems)) {
            List<Node> fields = new ArrayList<>(row.length);
            for (int i = 0; i < row.length; i++) {
                if (row[i] != null) {
                    fields.add(Node.leaf(names.get(i), row[i]));
                }
            }
            records.add(Node.branch(Name.of(manyRows() ? "row" : "record"), fields));
        }
        return manyRows() ? Node.branch(Name.of("record"), records) : records.get(0);
    }

    /** Tells whether a record gives any number of rows. */
    boolean manyRows();
}
