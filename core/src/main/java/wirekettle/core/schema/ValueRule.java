package wirekettle.core.schema;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.nio.charset.StandardCharsets;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.regex.Pattern;
import wirekettle.core.value.FixedDate;

/**
 * What a simple type allows, all derivation steps taken together: checks a text, describes itself, makes an example.
 * Immutable; safe for several threads.
 */
public final class ValueRule {
    private final BuiltIn builtIn;
    private final List<Facets> facets;
    private final List<List<Pattern>> patterns;
    private final ValueRule item;
    private final List<ValueRule> members;

    ValueRule(BuiltIn builtIn, List<Facets> facets, ValueRule item, List<ValueRule> members) {
        this.builtIn = builtIn;
        this.facets = List.copyOf(facets);
        this.item = item;
        this.members = members;
        List<List<Pattern>> compiled = new ArrayList<>();
        for (Facets step : facets) {
            List<Pattern> alternatives = new ArrayList<>();
            step.patterns().forEach(p -> {
                Pattern pattern = XsdPattern.compile(p);
                if (pattern != null) {
                    alternatives.add(pattern);
                }
            });
            if (!alternatives.isEmpty()) {
                compiled.add(alternatives);
            }
        }
        this.patterns = compiled;
    }

    ValueRule restricted(Facets more) {
        if (more.equals(Facets.NONE)) {
            return this;
        }
        List<Facets> all = new ArrayList<>(facets);
        all.add(more);
        return new ValueRule(builtIn, all, item, members);
    }

    /** Returns the built-in type it comes from; string for lists and unions. */
    public BuiltIn builtIn() {
        return builtIn;
    }

    /** Returns the values of the narrowest enumeration, empty when there is none. */
    public List<String> enumeration() {
        for (int i = facets.size() - 1; i >= 0; i--) {
            if (!facets.get(i).enumeration().isEmpty()) {
                return facets.get(i).enumeration();
            }
        }
        return List.of();
    }

    /** Returns the most characters allowed, or -1. */
    public int maxLength() {
        int least = -1;
        for (Facets step : facets) {
            Integer max = step.length() != null ? step.length() : step.maxLength();
            if (max != null && (least < 0 || max < least)) {
                least = max;
            }
        }
        return least;
    }

    /** Returns the least characters needed. */
    public int minLength() {
        int most = 0;
        for (Facets step : facets) {
            Integer min = step.length() != null ? step.length() : step.minLength();
            if (min != null && min > most) {
                most = min;
            }
        }
        return most;
    }

    /** Returns the text with white space handled as the type says (part 2, 4.3.6). */
    public String normalized(String text) {
        boolean keep = item == null && members.isEmpty() && builtIn.family() == BuiltIn.Family.STRING;
        for (Facets step : facets) {
            keep = keep && (step.whiteSpace() == null || step.whiteSpace().equals("preserve"));
        }
        return keep || collapsed(text) ? text : text.strip().replaceAll("\\s+", " ");
    }

