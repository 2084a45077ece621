package wirekettle.core.assist;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.CompiledFill;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.FillFailure;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.RepeatedNodes;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.value.Conversion;
import wirekettle.core.value.ConversionException;
import wirekettle.core.value.Node;
import wirekettle.core.value.ValueFormat;
import wirekettle.core.value.XmlText;

/** Finds the one format that mends most values that do not fit their target. */
public final class Fixes {
    private static final String XML_CHARACTERS = "\\t\\n\\r\\x{20}-\\x{D7FF}\\x{E000}-\\x{FFFD}\\x{10000}-\\x{10FFFF}";
    private static final List<String> DATES = List.of(
            "dd.MM.yyyy", "dd/MM/yyyy", "MM/dd/yyyy", "yyyyMMdd", "d.M.yyyy", "dd.MM.yy", "dd-MMM-yyyy", "yyyy/MM/dd");
    private static final List<String> TIMES = List.of(
            "yyyy-MM-dd HH:mm:ss", "yyyy-MM-dd HH:mm", "dd.MM.yyyy HH:mm:ss", "dd.MM.yyyy HH:mm", "MM/dd/yyyy HH:mm");

    /**
     * A format that mends values.
     *
     * @param label what it does, in words: "read 96,5 as 96.5"
     * @param format the whole format the fill gets
     * @param mends how many of the values that do not fit it mends
     * @param of how many do not fit
     */
    public record Fix(String label, ValueFormat format, int mends, int of) {}

    private Fixes() {}

    /**
     * Returns the best fix, null when none mends anything.
     *
     * @param misfits values as they come from their source, before any format
     * @param now the format the fill has, or null
     * @param inferred the format inferred for the source field, or null
     */
    public static Fix best(List<String> misfits, ValueRule rule, ValueFormat now, ValueFormat inferred) {
        Fix best = null;
        for (Candidate candidate : candidates(rule, inferred)) {
            List<ValueFormat> ways = new ArrayList<>();
            if (now != null) {
                ways.add(now.then(candidate.format()));
            }
            ways.add(candidate.format());
            for (ValueFormat way : ways) {
                Fix fix = tried(misfits, rule, way, candidate);
                if (fix != null && (best == null || fix.mends() > best.mends())) {
                    best = fix;
                }
            }
        }
        return best;
    }

    private record Candidate(ValueFormat format, String label) {}

    private static List<Candidate> candidates(ValueRule rule, ValueFormat inferred) {
        List<Candidate> all = new ArrayList<>();
        if (inferred != null) {
            all.add(new Candidate(inferred, null));
        }
        all.add(new Candidate(ValueFormat.trim(), "leave out spaces around it"));
        // what is a number already is rounded before it is read in another way
        for (int decimals : new int[] {2, 0, 1, 3, 4}) {
            all.add(new Candidate(ValueFormat.rounded(decimals), "round to " + decimals + " decimals"));
        }
        all.add(new Candidate(ValueFormat.number(",", null), null));
        all.add(new Candidate(ValueFormat.number(",", "."), null));
        all.add(new Candidate(ValueFormat.number(".", ","), null));
        all.add(new Candidate(ValueFormat.number(",", " "), null));
        all.add(new Candidate(ValueFormat.number(".", "'"), null));
        DATES.forEach(pattern -> all.add(new Candidate(ValueFormat.date(pattern), "read " + pattern)));
        TIMES.forEach(pattern -> all.add(new Candidate(ValueFormat.date(pattern), "read " + pattern)));
        TIMES.forEach(pattern -> all.add(new Candidate(
                ValueFormat.of(ValueFormat.Kind.DATE, pattern, "yyyy-MM-dd"), "read " + pattern + ", write the day")));
        all.add(new Candidate(ValueFormat.of(ValueFormat.Kind.DATE, null, "yyyy-MM-dd"), "write the day alone"));
        all.add(new Candidate(
                ValueFormat.words(List.of("yes", "y", "ja", "j", "x"), List.of("no", "n", "nein")), null));
        all.add(new Candidate(ValueFormat.of(ValueFormat.Kind.CASE, null, "upper"), "write it in capitals"));
        all.add(new Candidate(ValueFormat.of(ValueFormat.Kind.CASE, null, "lower"), "write it in small letters"));
        all.add(new Candidate(ValueFormat.keep(XML_CHARACTERS, null), "leave out what XML cannot carry"));
        if (rule.minLength() > 1) {
            ValueFormat padded = ValueFormat.pad(rule.minLength(), "0", "left");
            all.add(new Candidate(padded, "fill up to " + rule.minLength() + " with zeros"));
        }
        if (rule.maxLength() > 0) {
            all.add(new Candidate(ValueFormat.cut(rule.maxLength()), "cut to " + rule.maxLength() + " characters"));
        }
        return all;
    }

