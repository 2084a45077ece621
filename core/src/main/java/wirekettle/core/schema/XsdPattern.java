package wirekettle.core.schema;

import java.util.regex.Pattern;
import java.util.regex.PatternSyntaxException;

/** Translates XML Schema regular expressions (part 2, appendix F) to Java's. */
public final class XsdPattern {
    private static final String NAME_START = "\\p{L}_:";
    private static final String NAME_CHAR = "\\p{L}\\p{N}\\p{M}._:\\-\u00B7";

    private XsdPattern() {}

    /** Returns the compiled expression, or null when it is not one. */
    public static Pattern compile(String expression) {
        try {
            return Pattern.compile(translate(expression));
        } catch (PatternSyntaxException e) {
            return null;
        }
    }

    private static String translate(String expression) {
        StringBuilder out = new StringBuilder();
        int brackets = 0;
        for (int i = 0; i < expression.length(); i++) {
            char c = expression.charAt(i);
            if (c == '\\' && i + 1 < expression.length()) {
                char next = expression.charAt(++i);
                out.append(escape(next, brackets > 0));
                if ((next == 'p' || next == 'P') && expression.startsWith("{Is", i + 1)) {
                    out.append("{In");
                    i += 3;
                }
            } else if (c == '[') {
                brackets++;
                out.append('[');
            } else if (c == ']') {
                brackets--;
                out.append(']');
            } else if (brackets > 0 && c == '-' && expression.startsWith("-[", i)) {
                int close = expression.indexOf(']', i);
                out.append("&&[^")
                        .append(translate(expression.substring(i + 2, close)).replaceFirst("^\\^", ""));
                out.append(']');
                i = close;
            } else if (brackets > 0 && c == '&') {
                out.append("\\&");
            } else if (brackets == 0 && (c == '^' || c == '$')) {
                out.append('\\').append(c);
            } else {
                out.append(c);
            }
        }
        return out.toString();
    }

    private static String escape(char c, boolean inClass) {
        String set =
                switch (c) {
                    case 'i' -> NAME_START;
                    case 'c' -> NAME_CHAR;
                    default -> null;
                };
        if (set != null) {
            return inClass ? set : "[" + set + "]";
        }
        return switch (c) {
            case 'I' -> "[^" + NAME_START + "]";
            case 'C' -> "[^" + NAME_CHAR + "]";
            case 'd' -> "\\p{Nd}";
            case 'D' -> "\\P{Nd}";
            case 'w' -> inClass ? "\\p{L}\\p{M}\\p{N}\\p{S}" : "[\\p{L}\\p{M}\\p{N}\\p{S}]";
            case 'W' -> "[\\p{P}\\p{Z}\\p{C}]";
            default -> "\\" + c;
        };
    }
}
