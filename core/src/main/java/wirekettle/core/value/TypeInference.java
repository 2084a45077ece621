package wirekettle.core.value;

import java.util.List;
import java.util.regex.Pattern;

/** Infers the type and format of one column from every value it is shown; empty values say nothing. */
public final class TypeInference {
    private record Candidate(ScalarType type, ValueFormat format, Conversion conversion, Pattern shape) {
        boolean fits(String value) {
            if (!shape.matcher(value).matches()) {
                return false;
            }
            try {
                return conversion == null || conversion.convert(value) != null;
            } catch (ConversionException e) {
                return false;
            }
        }
    }

    private static Candidate candidate(ScalarType type, ValueFormat format, String shape) {
        return new Candidate(type, format, format == null ? null : format.compile(), Pattern.compile(shape));
    }

    private static final List<Candidate> CANDIDATES = List.of(
            candidate(ScalarType.BOOLEAN, null, "true|false"),
            candidate(
                    ScalarType.BOOLEAN,
                    ValueFormat.words(List.of("yes", "y", "ja", "j"), List.of("no", "n", "nein")),
                    "(?i)yes|no|y|n|ja|nein|j"),
            candidate(ScalarType.INTEGER, null, "[+-]?(0|[1-9]\\d{0,17})"),
            candidate(ScalarType.DECIMAL, null, "[+-]?(0|[1-9]\\d*)(\\.\\d+)?"),
            candidate(ScalarType.DECIMAL, ValueFormat.number(",", null), "[+-]?(0|[1-9]\\d*)(,\\d+)?"),
            candidate(ScalarType.DECIMAL, ValueFormat.number(",", "."), "[+-]?(0|[1-9]\\d{0,2}(\\.\\d{3})*)(,\\d+)?"),
            candidate(ScalarType.DECIMAL, ValueFormat.number(".", ","), "[+-]?[1-9]\\d{0,2}(,\\d{3})+(\\.\\d+)?"),
            candidate(ScalarType.DATE, null, "\\d{4}-\\d\\d-\\d\\d"),
            candidate(ScalarType.DATE, ValueFormat.date("dd.MM.yyyy"), "\\d\\d\\.\\d\\d\\.\\d{4}"),
            candidate(ScalarType.DATE, ValueFormat.date("dd/MM/yyyy"), "\\d\\d/\\d\\d/\\d{4}"),
            candidate(ScalarType.DATE, ValueFormat.date("MM/dd/yyyy"), "\\d\\d/\\d\\d/\\d{4}"),
            candidate(ScalarType.DATE, ValueFormat.date("yyyyMMdd"), "(19|20)\\d{6}"),
            candidate(
                    ScalarType.DATETIME,
                    null,
                    "\\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d(:\\d\\d(\\.\\d+)?)?(Z|[+-]\\d\\d:\\d\\d)?"),
            candidate(
                    ScalarType.DATETIME,
                    ValueFormat.date("yyyy-MM-dd HH:mm:ss"),
                    "\\d{4}-\\d\\d-\\d\\d \\d\\d:\\d\\d:\\d\\d"),
            candidate(ScalarType.TIME, null, "\\d\\d:\\d\\d(:\\d\\d)?"));

    private final boolean[] dropped = new boolean[CANDIDATES.size()];
    private final int[] misses = new int[CANDIDATES.size()];
    private final boolean[] misfit = new boolean[CANDIDATES.size()];
    private String last;
    private long seen;
    private long empty;

    /** Looks at one value. */
    public void look(String value) {
        if (value == null || value.isBlank()) {
            empty++;
            return;
        }
        seen++;
        // many columns say the same again and again
        boolean same = value.equals(last);
        String plain = same ? value : value.strip();
        last = value;
        for (int i = 0; i < dropped.length; i++) {
            if (!same && !dropped[i]) {
                misfit[i] = !CANDIDATES.get(i).fits(plain);
            }
            // one stray value in fifty does not hide what the other forty-nine are
            if (!dropped[i] && misfit[i] && ++misses[i] > 2 + seen / 50) {
                dropped[i] = true;
            }
        }
    }

    /** Returns the column as inferred: the candidate with the fewest misfits, text when none is left. */
    public Column column(String name, String label) {
        Candidate best = null;
        int fewest = Integer.MAX_VALUE;
        for (int i = 0; i < dropped.length; i++) {
            if (!dropped[i] && misses[i] < fewest && misses[i] * 50L <= seen) {
                best = CANDIDATES.get(i);
                fewest = misses[i];
            }
        }
        boolean required = empty == 0 && seen > 0;
        return seen == 0 || best == null
                ? new Column(name, label, ScalarType.STRING, null, required)
                : new Column(name, label, best.type(), best.format(), required);
    }
}
