package wirekettle.core.fill;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.List;
import java.util.function.Consumer;
import wirekettle.core.value.ValueFormat;

/**
 * One row of a mapping. Exactly one of wire, constant, expression, join, copy, secret, nil, key, repeat and pick says what
 * it is.
 *
 * @param id stable for the life of the fill
 * @param target the path of the field it fills ({@code /{ns}a/{ns}b/@c}), or the name of a record's column
 * @param wire a path to one value: {@code $loan/crate_no}
 * @param constant a fixed text
 * @param expression XPath 3.1
 * @param join several values put together
 * @param copy a path to a node whose fields go to the target's fields of the same names, all the way down
 * @param secret the name of a secret whose value is sent; it is shown and kept nowhere
 * @param nil true where the field is always sent as explicitly nil
 * @param key a path to a repeated node, or a variable: the value is a key made for each, the same in every table
 * @param repeat a path to repeated nodes; the target repeats once for each
 * @param as the variable each repeated node is bound to, without the dollar sign
 * @param each which of the repeated nodes, in what order, or grouped by what; null for all of them as they come
 * @param format how the value is read and written, or null
 * @param lookUp the code table the value is looked up in, or null
 * @param file in a request, the value names a file of a folder, whose content is sent; in a record, the value is
 *     content that is written to a folder, and the column holds the file's name; null for neither
 * @param whenEmpty what happens when there is no value, null for the usual
 * @param when XPath 3.1; the fill counts only for records for which it is true, null for all
 * @param pick true where only the target itself is chosen: a derived type, a substitute, a branch, a further
 *     occurrence; it is written whenever its parent is
 * @param remark what people say of it, or null
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record Fill(
        String id,
        String target,
        String wire,
        String constant,
        String expression,
        Join join,
        String copy,
        String secret,
        Boolean nil,
        String key,
        String repeat,
        String as,
        Each each,
        ValueFormat format,
        LookUp lookUp,
        InFolder file,
        WhenEmpty whenEmpty,
        String when,
        Boolean pick,
        String remark) {
    /**
     * Values put together; those that are empty are passed over with their separator.
     *
     * @param parts paths, or texts in double quotes
     * @param by what stands between two values; a space when null
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Join(List<String> parts, String by) {
        /** Keeps its own copy. */
        public Join {
            parts = parts == null ? List.of() : List.copyOf(parts);
        }
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
     * @param use {@code default} to send a text, {@code leaveOut}, {@code nil}, {@code send} for an empty field, or
     *     {@code reject}
     * @param value the text {@code default} sends
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record WhenEmpty(String use, String value) {}

    /** A fill while it is put together. */
    private static final class Draft {
        private String id;
        private String target;
        private String wire;
        private String constant;
        private String expression;
        private Join join;
        private String copy;
        private String secret;
        private Boolean nil;
        private String key;
        private String repeat;
        private String as;
        private Each each;
        private ValueFormat format;
        private LookUp lookUp;
        private InFolder file;
        private WhenEmpty whenEmpty;
        private String when;
        private Boolean pick;
        private String remark;

        private Fill done() {
            return new Fill(
                    id,
                    target,
                    wire,
                    constant,
                    expression,
                    join,
                    copy,
                    secret,
                    nil,
                    key,
                    repeat,
                    as,
                    each,
                    format,
                    lookUp,
                    file,
                    whenEmpty,
                    when,
                    pick,
                    remark);
        }
    }

    private static Fill made(String id, String target, Consumer<Draft> says) {
        Draft draft = new Draft();
        draft.id = id;
        draft.target = target;
        says.accept(draft);
        return draft.done();
    }

    private Fill changed(Consumer<Draft> change) {
        return made(id, target, d -> {
            d.wire = wire;
            d.constant = constant;
            d.expression = expression;
            d.join = join;
            d.copy = copy;
            d.secret = secret;
            d.nil = nil;
            d.key = key;
            d.repeat = repeat;
            d.as = as;
            d.each = each;
            d.format = format;
            d.lookUp = lookUp;
            d.file = file;
            d.whenEmpty = whenEmpty;
            d.when = when;
            d.pick = pick;
            d.remark = remark;
            change.accept(d);
        });
    }

    /** Returns a pick. */
    public static Fill pick(String id, String target) {
        return made(id, target, d -> d.pick = true);
    }

    /** Returns a wire. */
    public static Fill wire(String id, String target, String wire) {
        return made(id, target, d -> d.wire = wire);
    }

    /** Returns a constant. */
    public static Fill constant(String id, String target, String constant) {
        return made(id, target, d -> d.constant = constant);
    }

    /** Returns an expression. */
    public static Fill expression(String id, String target, String expression) {
        return made(id, target, d -> d.expression = expression);
    }

    /** Returns a repeat. */
    public static Fill repeat(String id, String target, String repeat, String as) {
        return made(id, target, d -> {
            d.repeat = repeat;
            d.as = as;
        });
    }

    /** Returns a fill that puts values together. */
    public static Fill join(String id, String target, String by, String... parts) {
        return made(id, target, d -> d.join = new Join(List.of(parts), by));
    }

    /** Returns a fill of a whole subtree. */
    public static Fill copy(String id, String target, String from) {
        return made(id, target, d -> d.copy = from);
    }

    /** Returns a fill that sends a secret. */
    public static Fill secret(String id, String target, String name) {
        return made(id, target, d -> d.secret = name);
    }

    /** Returns a fill that is always nil. */
    public static Fill nil(String id, String target) {
        return made(id, target, d -> d.nil = true);
    }

    /** Returns a fill that makes a key for each node a path leads to. */
    public static Fill key(String id, String target, String of) {
        return made(id, target, d -> d.key = of);
    }

    /** Returns this fill for another target. */
    public Fill to(String other) {
        return changed(d -> d.target = other);
    }

    /** Returns this fill under another id. */
    public Fill renamed(String other) {
        return changed(d -> d.id = other);
    }

    /** Returns this fill with a format. */
    public Fill with(ValueFormat other) {
        return changed(d -> d.format = other);
    }

    /** Returns this repeat over other nodes of the same path. */
    public Fill with(Each other) {
        return changed(d -> d.each = other);
    }

    /** Returns this repeat with each node bound to another variable. */
    public Fill bound(String variable) {
        return changed(d -> d.as = variable);
    }

    /** Returns this join with another text between its values. */
    public Fill joinedBy(String between) {
        return changed(d -> d.join = new Join(join.parts(), between));
    }

    /** Returns this fill with a look-up. */
    public Fill with(LookUp other) {
        return changed(d -> d.lookUp = other);
    }

    /** Returns this fill with a file of a folder. */
    public Fill with(InFolder other) {
        return changed(d -> d.file = other);
    }

    /** Returns this fill with what happens when there is no value. */
    public Fill with(WhenEmpty other) {
        return changed(d -> d.whenEmpty = other);
    }

    /** Returns this fill for some records only. */
    public Fill onlyWhen(String condition) {
        return changed(d -> d.when = condition);
    }

    /** Returns this fill with a remark. */
    public Fill remarked(String text) {
        return changed(d -> d.remark = text);
    }

    /** Tells whether it only picks. */
    public boolean picks() {
        return Boolean.TRUE.equals(pick);
    }

    /** Tells whether it gives a value of its own: it neither picks, nor repeats, nor copies a subtree. */
    public boolean givesValue() {
        return !picks() && repeat == null && copy == null;
    }
}
