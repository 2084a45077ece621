package wirekettle.core.record;

import java.util.List;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.MappingProblem;

/** Turns what is in reach at the end of a flow into rows. Safe for several threads. */
public interface RowMaker {
    /** Returns what is wrong with the mapping itself. */
    List<MappingProblem> designProblems();

    /** Returns the columns' names in order. */
    List<String> names();

    /** Returns the rows for one record, values in column order (null for none); problems are added. */
    List<String[]> rows(Scope scope, List<MappingProblem> problems);
}
