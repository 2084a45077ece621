package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import java.util.List;
import wirekettle.core.fill.EmbeddedDocument;
import wirekettle.core.fill.Fill;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.value.Column;

/** One stage of a flow. */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "verb")
@JsonSubTypes({
    @JsonSubTypes.Type(value = Stage.Read.class, name = "Read"),
    @JsonSubTypes.Type(value = Stage.Map.class, name = "Map"),
    @JsonSubTypes.Type(value = Stage.Call.class, name = "Call"),
    @JsonSubTypes.Type(value = Stage.Write.class, name = "Write")
})
public sealed interface Stage {
    /** Returns the stage's id, unique in its flow. */
    String id();

    /**
     * Reads records.
     *
     * @param dataset the dataset's name
     * @param as the variable a record is bound to
     * @param key a wire to the business key, or null
     * @param groupBy fields; rows that follow each other and are equal in all of them become one record, whose rows are
     *     its children called {@code line}; empty for a record each row
     */
    @JsonInclude(JsonInclude.Include.NON_EMPTY)
    record Read(String id, String dataset, String as, String key, List<String> groupBy) implements Stage {
        /** Fills in what may be left out. */
        public Read {
            groupBy = groupBy == null ? List.of() : List.copyOf(groupBy);
        }

        /** Reads every row as a record. */
        public Read(String id, String dataset, String as, String key) {
            this(id, dataset, as, key, null);
        }
    }

    /**
     * Makes a whole message by a script.
     *
     * @param language xslt (3.0) or xquery (3.1)
     * @param text the script
     * @param input the variable that is its context item, without the dollar sign
     * @param as the variable the result is bound to
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    record Map(String id, String language, String text, String input, String as) implements Stage {}

    /**
     * Calls an operation.
     *
     * @param contract the contract's name
     * @param service the service
     * @param port the port
     * @param operation the operation, {@code name#2} for a second one of that name
     * @param endpoint the endpoint's name
     * @param as the variable the reply's body element is bound to
     * @param fills what fills the request
     * @param documents the documents inside fields of its request and reply
     * @param delivery how it is called
     * @param rejects where records that fail are written, null for nowhere but the ledger
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    record Call(
            String id,
            String contract,
            String service,
            String port,
            String operation,
            String endpoint,
            String as,
            List<Fill> fills,
            @JsonInclude(JsonInclude.Include.NON_EMPTY) List<EmbeddedDocument> documents,
            Delivery delivery,
            Write rejects)
            implements Stage {
        /** Fills in what may be left out. */
        public Call {
            fills = fills == null ? List.of() : List.copyOf(fills);
            documents = documents == null ? List.of() : List.copyOf(documents);
            delivery = delivery == null ? Delivery.DEFAULT : delivery;
        }

        /** Calls an operation without documents inside fields; what fails is only in the ledger. */
        public Call(
                String id,
                String contract,
                String service,
                String port,
                String operation,
                String endpoint,
                String as,
                List<Fill> fills,
                Delivery delivery) {
            this(id, contract, service, port, operation, endpoint, as, fills, null, delivery, null);
        }

        /** Returns this stage with other fills. */
        public Call filled(List<Fill> others) {
            return new Call(id, contract, service, port, operation, endpoint, as, others, documents, delivery, rejects);
        }

        /** Returns this stage with other documents inside fields. */
        public Call documented(List<EmbeddedDocument> others) {
            return new Call(id, contract, service, port, operation, endpoint, as, fills, others, delivery, rejects);
        }

        /** Returns this stage with a place for records that fail. */
        public Call rejecting(Write to) {
            return new Call(id, contract, service, port, operation, endpoint, as, fills, documents, delivery, to);
        }
    }

    /**
     * Writes records.
     *
     * @param dataset the dataset written to
     * @param mode replace or append for a file; insert or upsert for a table
     * @param keys the columns an upsert is decided by
     * @param rows the path of the element that becomes a row; empty for one row a record
     * @param columns the target's columns; in a document a name is a place, {@code crates/no}
     * @param fills what fills them; each target is a column's name
     * @param document json or xml for one nested document a record, null for rows
     * @param groups the levels of a document that repeat
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    record Write(
            String id,
            String dataset,
            String mode,
            List<String> keys,
            String rows,
            List<Column> columns,
            List<Fill> fills,
            String document,
            @JsonInclude(JsonInclude.Include.NON_EMPTY) List<DocumentPlan.Group> groups)
            implements Stage {
        /** Fills in what may be left out. */
        public Write {
            mode = mode == null ? "replace" : mode;
            keys = keys == null ? List.of() : List.copyOf(keys);
            columns = columns == null ? List.of() : List.copyOf(columns);
            fills = fills == null ? List.of() : List.copyOf(fills);
            groups = groups == null ? List.of() : List.copyOf(groups);
        }

        /** Writes rows. */
        public Write(
                String id,
                String dataset,
                String mode,
                List<String> keys,
                String rows,
                List<Column> columns,
                List<Fill> fills) {
            this(id, dataset, mode, keys, rows, columns, fills, null, null);
        }

        /** Returns the names a sink writes above its rows. */
        public List<String> labels() {
            return columns.stream().map(Column::label).toList();
        }
    }
}
