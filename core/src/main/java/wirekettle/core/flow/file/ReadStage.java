package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.List;
import java.util.function.UnaryOperator;
import wirekettle.core.record.InputShape;

/**
 * Reads the records of a flow.
 *
 * @param dataset the dataset's name; null where an operation gives the records
 * @param from the operation that gives the records, or null
 * @param input what callers send, each of them a record; null where a dataset or an operation gives them
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
        FromOperation from,
        InputShape input,
        String as,
        String key,
        List<String> groupBy,
        Boolean inKeyOrder,
        Carry carry,
        Boolean goesOn)
        implements Stage {
    /** The variable of what a caller sends. */
    public static final String INPUT = "input";

    /**
     * An operation whose reply holds the records.
     *
     * @param call how it is called, once or page after page; what it makes is in reach of nothing but its own conditions
     * @param rows a path to the element each of which is a record: {@code $reply/list/loan}
     * @param watermark XPath 3.1 over a record: how far one has come with it; the greatest is in reach of the call's fills
     *     the next time as {@code $watermark}. Null for none
     * @param since the watermark of the first time, or null
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record FromOperation(CallStage call, String rows, String watermark, String since) {
        /** The variable that holds the watermark. */
        public static final String WATERMARK = "watermark";

        /** The path of what it asks in the books and samples of a run. */
        public static final String PATH = "read";
    }

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
        this(id, dataset, null, null, as, key, null, null, null, null);
    }

    /** Reads grouped rows, in no order of keys. */
    public ReadStage(String id, String dataset, String as, String key, List<String> groupBy) {
        this(id, dataset, null, null, as, key, groupBy, null, null, null);
    }

    /** Reads grouped rows, records of one key one after the other where told so. */
    public ReadStage(String id, String dataset, String as, String key, List<String> groupBy, Boolean inKeyOrder) {
        this(id, dataset, null, null, as, key, groupBy, inKeyOrder, null, null);
    }

    /** Returns this with what its records hand on, in the order of their keys. */
    public ReadStage carrying(Carry other) {
        return new ReadStage(id, dataset, from, input, as, key, groupBy, true, other, goesOn);
    }

    /** Returns a Read of what callers send. */
    public static ReadStage of(String id, InputShape input, String key) {
        return new ReadStage(id, null, null, input, INPUT, key, null, null, null, null);
    }

    /** Returns this with records from an operation. */
    public ReadStage from(FromOperation other) {
        return new ReadStage(id, null, other, null, as, key, groupBy, inKeyOrder, carry, goesOn);
    }

    @Override
    public List<Stage> inside() {
        return from == null || from.call() == null ? List.of() : List.of(from.call());
    }

    @Override
    public Stage mapped(UnaryOperator<Stage> change) {
        return from == null || from.call() == null
                ? this
                : from(new FromOperation(
                        (CallStage) change.apply(from.call()), from.rows(), from.watermark(), from.since()));
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
