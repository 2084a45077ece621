package wirekettle.core.expression;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import wirekettle.core.value.Node;

/**
 * An expression of nothing but paths, texts and a few text functions, or two decimals of these compared, worked out
 * without the expression engine: the most common ones are so plain. Where a value is not plainly one text the engine is
 * asked, so that both always agree.
 */
public final class PlainExpression {
    /** What one part gives; null when the engine has to be asked. */
    private interface Part {
        public String text(Scope scope);
    }

    private static final String DECIMAL = "xs:decimal(";
    /** Of more digits than an implementation has to support (XML Schema 1.0 part 2, 5.4) the engine is asked. */
    private static final int MOST_DIGITS = 17;

    /** How two values are compared. */
    private enum Sign {
        EQ,
        NE,
        LT,
        LE,
        GT,
        GE;

        boolean holds(int order) {
            return switch (this) {
                case EQ -> order == 0;
                case NE -> order != 0;
                case LT -> order < 0;
                case LE -> order <= 0;
                case GT -> order > 0;
                case GE -> order >= 0;
            };
        }
    }

    private final Part part;

    private PlainExpression(Part part) {
        this.part = part;
    }

    /** Returns the plain form of a sound expression, null when it is more than that. */
    public static PlainExpression of(String expression, Set<String> known) {
        Reader reader = new Reader(expression, known);
        Part part = reader.whole();
        return part == null || !reader.atEnd() || reader.isPath ? null : new PlainExpression(part);
    }

    /** Returns the value, null when the engine has to be asked. */
    public String text(Scope scope) {
        return part.text(scope);
    }

    /** Reads the grammar this class covers (XPath 3.1, 3.6 string concatenation, 3.1.5 static function calls). */
    private static final class Reader {
        private final String text;
        private final Set<String> known;
        private int at;
        private boolean isPath;

        Reader(String text, Set<String> known) {
            this.text = text;
            this.known = known;
        }

        boolean atEnd() {
            spaces();
            return at == text.length();
        }

        private void spaces() {
            while (at < text.length() && " \t\r\n".indexOf(text.charAt(at)) >= 0) {
                at++;
            }
        }

        private boolean take(String wanted) {
            spaces();
            if (text.startsWith(wanted, at)) {
                at += wanted.length();
                return true;
            }
            return false;
        }

        /** A text, or two decimals compared (XPath 3.1, 3.7.1). */
        Part whole() {
            if (!text.startsWith(DECIMAL)) {
                return concatenation();
            }
            Part left = decimal();
            Sign sign = left == null ? null : sign();
            Part right = sign == null ? null : decimal();
            return right == null ? null : compared(left, sign, right);
        }

        private Part decimal() {
            Part of = take(DECIMAL) ? concatenation() : null;
            isPath = false;
            return of != null && take(")") ? of : null;
        }

        private Sign sign() {
            for (Sign sign : Sign.values()) {
                if (take(sign.name().toLowerCase(Locale.ROOT) + " ")) {
                    return sign;
                }
            }
            return null;
        }

        /** What is no plain decimal, and an empty one, is the engine's to judge. */
        private static Part compared(Part left, Sign sign, Part right) {
            return scope -> {
                BigDecimal one = number(left.text(scope));
                BigDecimal other = one == null ? null : number(right.text(scope));
                return other == null ? null : Boolean.toString(sign.holds(one.compareTo(other)));
            };
        }

        private static BigDecimal number(String value) {
            if (value == null || value.isEmpty() || value.length() > MOST_DIGITS) {
                return null;
            }
            int points = 0;
            for (int i = 0; i < value.length(); i++) {
                char c = value.charAt(i);
                points += c == '.' ? 1 : 0;
                boolean fine =
                        c >= '0' && c <= '9' || c == '.' && i > 0 && i < value.length() - 1 || c == '-' && i == 0;
                if (!fine || points > 1) {
                    return null;
                }
            }
            return value.equals("-") ? null : new BigDecimal(value);
        }

        Part concatenation() {
            List<Part> parts = new ArrayList<>();
            do {
                Part one = one();
                if (one == null) {
                    return null;
                }
                parts.add(one);
            } while (take("||"));
            isPath &= parts.size() == 1;
            return parts.size() == 1 ? parts.get(0) : joined(parts);
        }

        private Part one() {
            spaces();
            isPath = false;
            if (at >= text.length()) {
                return null;
            }
            char c = text.charAt(at);
            if (c == '"' || c == '\'') {
                return literal(c);
            }
            return c == '$' ? path() : call();
        }

        private Part literal(char quote) {
            int end = text.indexOf(quote, at + 1);
            boolean doubled = end >= 0 && end + 1 < text.length() && text.charAt(end + 1) == quote;
            if (end < 0 || doubled) {
                return null;
            }
            String value = text.substring(at + 1, end);
            at = end + 1;
            return scope -> value;
        }

