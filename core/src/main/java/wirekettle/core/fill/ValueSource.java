package wirekettle.core.fill;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.PlainExpression;
import wirekettle.core.expression.Scope;
import wirekettle.core.expression.WirePath;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.value.Node;

/** Where the value of one fill comes from, compiled. Safe for several threads. */
@FunctionalInterface
public interface ValueSource {
    /** Returns the value before its format is applied; null when there is none. */
    String raw(Scope scope) throws ExpressionProblem;

    /** Returns the node the value is the text of, null when it is no single node's. */
    default Node node(Scope scope) {
        return null;
    }

    /** Compiles where a fill's value comes from. */
    static ValueSource of(Fill fill, Expressions expressions, Set<String> known) throws ExpressionProblem {
        FilledBy by = fill.by();
        if (by instanceof FilledBy.Constant constant) {
            return scope -> constant.text();
        }
        if (by instanceof FilledBy.Wire wire) {
            return wire(wire.path(), known);
        }
        if (by instanceof FilledBy.Expression expression) {
            return expression(expression.xpath(), expressions, known);
        }
        if (by instanceof FilledBy.Join join) {
            return join(join, known);
        }
        if (by instanceof FilledBy.Secret secret) {
            return secret(secret.name());
        }
        if (by instanceof FilledBy.Key key) {
            return key(path(key.of(), known));
        }
        if (by instanceof FilledBy.Number number) {
            return number(number.series());
        }
        throw new ExpressionProblem("the fill says nothing: give it a field, a text or an expression", 0);
    }

    /** Reads a path whose variable is in reach. */
    static WirePath path(String text, Set<String> known) throws ExpressionProblem {
        WirePath path;
        try {
            path = WirePath.parse(text);
        } catch (IllegalArgumentException e) {
            throw new ExpressionProblem(e.getMessage(), 0);
        }
        if (known != null && !known.contains(path.variable())) {
            throw new ExpressionProblem(
                    "$" + path.variable() + " is not known here; in reach are $" + String.join(", $", known), 0);
        }
        return path;
    }

    private static ValueSource wire(String wire, Set<String> known) throws ExpressionProblem {
        WirePath path = path(wire, known);
        return new ValueSource() {
            @Override
            public String raw(Scope scope) {
                Node node = path.first(scope);
                return node == null || node.nil() ? null : node.text();
            }

            @Override
            public Node node(Scope scope) {
                return path.first(scope);
            }
        };
    }

    private static ValueSource expression(String text, Expressions expressions, Set<String> known)
            throws ExpressionProblem {
        Expressions.Compiled compiled = expressions.compile(text, known);
        PlainExpression plain = PlainExpression.of(text, known);
        return plain == null
                ? compiled::text
                : scope -> {
                    String value = plain.text(scope);
                    return value == null ? compiled.text(scope) : value;
                };
    }

    private static ValueSource join(FilledBy.Join join, Set<String> known) throws ExpressionProblem {
        List<ValueSource> parts = new ArrayList<>();
        for (String part : join.parts()) {
            boolean text = part.length() >= 2 && part.startsWith("\"") && part.endsWith("\"");
            String constant = text ? part.substring(1, part.length() - 1) : null;
            parts.add(text ? scope -> constant : wire(part, known));
        }
        if (parts.isEmpty()) {
            throw new ExpressionProblem("nothing is put together: add fields", 0);
        }
        String by = join.by() == null ? " " : join.by();
        return scope -> {
            StringBuilder out = new StringBuilder();
            for (ValueSource part : parts) {
                String value = part.raw(scope);
                if (value != null && !value.isEmpty()) {
                    out.append(out.length() == 0 ? "" : by).append(value);
                }
            }
            return out.toString();
        };
    }

    private static ValueSource number(String series) {
        return scope -> {
            Node drawn = scope.get(FilledBy.Number.DRAWN);
            for (Node each : drawn == null ? List.<Node>of() : drawn.children()) {
                if (series.equals(each.textOf("series"))) {
                    return each.textOf("text");
                }
            }
            throw new ExpressionProblem("no number of the series “" + series + "” was drawn", 0);
        };
    }

    private static ValueSource secret(String name) {
        return scope -> {
            try {
                return scope.secret(name);
            } catch (Secrets.SecretMissing e) {
                throw new ExpressionProblem(e.getMessage(), 0);
            }
        };
    }

    /** A key is the record's, and the place of the node among those its path leads to. */
    private static ValueSource key(WirePath path) {
        return scope -> {
            Node run = scope.get("run");
            String record = run == null ? "" : run.textOf("id") + "-" + run.textOf("record");
            if (path.steps().isEmpty()) {
                return record;
            }
            int place = path.place(scope);
            return place < 0 ? null : record + "-" + (place + 1);
        };
    }
}
