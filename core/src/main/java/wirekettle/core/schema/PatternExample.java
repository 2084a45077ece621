package wirekettle.core.schema;

import java.util.Optional;

/** Makes a text that matches an XML Schema regular expression, as short as the expression and a least length allow. */
final class PatternExample {
    private static final String TRY = "A1a0Bb2Zz9-_ .,:/@+#()&%xy";

    private final String source;
    private final int extra;
    private int at;

    private PatternExample(String source, int extra) {
        this.source = source;
        this.extra = extra;
    }

    /** Returns a matching text of at least {@code minLength} characters, or empty when none was found. */
    static Optional<String> of(String expression, int minLength, int maxLength) {
        XsdPattern check = XsdPattern.of(expression);
        if (check == null) {
            return Optional.empty();
        }
        for (int extra = 0; extra <= Math.min(Math.max(minLength, 1), 2000); extra++) {
            try {
                String made = new PatternExample(expression, extra).alternatives();
                if (made.length() >= minLength && made.length() <= maxLength && check.matches(made)) {
                    return Optional.of(made);
                }
            } catch (RuntimeException e) {
                return Optional.empty();
            }
        }
        return Optional.empty();
    }

    private String alternatives() {
        String first = branch();
        while (at < source.length() && source.charAt(at) == '|') {
            at++;
            String other = branch();
            if (other.length() > first.length() && extra > 0) {
                first = other;
            }
        }
        return first;
    }

    private String branch() {
        StringBuilder out = new StringBuilder();
        while (at < source.length() && source.charAt(at) != '|' && source.charAt(at) != ')') {
            int start = at;
            String atom = atom();
            String atomSource = source.substring(start, at);
            int[] times = quantifier();
            int n = times[1] < 0 ? times[0] + extra : Math.min(times[1], times[0] + extra);
            if (n == 0 && times[1] != 0 && atomSource.isEmpty()) {
                n = 1;
            }
            out.append(atom.repeat(n));
        }
        return out.toString();
    }

    private String atom() {
        char c = source.charAt(at);
        if (c == '(') {
            at++;
            String inner = alternatives();
            at++;
            return inner;
        }
        int start = at;
        if (c == '[') {
            int depth = 0;
            do {
                char d = source.charAt(at++);
                if (d == '\\') {
                    at++;
                } else if (d == '[') {
                    depth++;
                } else if (d == ']') {
                    depth--;
                }
            } while (depth > 0);
            return oneOf(source.substring(start, at));
        }
        if (c == '\\') {
            char kind = source.charAt(at + 1);
            at = kind == 'p' || kind == 'P' ? source.indexOf('}', at) + 1 : at + 2;
            return oneOf(source.substring(start, at));
        }
        at++;
        return c == '.' ? "A" : String.valueOf(c);
    }

    private static String oneOf(String set) {
        XsdPattern pattern = XsdPattern.of(set);
        for (int i = 0; i < TRY.length(); i++) {
            String candidate = TRY.substring(i, i + 1);
            if (pattern.matches(candidate)) {
                return candidate;
            }
        }
        for (char c = ' '; c < 0x3000; c++) {
            if (pattern.matches(String.valueOf(c))) {
                return String.valueOf(c);
            }
        }
        throw new IllegalArgumentException("nothing matches " + set);
    }

    private int[] quantifier() {
        if (at >= source.length()) {
            return new int[] {1, 1};
        }
        switch (source.charAt(at)) {
            case '?' -> {
                at++;
                return new int[] {0, 1};
            }
            case '*' -> {
                at++;
                return new int[] {0, -1};
            }
            case '+' -> {
                at++;
                return new int[] {1, -1};
            }
            case '{' -> {
                int close = source.indexOf('}', at);
                String[] parts = source.substring(at + 1, close).split(",", -1);
                at = close + 1;
                int min = Integer.parseInt(parts[0].strip());
                int max = parts.length == 1 ? min : parts[1].isBlank() ? -1 : Integer.parseInt(parts[1].strip());
                return new int[] {min, max};
            }
            default -> {
                return new int[] {1, 1};
            }
        }
    }
}
