package wirekettle.core.assist.sheet;

import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.value.ValueFormat;

/** The steps of a format in words, and read again. */
final class FormatWords {
    private static final List<String> YES = List.of("yes", "y", "ja", "j", "1", "true");
    private static final List<String> NO = List.of("no", "n", "nein", "0", "false");
    private static final String SIGN = "[“\"](.)[”\"]";
    private static final String PATTERN = "([dMyHhmsSuXxVzEaLGQwnT.,:/ '\\[\\]-]+?)";
    private static final Pattern NUMBER_PART =
            Pattern.compile("(read|thousands|write|groups) " + SIGN + "|decimals (\\d{1,2})");

    private static final Map<Pattern, Function<Matcher, ValueFormat>> STEPS = new LinkedHashMap<>();

    private static void step(String words, Function<Matcher, ValueFormat> format) {
        STEPS.put(Pattern.compile(words, Pattern.CASE_INSENSITIVE), format);
    }

    static {
        step("decimal comma", m -> ValueFormat.number(",", null));
        step("decimal comma, thousands point", m -> ValueFormat.number(",", "."));
        step("decimal point, thousands comma", m -> ValueFormat.number(".", ","));
        step("(?:round to )?(\\d{1,2}) decimals?", m -> ValueFormat.rounded(Integer.parseInt(m.group(1))));
        step("number((?: (?:" + NUMBER_PART.pattern() + "))*)", m -> number(m.group(1)));
        step(
                "(?:read )?date(?: " + PATTERN + ")?(?: (?:->|→|to) " + PATTERN
                        + ")?(?: in zone (\\S+))?(?: into zone (\\S+))?",
                m -> ValueFormat.zoned(stripped(m.group(1)), m.group(3), stripped(m.group(2)), m.group(4)));
        step("trim", m -> ValueFormat.trim());
        step("(?:cut|truncate) to (\\d{1,6})(?: characters)?", m -> ValueFormat.cut(Integer.parseInt(m.group(1))));
        step("(?:cut|truncate) to (\\d{1,6}) bytes", m -> ValueFormat.cutBytes(Integer.parseInt(m.group(1))));
        step("upper ?case|capitals", m -> ValueFormat.of(ValueFormat.Kind.CASE, null, "upper"));
        step("lower ?case|small letters", m -> ValueFormat.of(ValueFormat.Kind.CASE, null, "lower"));
        step("first letter(?: a capital)?", m -> ValueFormat.of(ValueFormat.Kind.CASE, null, "first"));
        step(
                "only (?:“(.*?)”|([^“”;]+?))(?:, others “(.*)”)?",
                m -> ValueFormat.keep(m.group(1) == null ? m.group(2) : m.group(1), m.group(3)));
        step(
                "fill up to (\\d{1,4})(?: with (?:“(.)”|(\\S)))?(?: on the (left|right))?",
                m -> ValueFormat.pad(
                        Integer.parseInt(m.group(1)), m.group(2) == null ? m.group(3) : m.group(2), m.group(4)));
        step("yes/no", m -> ValueFormat.words(YES, NO));
        step(
                "(?:true for ([^;,]+), false for ([^;,]+?))?(?:,? ?as ([^;/]*/[^;/]*))?",
                m -> words(m.group(1), m.group(2), m.group(3)));
    }

    private FormatWords() {}

    private static String stripped(String text) {
        return text == null ? null : text.strip();
    }

    private static ValueFormat number(String parts) {
        Matcher part = NUMBER_PART.matcher(parts);
        String[] signs = new String[4];
        Integer decimals = null;
        while (part.find()) {
            if (part.group(1) == null) {
                decimals = Integer.valueOf(part.group(3));
            } else {
                signs[List.of("read", "thousands", "write", "groups").indexOf(part.group(1))] = part.group(2);
            }
        }
        return ValueFormat.number(signs[0], signs[1], signs[2], signs[3], decimals);
    }

    private static ValueFormat words(String yes, String no, String write) {
        return yes == null && write == null ? null : ValueFormat.words(list(yes), list(no), write);
    }

    private static List<String> list(String words) {
        return words == null ? null : Arrays.asList(words.strip().split("\\s*\\|\\s*"));
    }

    /** Reads one step; null when the words are none. */
    static ValueFormat read(String words) {
        for (Map.Entry<Pattern, Function<Matcher, ValueFormat>> step : STEPS.entrySet()) {
            Matcher said = step.getKey().matcher(words);
            if (said.matches()) {
                return step.getValue().apply(said);
            }
        }
        return null;
    }

    /** Returns one step in words. */
    static String of(ValueFormat step) {
        return switch (step.kind()) {
            case NUMBER -> number(step);
            case DATE -> "date" + (step.read() == null ? "" : " " + step.read())
                    + (step.write() == null ? "" : " -> " + step.write())
                    + (step.zone() == null ? "" : " in zone " + step.zone())
                    + (step.toZone() == null ? "" : " into zone " + step.toZone());
            case BOOLEAN -> booleans(step);
            case CASE -> "first".equals(step.write()) ? "first letter a capital" : step.write() + " case";
            case KEEP -> "only "
                    + (step.allowed().matches("[^;“”]*") ? step.allowed() : "“" + step.allowed() + "”")
                    + (step.write() == null ? "" : ", others “" + step.write() + "”");
            case PAD -> "fill up to " + step.length()
                    + (step.with() == null ? "" : " with “" + step.with() + "”")
                    + (step.side() == null ? "" : " on the " + step.side());
            case CUT -> "cut to " + step.length() + (ValueFormat.BYTES.equals(step.unit()) ? " bytes" : "");
            case TRIM -> step.label();
        };
    }

    private static String booleans(ValueFormat step) {
        if (step.write() == null && YES.equals(step.yes()) && NO.equals(step.no())) {
            return "yes/no";
        }
        String read = step.yes() == null
                ? ""
                : "true for " + String.join("|", step.yes()) + ", false for "
                        + String.join("|", step.no() == null ? List.of("false", "0") : step.no());
        String write = step.write() == null ? "" : "as " + step.write();
        return read + (read.isEmpty() || write.isEmpty() ? "" : ", ") + write;
    }

    private static String number(ValueFormat step) {
        ValueFormat alone =
                ValueFormat.number(step.read(), step.grouping(), step.write(), step.groups(), step.decimals());
        for (String words :
                List.of("decimal comma", "decimal comma, thousands point", "decimal point, thousands comma")) {
            if (alone.equals(read(words))) {
                return words;
            }
        }
        if (step.decimals() != null && alone.equals(ValueFormat.rounded(step.decimals()))) {
            return "round to " + step.decimals() + " decimals";
        }
        return "number" + sign("read", step.read()) + sign("thousands", step.grouping()) + sign("write", step.write())
                + sign("groups", step.groups())
                + (step.decimals() == null ? "" : " decimals " + step.decimals());
    }

    private static String sign(String name, String sign) {
        return sign == null ? "" : " " + name + " “" + sign + "”";
    }
}
