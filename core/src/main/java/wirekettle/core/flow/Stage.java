package wirekettle.core.flow;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import java.util.List;
import wirekettle.core.mapping.Fill;
import wirekettle.core.value.Column;

/** One stage of a flow. */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "verb")
@JsonSubTypes({
    @JsonSubTypes.Type(value = Stage.Read.class, name = "Read"),
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
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    record Read(String id, String dataset, String as, String key) implements Stage {}

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
     * @param delivery how it is called
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
            Delivery delivery)
            implements Stage {
        /** Fills in what may be left out. */
        public Call {
            fills = fills == null ? List.of() : List.copyOf(fills);
            delivery = delivery == null ? Delivery.DEFAULT : delivery;
        }

        /** Returns this stage with other fills. */
        public Call filled(List<Fill> others) {
            return new Call(id, contract, service, port, operation, endpoint, as, others, delivery);
        }
    }

    /**
     * Writes records.
     *
     * @param dataset the dataset written to
     * @param mode replace or append for a file; insert or upsert for a table
     * @param keys the columns an upsert is decided by
     * @param rows the path of the element that becomes a row; empty for one row a record
     * @param columns the target's columns
     * @param fills what fills them; each target is a column's name
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    record Write(
            String id,
            String dataset,
            String mode,
            List<String> keys,
            String rows,
            List<Column> columns,
            List<Fill> fills)
            implements Stage {
        /** Fills in what may be left out. */
        public Write {
            mode = mode == null ? "replace" : mode;
            keys = keys == null ? List.of() : List.copyOf(keys);
            columns = columns == null ? List.of() : List.copyOf(columns);
            fills = fills == null ? List.of() : List.copyOf(fills);
        }
    }
}
