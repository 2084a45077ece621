package wirekettle.core.schema;

import java.util.regex.PatternSyntaxException;

/**
 * An XML Schema regular expression (part 2, appendix F), ready to be held against values. It runs in time that grows
 * with the value's length and no faster; where an expression is too large for that, it stops after a number of steps.
 * Safe for several threads.
 */
public final class XsdPattern {
    private static final int MOST_LINEAR = 1_000;
    private static final int MOST_STEPS = 2_000_000;

    /** What became of holding a value against a pattern. */
    public enum Match {
        /** The whole value matches. */
        YES,
        /** It does not. */
        NO,
        /** It could not be found out within the steps there are. */
        UNDECIDED
    }

    private final String source;
    private final com.google.re2j.Pattern linear;
    private final java.util.regex.Pattern stepwise;
    private final boolean nested;

    private XsdPattern(
            String source, com.google.re2j.Pattern linear, java.util.regex.Pattern stepwise, boolean nested) {
        this.source = source;
        this.linear = linear;
        this.stepwise = stepwise;
        this.nested = nested;
    }

    /** Returns the pattern of an expression, null when it is not one. */
    public static XsdPattern of(String expression) {
        PatternText text;
        java.util.regex.Pattern stepwise;
        try {
            text = PatternText.of(expression);
            stepwise = java.util.regex.Pattern.compile(text.text());
        } catch (PatternSyntaxException | StackOverflowError e) {
            return null;
        }
        return new XsdPattern(expression, linear(text), stepwise, text.nested());
    }

    private static com.google.re2j.Pattern linear(PatternText text) {
        if (text.size() > MOST_LINEAR) {
            return null;
        }
        try {
            return com.google.re2j.Pattern.compile(text.text());
        } catch (com.google.re2j.PatternSyntaxException e) {
            return null;
        }
    }

    /** Tells whether something repeated is repeated again: what other engines may need very long for. */
    boolean nested() {
        return nested;
    }

    /** Returns whether a whole value matches. */
    public Match match(String value) {
        if (linear != null) {
            return linear.matches(value) ? Match.YES : Match.NO;
        }
        try {
            return stepwise.matcher(new Stepped(value)).matches() ? Match.YES : Match.NO;
        } catch (Stepped.TooMany | StackOverflowError e) {
            return Match.UNDECIDED;
        }
    }

    /** Tells whether a whole value matches for certain. */
    public boolean matches(String value) {
        return match(value) == Match.YES;
    }

    /** Returns the expression. */
    @Override
    public String toString() {
        return source;
    }

    /** A text of which only so many characters may be looked at: an engine that goes back and forth ends. */
    private static final class Stepped implements CharSequence {
        private final String text;
        private int steps;

        Stepped(String text) {
            this.text = text;
        }

        static final class TooMany extends RuntimeException {
            TooMany() {
                super(null, null, false, false);
            }
        }

        @Override
        public char charAt(int index) {
            if (++steps > MOST_STEPS) {
                throw new TooMany();
            }
            return text.charAt(index);
        }

        @Override
        public int length() {
            return text.length();
        }

        @Override
        public CharSequence subSequence(int start, int end) {
            return text.subSequence(start, end);
        }
    }
}
