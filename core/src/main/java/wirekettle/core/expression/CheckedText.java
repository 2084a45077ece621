package wirekettle.core.expression;

import java.util.List;
import java.util.function.BiFunction;
import java.util.function.IntPredicate;
import net.sf.saxon.Configuration;
import net.sf.saxon.regex.RegexIterator;
import net.sf.saxon.regex.RegularExpression;
import net.sf.saxon.str.UnicodeString;
import net.sf.saxon.trans.XPathException;
import net.sf.saxon.tree.iter.AtomicIterator;
import net.sf.saxon.z.IntIterator;

/** A text a regular expression goes back and forth in: it looks now and then whether the evaluation is over. */
final class CheckedText extends UnicodeString {
    private static final int EVERY = 0x3FF;

    private final UnicodeString text;
    private int steps;

    private CheckedText(UnicodeString text) {
        this.text = text;
    }

    private void step() {
        if ((++steps & EVERY) == 0) {
            EvaluationGuard.check();
        }
    }

    @Override
    public long length() {
        return text.length();
    }

    @Override
    public int getWidth() {
        return text.getWidth();
    }

    @Override
    public long indexOf(int point, long from) {
        step();
        return text.indexOf(point, from);
    }

    @Override
    public long indexWhere(IntPredicate wanted, long from) {
        step();
        return text.indexWhere(wanted, from);
    }

    @Override
    public IntIterator codePoints() {
        return text.codePoints();
    }

    @Override
    public int codePointAt(long index) {
        step();
        return text.codePointAt(index);
    }

    @Override
    public UnicodeString substring(long start, long end) {
        return text.substring(start, end);
    }

    @Override
    public UnicodeString tidy() {
        return text.tidy();
    }

    @Override
    public UnicodeString economize() {
        return text.economize();
    }

    @Override
    public String toString() {
        return text.toString();
    }

    private static UnicodeString plain(UnicodeString result) {
        return result instanceof CheckedText checked ? checked.text : result;
    }

    /** The engine's settings with regular expressions that can be ended. */
    static final class Settings extends Configuration {
        @Override
        public RegularExpression compileRegularExpression(
                UnicodeString regex, String flags, String host, List<String> warnings) throws XPathException {
            return new CheckedRegex(super.compileRegularExpression(regex, flags, host, warnings));
        }
    }

    private record CheckedRegex(RegularExpression regex) implements RegularExpression {
        @Override
        public boolean matches(UnicodeString input) {
            return regex.matches(new CheckedText(input));
        }

        @Override
        public boolean containsMatch(UnicodeString input) {
            return regex.containsMatch(new CheckedText(input));
        }

        @Override
        public AtomicIterator tokenize(UnicodeString input) {
            return regex.tokenize(new CheckedText(input));
        }

        @Override
        public RegexIterator analyze(UnicodeString input) {
            return regex.analyze(new CheckedText(input));
        }

        @Override
        public UnicodeString replace(UnicodeString input, UnicodeString replacement) throws XPathException {
            return plain(regex.replace(new CheckedText(input), replacement));
        }

        @Override
        public UnicodeString replaceWith(
                UnicodeString input, BiFunction<UnicodeString, UnicodeString[], UnicodeString> replacer)
                throws XPathException {
            return plain(regex.replaceWith(new CheckedText(input), replacer));
        }

        @Override
        public String getFlags() {
            return regex.getFlags();
        }

        @Override
        public boolean isPlatformNative() {
            return regex.isPlatformNative();
        }
    }
}
