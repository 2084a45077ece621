package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.List;

/**
 * Reads the records of a flow.
 *
 * @param dataset the dataset's name
 * @param as the variable a record is bound to
 * @param key a wire to the business key, or null
 * @param groupBy fields; rows that follow each other and are equal in all of them become one record, whose rows are
 *     its children called {@code line}; empty for a record each row
 * @param inKeyOrder whether records of one key go one after the other, later ones held back once one is rejected or in
 *     doubt
 * @param carry what a record that is done hands on to the next one of its key, or null; needs their order
 * @param goesOn whether a run that ended with the server goes on by itself once the server is back
 */
@JsonInclude(JsonInclude.Include.NON_EMPTY)
public record ReadStage(
        String id,
        String dataset,
        String as,
        String key,
        List<String> groupBy,
        Boolean inKeyOrder,
        Carry carry,
        Boolean goesOn)
        implements Stage {
    /**
     * What records hand on.
     *
     * @param as the variable the next record has it in
     * @param values what is handed on
     */
    public record Carry(String as, List<NamedValue> values) {
        /** Keeps its own copy. */
        public Carry {
            values = values == null ? List.of() : List.copyOf(values);
        }
    }

    /** Fills in what may be left out. */
    public ReadStage {
        groupBy = groupBy == null ? List.of() : List.copyOf(groupBy);
    }

    /** Reads every row as a record, in no order of keys. */
    public ReadStage(String id, String dataset, String as, String key) {
        this(id, dataset, as, key, null, null, null, null);
    }

    /** Reads grouped rows, in no order of keys. */
    public ReadStage(String id, String dataset, String as, String key, List<String> groupBy) {
        this(id, dataset, as, key, groupBy, null, null, null);
    }

    /** Reads grouped rows, records of one key one after the other where told so. */
    public ReadStage(String id, String dataset, String as, String key, List<String> groupBy, Boolean inKeyOrder) {
        this(id, dataset, as, key, groupBy, inKeyOrder, null, null);
    }

    /** Returns this with what its records hand on, in the order of their keys. */
    public ReadStage carrying(Carry other) {
        return new ReadStage(id, dataset, as, key, groupBy, true, other, goesOn);
    }

    /** Tells whether an interrupted run goes on by itself. */
    public boolean goesOnByItself() {
        return Boolean.TRUE.equals(goesOn);
    }

    /** Tells whether records of one key go one after the other. */
    public boolean keepsOrder() {
        return Boolean.TRUE.equals(inKeyOrder);
    }
}
