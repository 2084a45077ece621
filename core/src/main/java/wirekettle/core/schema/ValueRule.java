package wirekettle.core.schema;

import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.regex.Pattern;

/**
 * What a simple type allows, all derivation steps taken together: checks a text, describes itself, makes an example.
 * Immutable; safe for several threads.
 */
public final class ValueRule {
    /** What XML calls white space (XML 1.0, 2.3): other spaces are characters like any. */
    private static final Pattern WHITE = Pattern.compile("[ \\t\\r\\n]+");

    private static final Pattern WHITE_AROUND = Pattern.compile("^ | $");

    private final BuiltIn builtIn;
    private final List<Facets> facets;
    /** What is said of a value that is not among those listed, for each of the facets. */
    private final List<String> otherwise;

    private final List<List<XsdPattern>> patterns;
    private final ValueRule item;
    private final List<ValueRule> members;

    ValueRule(BuiltIn builtIn, List<Facets> facets, ValueRule item, List<ValueRule> members) {
        this.builtIn = builtIn;
        this.facets = List.copyOf(facets);
        this.otherwise = facets.stream().map(ValueRule::otherwise).toList();
        this.item = item;
        this.members = members;
        List<List<XsdPattern>> compiled = new ArrayList<>();
        for (Facets step : facets) {
            List<XsdPattern> alternatives = new ArrayList<>();
            step.patterns().forEach(p -> {
                XsdPattern pattern = XsdPattern.of(p);
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
        return keep || collapsed(text)
                ? text
                : WHITE_AROUND.matcher(WHITE.matcher(text).replaceAll(" ")).replaceAll("");
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

    /** Tells whether a text is a name whose meaning hangs on a prefix declared around it. */
    public boolean prefixed(String text) {
        return builtIn != null && builtIn.family() == BuiltIn.Family.QNAME && text.indexOf(':') >= 0;
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
            String wrong = LexicalSpace.problem(builtIn, value);
            if (wrong != null) {
                return wrong;
            }
        }
        for (List<XsdPattern> alternatives : patterns) {
            XsdPattern.Match best = XsdPattern.Match.NO;
            for (XsdPattern pattern : alternatives) {
                XsdPattern.Match match = pattern.match(value);
                best = best == XsdPattern.Match.YES || match == XsdPattern.Match.NO ? best : match;
            }
            if (best == XsdPattern.Match.NO) {
                return "does not match " + alternatives.get(0);
            }
            if (best == XsdPattern.Match.UNDECIDED) {
                return "is too long to be held against " + alternatives.get(0);
            }
        }
        for (int i = 0; i < facets.size(); i++) {
            Facets step = facets.get(i);
            if (!step.enumeration().isEmpty() && !step.enumeration().contains(value)) {
                return otherwise.get(i);
            }
            String wrong = facetProblem(step, value);
            if (wrong != null) {
                return wrong;
            }
        }
        return null;
    }

    private static String otherwise(Facets step) {
        return "not one of "
                + String.join(", ", step.enumeration().stream().limit(5).toList());
    }

    private String facetProblem(Facets step, String value) {
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
        String beyond = beyond(value, step.minInclusive(), "less than ", 0, 1);
        beyond = beyond != null ? beyond : beyond(value, step.maxInclusive(), "more than ", -1, 0);
        beyond = beyond != null ? beyond : beyond(value, step.minExclusive(), "not more than ", 1, 1);
        beyond = beyond != null ? beyond : beyond(value, step.maxExclusive(), "not less than ", -1, -1);
        if (beyond != null) {
            return beyond;
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

    /** Returns what is wrong when a value does not lie to a bound as it has to; null when it does. */
    private String beyond(String value, String bound, String words, int least, int most) {
        if (bound == null) {
            return null;
        }
        Integer order = ValueOrder.compare(builtIn.family(), value, bound);
        if (order == null) {
            return "cannot be compared with " + bound;
        }
        return Integer.signum(order) < least || Integer.signum(order) > most ? words + bound : null;
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
