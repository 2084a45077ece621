package wirekettle.server.flows;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.value.Conversion;
import wirekettle.core.value.ConversionException;
import wirekettle.core.value.ValueFormat;

/** Finds the one format that mends most values that do not fit their target. */
final class Fixes {
    private Fixes() {}

    /** Returns the best fix for raw values that do not fit a rule, or null. */
    static Preview.Fix best(List<String> misfits, ValueRule rule, ValueFormat inferred) {
        List<ValueFormat> candidates = new ArrayList<>();
        if (inferred != null) {
            candidates.add(inferred);
        }
        candidates.add(ValueFormat.number(",", null));
        candidates.add(ValueFormat.number(",", "."));
        candidates.add(ValueFormat.number(".", ","));
        for (String pattern : new String[] {"dd.MM.yyyy", "dd/MM/yyyy", "MM/dd/yyyy", "yyyyMMdd", "d.M.yyyy"}) {
            candidates.add(ValueFormat.date(pattern));
        }
        candidates.add(new ValueFormat(
                "boolean", null, null, null, List.of("yes", "y", "ja", "j", "x"), List.of("no", "n", "nein"), null));
        candidates.add(new ValueFormat("trim", null, null, null, null, null, null));
        if (rule.maxLength() > 0) {
            candidates.add(ValueFormat.cut(rule.maxLength()));
        }
        Preview.Fix best = null;
        for (ValueFormat candidate : candidates) {
            Conversion conversion = candidate.compile();
            String example = null;
            String after = null;
            int mends = 0;
            for (String value : misfits) {
                String read = converted(conversion, value);
                if (read != null && rule.problem(read) == null) {
                    mends++;
                    example = example == null ? value : example;
                    after = after == null ? read : after;
                }
            }
            if (mends > 0 && (best == null || mends > best.mends())) {
                String label = candidate.kind().equals("cut")
                        ? "Cut to " + candidate.length() + " characters"
                        : "Read " + example + " as " + after;
                best = new Preview.Fix(label, candidate, mends);
            }
        }
        return best;
    }

    private static String converted(Conversion conversion, String value) {
        try {
            return conversion.convert(value);
        } catch (ConversionException e) {
            return null;
        }
    }
}