        private Part path() {
            int end = at + 1;
            while (end < text.length()
                    && (Character.isLetterOrDigit(text.charAt(end)) || "_-./@".indexOf(text.charAt(end)) >= 0)) {
                end++;
            }
            String path = text.substring(at, end);
            if (!WirePath.isPath(path) || WirePath.reservedName(path)) {
                return null;
            }
            WirePath wire = WirePath.parse(path);
            if (known != null && !known.contains(wire.variable())) {
                return null;
            }
            at = end;
            isPath = true;
            return scope -> {
                Node node = wire.only(scope);
                return node == null || !node.children().isEmpty() ? null : node.text();
            };
        }

        private Part call() {
            int end = at;
            while (end < text.length() && (Character.isLetter(text.charAt(end)) || text.charAt(end) == '-')) {
                end++;
            }
            String name = text.substring(at, end);
            at = end;
            if (!take("(")) {
                return null;
            }
            List<Part> arguments = new ArrayList<>();
            List<Integer> numbers = new ArrayList<>();
            do {
                Integer number = name.equals("substring") && !arguments.isEmpty() ? number() : null;
                if (number != null) {
                    numbers.add(number);
                } else {
                    Part argument = numbers.isEmpty() ? concatenation() : null;
                    if (argument == null) {
                        return null;
                    }
                    arguments.add(argument);
                }
            } while (take(","));
            isPath = false;
            return take(")") ? function(name, arguments, numbers) : null;
        }

        private Integer number() {
            spaces();
            int end = at;
            while (end < text.length() && end - at < 6 && Character.digit(text.charAt(end), 10) >= 0) {
                end++;
            }
            if (end == at) {
                return null;
            }
            int value = Integer.parseInt(text.substring(at, end));
            at = end;
            return value;
        }

        private static Part function(String name, List<Part> arguments, List<Integer> numbers) {
            Part first = arguments.get(0);
            boolean one = arguments.size() == 1 && numbers.isEmpty();
            return switch (name) {
                case "concat" -> arguments.size() > 1 ? joined(arguments) : null;
                case "string" -> one ? first : null;
                case "upper-case" -> one ? scope -> ascii(first.text(scope), true) : null;
                case "lower-case" -> one ? scope -> ascii(first.text(scope), false) : null;
                case "translate" -> arguments.size() == 3 && numbers.isEmpty()
                        ? translated(first, arguments.get(1), arguments.get(2))
                        : null;
                case "substring" -> arguments.size() == 1 && !numbers.isEmpty() && numbers.size() < 3
                        ? substring(first, numbers.get(0), numbers.size() == 2 ? numbers.get(1) : Integer.MAX_VALUE)
                        : null;
                default -> null;
            };
        }

        private static Part joined(List<Part> parts) {
            Part[] all = parts.toArray(Part[]::new);
            return scope -> {
                StringBuilder out = new StringBuilder();
                for (Part part : all) {
                    String value = part.text(scope);
                    if (value == null) {
                        return null;
                    }
                    out.append(value);
                }
                return out.toString();
            };
        }

        /** Other letters have rules of their own, which the engine knows. */
        private static String ascii(String value, boolean upper) {
            if (value == null || !value.chars().allMatch(c -> c < 0x80)) {
                return null;
            }
            return upper ? value.toUpperCase(java.util.Locale.ROOT) : value.toLowerCase(java.util.Locale.ROOT);
        }

        /** Each character of one text becomes the one at its place in another, or goes (XPath functions 3.1, 5.4.9). */
        private static Part translated(Part of, Part from, Part to) {
            return scope -> {
                String value = of.text(scope);
                String these = from.text(scope);
                String those = to.text(scope);
                if (value == null || these == null || those == null || !oneUnitEach(these + those)) {
                    return null;
                }
                StringBuilder out = new StringBuilder(value.length());
                for (int i = 0; i < value.length(); i++) {
                    int at = these.indexOf(value.charAt(i));
                    if (at < 0) {
                        out.append(value.charAt(i));
                    } else if (at < those.length()) {
                        out.append(those.charAt(at));
                    }
                }
                return out.toString();
            };
        }

        private static boolean oneUnitEach(String text) {
            return text.chars().noneMatch(c -> Character.isSurrogate((char) c));
        }

        /** Characters from {@code start}, counted from 1 (XPath functions 3.1, 5.4.3). */
        private static Part substring(Part of, int start, int length) {
            return scope -> {
                String value = of.text(scope);
                if (value == null || !oneUnitEach(value)) {
                    return null;
                }
                long end = Math.min((long) value.length(), (long) start + length - 1);
                int from = Math.min(value.length(), Math.max(0, start - 1));
                return from >= end ? "" : value.substring(from, (int) end);
            };
        }
    }
}
