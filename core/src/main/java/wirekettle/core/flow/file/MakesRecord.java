package wirekettle.core.flow.file;

import java.util.List;
import wirekettle.core.fill.Fill;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.value.Column;
import wirekettle.core.value.DocumentForm;

/** Everything that makes a record, rows or a nested document by fills, with the same abilities everywhere. */
public interface MakesRecord {
    /** Returns the id its problems are told of. */
    String id();

    /** Returns the path of the element that becomes a row; null or empty for one row. */
    String rows();

    /** Returns the columns; in a document a name is a place, {@code crates/no}. */
    List<Column> columns();

    /** Returns what fills the columns; each target is a column's name. */
    List<Fill> fills();

    /** Returns the form of a nested document; null for rows. */
    DocumentForm document();

    /** Returns the levels of a document that repeat. */
    List<DocumentPlan.Group> groups();
}
