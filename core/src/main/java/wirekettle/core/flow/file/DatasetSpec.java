package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import wirekettle.core.value.Layout;

/**
 * Where a dataset's records are.
 *
 * @param name its name
 * @param kind csv, table or query; json or xml for nested documents, which are only written; folder for files, whose
 *     records are read and which fills send from and write to
 * @param file the file of a csv, json or xml dataset, the folder of one of files
 * @param csv how the file is written
 * @param connection the database connection of a table or query
 * @param table the table, schema-qualified when needed
 * @param query the SQL of a query
 * @param layout its fields
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record DatasetSpec(
        String name,
        String kind,
        String file,
        CsvShape csv,
        String connection,
        String table,
        String query,
        Layout layout) {
    /** Returns the dataset kept in another file or folder. */
    public DatasetSpec at(String otherFile) {
        return new DatasetSpec(name, kind, otherFile, csv, connection, table, query, layout);
    }

    /**
     * How a CSV file is written (RFC 4180 and its relatives).
     *
     * @param delimiter one character between fields
     * @param quote one character around fields
     * @param charset the character encoding
     * @param header whether the first line holds names
     */
    public record CsvShape(String delimiter, String quote, String charset, boolean header) {
        /** Comma, double quote, UTF-8, with a header. */
        public static final CsvShape DEFAULT = new CsvShape(",", "\"", "UTF-8", true);
    }
}
