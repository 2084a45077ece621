package wirekettle.core.fill;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonValue;
import java.util.List;
import wirekettle.core.value.ValueFormat;

/**
 * One row of a mapping.
 *
 * @param id stable for the life of the fill
 * @param target the path of the field it fills ({@code /{ns}a/{ns}b/@c}), or the name of a record's column
 * @param by what fills it
 * @param format how the value is read and written, or null
 * @param lookUp the code table the value is looked up in, or null
 * @param file in a request, the value names a file of a folder, whose content is sent; in a record, the value is
 *     content that is written to a folder, and the column holds the file's name; null for neither
 * @param whenEmpty what happens when there is no value, null for the usual
 * @param when XPath 3.1; the fill counts only for records for which it is true, null for all
 * @param remark a note by people, or null
 */
public record Fill(
        String id,
        String target,
        FilledBy by,
        ValueFormat format,
        LookUp lookUp,
        InFolder file,
        WhenEmpty whenEmpty,
        String when,
        String remark) {
    /** Reads a fill as the flow file writes it. */
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    static Fill of(FillForm form) {
        return form.fill();
    }

    @JsonValue
    FillForm form() {
        return FillForm.of(this);
    }

    /**
     * Which repeated nodes, and how.
     *
     * @param where XPath 3.1 over the variable of the repeat; only nodes for which it is true, null for all
     * @param order what they are sorted by, the first deciding first
     * @param groupBy names of fields: nodes equal in all of them become one, which has the fields of the first and
     *     all of them as children called {@code line}
     */
    @JsonInclude(JsonInclude.Include.NON_EMPTY)
    public record Each(String where, List<By> order, List<String> groupBy) {
        /** Keeps its own copies. */
        public Each {
            order = order == null ? List.of() : List.copyOf(order);
            groupBy = groupBy == null ? List.of() : List.copyOf(groupBy);
        }
    }

    /**
     * One thing to sort by.
     *
     * @param by a path from the variable of the repeat, or XPath 3.1
     * @param descending whether the greatest comes first
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record By(String by, Boolean descending) {}

    /**
     * A code table a value is looked up in.
     *
     * @param table its name
     * @param on a path to the day that decides which entries are in force; the day the run started when null
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record LookUp(String table, String on) {}

    /**
     * A file of a folder.
     *
     * @param folder the name of a folder dataset
     * @param name what a file that is written is called: a path, or XPath 3.1; null for the run, the record and the
     *     column with the ending its media type has
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record InFolder(String folder, String name) {}

    /**
     * What happens when there is no value.
     *
     * @param use what is done
     * @param value the text that is sent by default
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record WhenEmpty(Use use, String value) {
        /** What is done when there is no value. */
        public enum Use {
            /** A text is sent in its place. */
            DEFAULT("default"),
            /** The field is left out. */
            LEAVE_OUT("leaveOut"),
            /** The field is sent as explicitly nil. */
            NIL("nil"),
            /** The field is sent empty. */
            SEND("send"),
            /** The record fails. */
            REJECT("reject");

            private final String word;

            Use(String word) {
                this.word = word;
            }

            /** Returns the word used in files and the API. */
            @JsonValue
            public String word() {
                return word;
            }
        }
    }

    /** Returns a fill. */
    public static Fill of(String id, String target, FilledBy by) {
        return new Fill(id, target, by, null, null, null, null, null, null);
    }

    /** Returns a pick. */
    public static Fill pick(String id, String target) {
        return of(id, target, new FilledBy.Pick());
    }

    /** Returns a wire. */
    public static Fill wire(String id, String target, String wire) {
        return of(id, target, new FilledBy.Wire(wire));
    }

    /** Returns a constant. */
    public static Fill constant(String id, String target, String constant) {
        return of(id, target, new FilledBy.Constant(constant));
    }

    /** Returns an expression. */
    public static Fill expression(String id, String target, String expression) {
        return of(id, target, new FilledBy.Expression(expression));
    }

    /** Returns a repeat. */
    public static Fill repeat(String id, String target, String repeat, String as) {
        return of(id, target, new FilledBy.Repeat(repeat, as, null, null));
    }

    /** Returns a fill that puts values together. */
    public static Fill join(String id, String target, String by, String... parts) {
        return of(id, target, new FilledBy.Join(List.of(parts), by));
    }

    /** Returns a fill of a whole subtree. */
    public static Fill copy(String id, String target, String from) {
        return of(id, target, new FilledBy.Copy(from));
    }

    /** Returns a fill that sends a secret. */
    public static Fill secret(String id, String target, String name) {
        return of(id, target, new FilledBy.Secret(name));
    }

    /** Returns a fill that signs an element. */
    public static Fill signature(String id, String target, String over, String key) {
        return of(id, target, new FilledBy.Signature(over, key, null));
    }

    /** Returns a fill that is always nil. */
    public static Fill nil(String id, String target) {
        return of(id, target, new FilledBy.Nil());
    }

    /** Returns a fill that makes a key for each node a path leads to. */
    public static Fill key(String id, String target, String of) {
        return of(id, target, new FilledBy.Key(of));
    }

    /** Returns a fill that draws a number of a series. */
    public static Fill number(String id, String target, String series) {
        return of(id, target, new FilledBy.Number(series));
    }

    /** Returns this fill for another target. */
    public Fill to(String other) {
        return new Fill(id, other, by, format, lookUp, file, whenEmpty, when, remark);
    }

    /** Returns this fill under another id. */
    public Fill renamed(String other) {
        return new Fill(other, target, by, format, lookUp, file, whenEmpty, when, remark);
    }

    /** Returns this fill with something else that fills it. */
    public Fill by(FilledBy other) {
        return new Fill(id, target, other, format, lookUp, file, whenEmpty, when, remark);
    }

    /** Returns this fill with a format. */
    public Fill with(ValueFormat other) {
        return new Fill(id, target, by, other, lookUp, file, whenEmpty, when, remark);
    }

    /** Returns this repeat over other nodes of the same path. */
    public Fill with(Each other) {
        FilledBy.Repeat its = repeat();
        return by(new FilledBy.Repeat(its.from(), its.as(), other, its.value()));
    }

    /** Returns this repeat with each node bound to another variable. */
    public Fill bound(String variable) {
        FilledBy.Repeat its = repeat();
        return by(new FilledBy.Repeat(its.from(), variable, its.each(), its.value()));
    }

    /** Returns this fill with a look-up. */
    public Fill with(LookUp other) {
        return new Fill(id, target, by, format, other, file, whenEmpty, when, remark);
    }

    /** Returns this fill with a file of a folder. */
    public Fill with(InFolder other) {
        return new Fill(id, target, by, format, lookUp, other, whenEmpty, when, remark);
    }

    /** Returns this fill with what happens when there is no value. */
    public Fill with(WhenEmpty other) {
        return new Fill(id, target, by, format, lookUp, file, other, when, remark);
    }

    /** Returns this fill for some records only. */
    public Fill onlyWhen(String condition) {
        return new Fill(id, target, by, format, lookUp, file, whenEmpty, condition, remark);
    }

    /** Returns this fill with a remark. */
    public Fill remarked(String text) {
        return new Fill(id, target, by, format, lookUp, file, whenEmpty, when, text);
    }

    /** Returns the path of a wire; null where something else fills it. */
    public String wire() {
        return by instanceof FilledBy.Wire its ? its.path() : null;
    }

    /** Returns the text of a constant; null where something else fills it. */
    public String constant() {
        return by instanceof FilledBy.Constant its ? its.text() : null;
    }

    /** Returns the repeat it is; null where it is none. */
    public FilledBy.Repeat repeat() {
        return by instanceof FilledBy.Repeat its ? its : null;
    }

    /** Tells whether it only picks. */
    public boolean picks() {
        return by instanceof FilledBy.Pick;
    }

    /** Tells whether it sends a secret. */
    public boolean secret() {
        return by instanceof FilledBy.Secret;
    }

    /** Tells whether it copies a subtree. */
    public boolean copies() {
        return by instanceof FilledBy.Copy;
    }

    /** Tells whether it is always nil. */
    public boolean nil() {
        return by instanceof FilledBy.Nil;
    }

    /** Tells whether it gives a value of its own: it neither picks, nor repeats, nor copies a subtree. */
    public boolean givesValue() {
        return by.givesValue();
    }
}
