package wirekettle.core.mapping;

import java.util.Set;
import wirekettle.core.value.Conversion;
import wirekettle.core.value.ConversionException;
import wirekettle.core.value.Node;

/** Where the value of one fill comes from, compiled. Safe for several threads. */
abstract class ValueSource {
    /** Returns the value before its format is applied; null when there is none. */
    abstract String raw(Scope scope) throws ExpressionProblem;

    /** Compiles a fill that is a wire, a constant or an expression. */
    static ValueSource of(Fill fill, Expressions expressions, Set<String> known) throws ExpressionProblem {
        if (fill.constant() != null) {
            String constant = fill.constant();
            return new ValueSource() {
                @Override
                String raw(Scope scope) {
                    return constant;
                }
            };
        }
        if (fill.wire() != null) {
            return wire(fill.wire(), known);
        }
        if (fill.expression() == null) {
            throw new ExpressionProblem("the fill has neither wire nor constant nor expression", 0);
        }
        Expressions.Compiled compiled = expressions.compile(fill.expression(), known);
        return new ValueSource() {
            @Override
            String raw(Scope scope) throws ExpressionProblem {
                return compiled.text(scope);
            }
        };
    }

    private static ValueSource wire(String wire, Set<String> known) throws ExpressionProblem {
        WirePath path;
        try {
            path = WirePath.parse(wire);
        } catch (IllegalArgumentException e) {
            throw new ExpressionProblem(e.getMessage(), 0);
        }
        if (known != null && !known.contains(path.variable())) {
            throw new ExpressionProblem(
                    "$" + path.variable() + " is not known here; in reach are $" + String.join(", $", known), 0);
        }
        return new ValueSource() {
            @Override
            String raw(Scope scope) {
                Node node = path.first(scope);
                return node == null || node.nil() ? null : node.text();
            }
        };
    }

    /** Compiles a fill's format; null when it has none. */
    static Conversion conversion(Fill fill) throws ExpressionProblem {
        try {
            return fill.format() == null ? null : fill.format().compile();
        } catch (IllegalArgumentException e) {
            throw new ExpressionProblem("the format is not usable: " + e.getMessage(), 0);
        }
    }

    /** Returns the converted value, null or empty when there is none. */
    static String value(ValueSource source, Conversion conversion, Scope scope)
            throws ExpressionProblem, ConversionException {
        String raw = source.raw(scope);
        return conversion == null || raw == null || raw.isEmpty() ? raw : conversion.convert(raw);
    }
}