    /** Tells whether a text has no white space that collapsing would change: nearly always so. */
    private static boolean collapsed(String text) {
        boolean before = true;
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (c > ' ' && c < 0x80 || Character.isLetterOrDigit(c)) {
                before = false;
            } else if (c != ' ' || before) {
                return false;
            } else {
                before = true;
            }
        }
        return !before || text.isEmpty();
    }

    /** Returns what is wrong with {@code text} as a few words after the value ("no decimal"), or null when it fits. */
    public String problem(String text) {
        String value = normalized(text);
        if (!members.isEmpty()) {
            if (members.stream().allMatch(member -> member.problem(value) != null)) {
                return "fits none of the " + members.size() + " allowed types";
            }
        } else if (item != null) {
            for (String part : value.isEmpty() ? new String[0] : value.split(" ")) {
                String wrong = item.problem(part);
                if (wrong != null) {
                    return "item “" + part + "” " + wrong;
                }
            }
        } else {
            String wrong = lexicalProblem(value);
            if (wrong != null) {
                return wrong;
            }
        }
        for (List<Pattern> alternatives : patterns) {
            try {
                if (alternatives.stream().noneMatch(p -> p.matcher(value).matches())) {
                    return "does not match " + alternatives.get(0).pattern();
                }
            } catch (StackOverflowError e) {
                // a repeated group in a pattern takes a frame for each turn
                return "is too long to be held against " + alternatives.get(0).pattern();
            }
        }
        for (Facets step : facets) {
            String wrong = facetProblem(step, value);
            if (wrong != null) {
                return wrong;
            }
        }
        return null;
    }

    /** Tells whether a value is so plainly right that no pattern needs to be asked. */
    private boolean plain(String value) {
        return switch (builtIn.family()) {
            case DECIMAL -> digits(value, true);
            case INTEGER -> builtIn.min() == null && builtIn.max() == null && digits(value, false);
            case TEMPORAL -> builtIn.name().equals("date") && day(value);
            default -> false;
        };
    }

    private static boolean digits(String value, boolean fraction) {
        int points = 0;
        for (int i = 0; i < value.length(); i++) {
            char c = value.charAt(i);
            if (c == '.' && fraction && i > 0) {
                points++;
            } else if (c < '0' || c > '9') {
                return false;
            }
        }
        return !value.isEmpty() && points <= 1;
    }

    private static boolean day(String value) {
        try {
            return FixedDate.ISO.read(value) != null;
        } catch (DateTimeException e) {
            return false;
        }
    }

    private String lexicalProblem(String value) {
        if (plain(value)) {
            return null;
        }
        if (builtIn.lexical() != null && !builtIn.lexical().matcher(value).matches()) {
            return "no " + builtIn.name();
        }
        if (builtIn.family() == BuiltIn.Family.INTEGER && (builtIn.min() != null || builtIn.max() != null)) {
            BigInteger number = new BigInteger(value);
            if (builtIn.min() != null && number.compareTo(builtIn.min()) < 0
                    || builtIn.max() != null && number.compareTo(builtIn.max()) > 0) {
                return "no " + builtIn.name();
            }
        }
        if (builtIn.name().startsWith("date") && value.length() >= 10 && value.charAt(0) != '-') {
            try {
                LocalDate.parse(value.substring(0, value.indexOf('-', value.indexOf('-') + 1) + 3));
            } catch (DateTimeException e) {
                return "no day of the calendar";
            }
        }
        return null;
    }

    private String facetProblem(Facets step, String value) {
        if (!step.enumeration().isEmpty() && !step.enumeration().contains(value)) {
            return "not one of "
                    + String.join(", ", step.enumeration().stream().limit(5).toList());
        }
        int length = length(value);
        if (step.length() != null && length != step.length()) {
            return length + " characters, not " + step.length();
        }
        if (step.maxLength() != null && length > step.maxLength()) {
            return length + " characters, at most " + step.maxLength();
        }
        if (step.minLength() != null && length < step.minLength()) {
            return length + " characters, at least " + step.minLength();
        }
        return boundProblem(step, value);
    }

    private int length(String value) {
        if (item != null) {
            return value.isEmpty() ? 0 : value.split(" ").length;
        }
        return switch (builtIn.family()) {
            case HEX -> value.length() / 2;
            case BASE64 -> {
                try {
                    yield Base64.getMimeDecoder().decode(value.getBytes(StandardCharsets.US_ASCII)).length;
                } catch (IllegalArgumentException e) {
                    yield -1;
                }
            }
            default -> value.codePointCount(0, value.length());
        };
    }

    private String boundProblem(Facets step, String value) {
        if (step.minInclusive() != null && compare(value, step.minInclusive()) < 0) {
            return "less than " + step.minInclusive();
        }
        if (step.maxInclusive() != null && compare(value, step.maxInclusive()) > 0) {
            return "more than " + step.maxInclusive();
        }
        if (step.minExclusive() != null && compare(value, step.minExclusive()) <= 0) {
            return "not more than " + step.minExclusive();
        }
        if (step.maxExclusive() != null && compare(value, step.maxExclusive()) >= 0) {
            return "not less than " + step.maxExclusive();
        }
        if (step.totalDigits() == null && step.fractionDigits() == null) {
            return null;
        }
        BigDecimal number = new BigDecimal(value).stripTrailingZeros();
        int fraction = Math.max(0, number.scale());
        int total = Math.max(number.precision() + Math.max(0, -number.scale()), fraction);
        if (step.fractionDigits() != null && fraction > step.fractionDigits()) {
            return fraction + " decimals, at most " + step.fractionDigits();
        }
        if (step.totalDigits() != null && total > step.totalDigits()) {
            return total + " digits, at most " + step.totalDigits();
        }
        return null;
    }

    private int compare(String a, String b) {
        return switch (builtIn.family()) {
            case DECIMAL, INTEGER -> new BigDecimal(a).compareTo(new BigDecimal(b));
            case FLOAT -> Double.compare(floating(a), floating(b));
            default -> a.compareTo(b);
        };
    }

    private static double floating(String text) {
        return Double.parseDouble(text.replace("INF", "Infinity"));
    }

    /** Returns the type in a few characters for a sheet row: {@code string ≤40}, {@code decimal}, {@code 3 values}. */
    public String label() {
        if (!members.isEmpty()) {
            return "union";
        }
        if (item != null) {
            return "list of " + item.label();
        }
        int max = maxLength();
        return builtIn.name() + (max >= 0 ? (minLength() == max ? " =" : " ≤") + max : "");
    }

    /** Returns the narrowest facets as words, for the detail of a field. */
    public List<String> facetWords() {
        List<String> words = new ArrayList<>();
        for (Facets step : facets) {
            if (!step.patterns().isEmpty()) {
                words.add("pattern " + String.join(" or ", step.patterns()));
            }
            say(words, "at least", step.minInclusive());
            say(words, "at most", step.maxInclusive());
            say(words, "more than", step.minExclusive());
            say(words, "less than", step.maxExclusive());
            say(words, "digits at most", step.totalDigits());
            say(words, "decimals at most", step.fractionDigits());
            say(words, "characters at least", step.minLength());
            say(words, "characters at most", step.maxLength());
            say(words, "characters exactly", step.length());
        }
        return words;
    }

    private static void say(List<String> words, String what, Object value) {
        if (value != null) {
            words.add(what + " " + value);
        }
    }

    /** Returns a valid value, or null when none could be made (a pattern that nothing meets, bounds that cross). */
    public String example() {
        return new ValueExample(this, facets, item, members).make();
    }
}