    private static Fix tried(List<String> misfits, ValueRule rule, ValueFormat way, Candidate candidate) {
        Conversion conversion = way.compile();
        String example = null;
        String after = null;
        int mends = 0;
        for (String value : misfits) {
            String read = converted(conversion, value);
            if (read != null && !read.isEmpty() && rule.problem(read) == null && XmlText.firstInvalid(read) < 0) {
                mends++;
                example = example == null ? value : example;
                after = after == null ? read : after;
            }
        }
        String label = candidate.label() == null ? "read " + example + " as " + after : candidate.label();
        return mends == 0 ? null : new Fix(label, way, mends, misfits.size());
    }

    private static String converted(Conversion conversion, String value) {
        try {
            return conversion.convert(value);
        } catch (ConversionException e) {
            return null;
        }
    }

    /**
     * Returns the values of a fill that do not fit, as they come from their source; inside repeats one for each node.
     *
     * @param fills all fills of the message
     */
    public static List<String> misfits(
            Fill fill, List<Fill> fills, ValueRule rule, List<Scope> samples, MappingContext context) {
        List<String> found = new ArrayList<>();
        try {
            List<RepeatedNodes> around = new ArrayList<>();
            for (Fill repeat : repeatsAround(fill, fills)) {
                around.add(RepeatedNodes.of(repeat, context.expressions(), null));
            }
            CompiledFill raw = CompiledFill.of(fill.with((ValueFormat) null), context, null);
            CompiledFill whole = CompiledFill.of(fill, context, null);
            for (Scope sample : samples) {
                collect(sample, around, 0, raw, whole, rule, found);
            }
        } catch (ExpressionProblem e) {
            return List.of(); // a fill that cannot work has no values to mend
        }
        return found;
    }

    private static Set<Fill> repeatsAround(Fill fill, List<Fill> fills) {
        Set<Fill> around = new LinkedHashSet<>();
        fills.stream()
                .filter(f -> f.repeat() != null && fill.target().startsWith(f.target() + "/"))
                .sorted(Comparator.comparingInt(f -> f.target().length()))
                .forEach(around::add);
        return around;
    }

    private static void collect(
            Scope scope,
            List<RepeatedNodes> around,
            int at,
            CompiledFill raw,
            CompiledFill whole,
            ValueRule rule,
            List<String> found) {
        try {
            if (at < around.size()) {
                for (Node node : around.get(at).nodes(scope)) {
                    collect(around.get(at).scope(scope, node), around, at + 1, raw, whole, rule, found);
                }
                return;
            }
            String value = raw.value(scope);
            if (value != null && !value.isEmpty() && !fits(whole, scope, rule)) {
                found.add(value);
            }
        } catch (FillFailure e) {
            return; // what fails before its format is no matter of formats
        }
    }

    private static boolean fits(CompiledFill whole, Scope scope, ValueRule rule) {
        try {
            String value = whole.value(scope);
            return value == null || value.isEmpty() || rule.problem(value) == null && XmlText.firstInvalid(value) < 0;
        } catch (FillFailure e) {
            return false;
        }
    }
}
