package wirekettle.core.mapping;

import com.fasterxml.jackson.annotation.JsonInclude;
import wirekettle.core.value.ValueFormat;

/**
 * One row of a mapping. Exactly one of wire, constant, expression, repeat and pick is given.
 *
 * @param id stable for the life of the fill
 * @param target the path of the field it fills ({@code /{ns}a/{ns}b/@c}), or the name of a record's column
 * @param wire a path to one value: {@code $loan/crate_no}
 * @param constant a fixed text
 * @param expression XPath 3.1
 * @param repeat a path to repeated nodes; the target repeats once for each
 * @param as the variable each repeated node is bound to, without the dollar sign
 * @param format how the value is read and written, or null
 * @param pick true where only the target itself is chosen: a derived type, a substitute, a branch, a further
 *     occurrence; it is written whenever its parent is
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record Fill(
        String id,
        String target,
        String wire,
        String constant,
        String expression,
        String repeat,
        String as,
        ValueFormat format,
        Boolean pick) {
    /** A fill that gives a value or repeats. */
    public Fill(
            String id,
            String target,
            String wire,
            String constant,
            String expression,
            String repeat,
            String as,
            ValueFormat format) {
        this(id, target, wire, constant, expression, repeat, as, format, null);
    }

    /** Returns a pick. */
    public static Fill pick(String id, String target) {
        return new Fill(id, target, null, null, null, null, null, null, true);
    }

    /** Returns this fill for another target. */
    public Fill to(String other) {
        return new Fill(id, other, wire, constant, expression, repeat, as, format, pick);
    }

    /** Returns this fill under another id. */
    public Fill renamed(String other) {
        return new Fill(other, target, wire, constant, expression, repeat, as, format, pick);
    }

    /** Tells whether it only picks. */
    public boolean picks() {
        return Boolean.TRUE.equals(pick);
    }

    /** Returns a wire. */
    public static Fill wire(String id, String target, String wire) {
        return new Fill(id, target, wire, null, null, null, null, null);
    }

    /** Returns a constant. */
    public static Fill constant(String id, String target, String constant) {
        return new Fill(id, target, null, constant, null, null, null, null);
    }

    /** Returns an expression. */
    public static Fill expression(String id, String target, String expression) {
        return new Fill(id, target, null, null, expression, null, null, null);
    }

    /** Returns a repeat. */
    public static Fill repeat(String id, String target, String repeat, String as) {
        return new Fill(id, target, null, null, null, repeat, as, null);
    }

    /** Returns this fill with a format. */
    public Fill with(ValueFormat other) {
        return new Fill(id, target, wire, constant, expression, repeat, as, other, pick);
    }
}
