package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonValue;
import java.util.Locale;
import wirekettle.core.value.DocumentForm;
import wirekettle.core.value.Layout;

/**
 * Where a dataset's records are.
 *
 * @param name its name
 * @param kind what holds them
 * @param file the file of a csv, json or xml dataset, the folder of one of files
 * @param csv how the file is written
 * @param connection the database connection of a table or query
 * @param table the table, schema-qualified when needed
 * @param query the SQL of a query
 * @param layout its fields
 * @param queue the queue, null for anything else
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record DatasetSpec(
        String name,
        Kind kind,
        String file,
        CsvShape csv,
        String connection,
        String table,
        String query,
        Layout layout,
        Queue queue) {
    /** A dataset that is no queue. */
    public DatasetSpec(
            String name,
            Kind kind,
            String file,
            CsvShape csv,
            String connection,
            String table,
            String query,
            Layout layout) {
        this(name, kind, file, csv, connection, table, query, layout, null);
    }

    /**
     * A queue of a broker.
     *
     * @param endpoint the endpoint that is the broker
     * @param name the queue
     * @param form how messages are written
     */
    public record Queue(String endpoint, String name, DocumentForm form) {}

    /** What holds a dataset's records. */
    public enum Kind {
        /** A CSV file. */
        CSV,
        /** A JSON file of nested documents, which is only written. */
        JSON,
        /** An XML file of nested documents, which is only written. */
        XML,
        /** A table of a database. */
        TABLE,
        /** A query of a database, which is only read. */
        QUERY,
        /** A folder of files, whose records are read and which fills send from and write to. */
        FOLDER,
        /** A queue of a broker (AMQP 1.0), to which messages are sent. */
        QUEUE;

        /** Returns the word used in files and the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }

        /** Tells whether it is written as nested documents. */
        public boolean documents() {
            return this == JSON || this == XML || this == QUEUE;
        }

        /** Tells whether it is in a database. */
        public boolean sql() {
            return this == TABLE || this == QUERY;
        }
    }

    /** Returns the dataset kept in another file or folder. */
    public DatasetSpec at(String otherFile) {
        return new DatasetSpec(name, kind, otherFile, csv, connection, table, query, layout, queue);
    }

    /** Returns the form of its documents, null for a dataset of rows or files. */
    public DocumentForm form() {
        return switch (kind) {
            case JSON -> DocumentForm.JSON;
            case XML -> DocumentForm.XML;
            case QUEUE -> queue.form();
            default -> null;
        };
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
