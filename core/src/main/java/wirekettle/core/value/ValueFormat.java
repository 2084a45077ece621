package wirekettle.core.value;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonValue;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Locale;
import java.util.function.Consumer;
import java.util.regex.Pattern;
import java.util.regex.PatternSyntaxException;

/**
 * How a text is read and written again: one step, and the steps after it. What a step does not name keeps the form of
 * XML Schema.
 *
 * @param kind what the step does
 * @param read the date pattern read, or the decimal sign of a number
 * @param write the date pattern or decimal sign written; for boolean the two words written, as {@code J/N}; for keep
 *     what stands in the place of a character that is not allowed; for case upper, lower or first
 * @param grouping the grouping sign a number may have when it is read
 * @param groups the grouping sign a number is written with
 * @param decimals how many decimals a number is written with, rounded half up, 0 to 30
 * @param yes the words read as true
 * @param no the words read as false
 * @param zone the zone a time without one is in, as {@code Europe/Oslo} or {@code +01:00}
 * @param toZone the zone a time is written in
 * @param allowed the characters kept by {@code keep}, as inside the brackets of a regular expression
 * @param length the most characters kept by {@code cut}, the least written by {@code pad}
 * @param unit what {@code cut} counts: characters or bytes of UTF-8
 * @param with the character {@code pad} fills up with; a zero unless given
 * @param side where {@code pad} fills up: left unless it is right
 * @param then the next step, or null
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record ValueFormat(
        Kind kind,
        String read,
        String write,
        String grouping,
        String groups,
        Integer decimals,
        List<String> yes,
        List<String> no,
        String zone,
        String toZone,
        String allowed,
        Integer length,
        String unit,
        String with,
        String side,
        ValueFormat then) {
    /** What a step does. */
    public enum Kind {
        /** Reads and writes a number. */
        NUMBER,
        /** Reads and writes a day, a time, or both. */
        DATE,
        /** Reads and writes words for true and false. */
        BOOLEAN,
        /** Takes spaces away at both ends. */
        TRIM,
        /** Changes letters to capitals or small ones. */
        CASE,
        /** Keeps only some characters. */
        KEEP,
        /** Cuts to a length. */
        CUT,
        /** Fills up to a length. */
        PAD;

        /** Returns the word used in files and the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    /** What {@link #unit} may be beside characters. */
    public static final String BYTES = "bytes";

    /** A step while it is put together. */
    private static final class Draft {
        private String read;
        private String write;
        private String grouping;
        private String groups;
        private Integer decimals;
        private List<String> yes;
        private List<String> no;
        private String zone;
        private String toZone;
        private String allowed;
        private Integer length;
        private String unit;
        private String with;
        private String side;
    }

    private static ValueFormat made(Kind kind, Consumer<Draft> says) {
        Draft d = new Draft();
        says.accept(d);
        return new ValueFormat(
                kind,
                d.read,
                d.write,
                d.grouping,
                d.groups,
                d.decimals,
                d.yes,
                d.no,
                d.zone,
                d.toZone,
                d.allowed,
                d.length,
                d.unit,
                d.with,
                d.side,
                null);
    }

    /** Returns a step of a kind that reads and writes in given ways. */
    public static ValueFormat of(Kind kind, String read, String write) {
        return made(kind, d -> {
            d.read = read;
            d.write = write;
        });
    }

    /** Returns a number format reading {@code decimal} as decimal sign and {@code grouping} between thousands. */
    public static ValueFormat number(String decimal, String grouping) {
        return number(decimal, grouping, null, null, null);
    }

    /** Returns a number format with everything it may say; each part may be null. */
    public static ValueFormat number(String read, String grouping, String write, String groups, Integer decimals) {
        return made(Kind.NUMBER, d -> {
            d.read = read;
            d.grouping = grouping;
            d.write = write;
            d.groups = groups;
            d.decimals = decimals;
        });
    }

    /** Returns a number format that rounds to some decimals. */
    public static ValueFormat rounded(int decimals) {
        return number(null, null, null, null, decimals);
    }

    /** Returns a date format reading {@code pattern} as {@link java.time.format.DateTimeFormatter} writes it. */
    public static ValueFormat date(String pattern) {
        return of(Kind.DATE, pattern, null);
    }

    /** Returns a date format between zones. */
    public static ValueFormat zoned(String read, String zone, String write, String toZone) {
        return made(Kind.DATE, d -> {
            d.read = read;
            d.write = write;
            d.zone = zone;
            d.toZone = toZone;
        });
    }

    /** Returns a format that reads words as true and false. */
    public static ValueFormat words(List<String> yes, List<String> no) {
        return words(yes, no, null);
    }

    /** Returns a format that reads words as true and false and writes two others, as {@code J/N}; each may be null. */
    public static ValueFormat words(List<String> yes, List<String> no, String write) {
        return made(Kind.BOOLEAN, d -> {
            d.yes = yes;
            d.no = no;
            d.write = write;
        });
    }

    /** Returns a format that takes spaces away at both ends. */
    public static ValueFormat trim() {
        return of(Kind.TRIM, null, null);
    }

    /** Returns a format that keeps only allowed characters, {@code instead} in the place of others. */
    public static ValueFormat keep(String allowed, String instead) {
        return made(Kind.KEEP, d -> {
            d.allowed = allowed;
            d.write = instead;
        });
    }

    /** Returns a format that cuts to {@code length} characters. */
    public static ValueFormat cut(int length) {
        return made(Kind.CUT, d -> d.length = length);
    }

    /** Returns a format that cuts to {@code length} bytes of UTF-8, never inside a character. */
    public static ValueFormat cutBytes(int length) {
        return made(Kind.CUT, d -> {
            d.length = length;
            d.unit = BYTES;
        });
    }

    /** Returns a format that fills up to {@code length} characters. */
    public static ValueFormat pad(int length, String with, String side) {
        return made(Kind.PAD, d -> {
            d.length = length;
            d.with = with;
            d.side = side;
        });
    }

    /** Returns this format with another step after its last. */
    public ValueFormat then(ValueFormat last) {
        return new ValueFormat(
                kind,
                read,
                write,
                grouping,
                groups,
                decimals,
                yes,
                no,
                zone,
                toZone,
                allowed,
                length,
                unit,
                with,
                side,
                then == null ? last : then.then(last));
    }

    /** Returns a format's steps with another after them; {@code before} may be null. */
    public static ValueFormat after(ValueFormat before, ValueFormat last) {
        return before == null ? last : before.then(last);
    }

    /** Returns the format in a few words, for a fill cell. */
    public String label() {
        return step() + (then == null ? "" : ", " + then.label());
    }

    private String step() {
        return switch (kind) {
            case NUMBER -> "decimal " + (",".equals(read) ? "comma" : "“" + (read == null ? "." : read) + "”");
            case DATE -> write == null ? String.valueOf(read) : (read == null ? "" : read) + " → " + write;
            case BOOLEAN -> String.join("/", yes == null ? List.of() : yes) + " = true";
            case CASE -> ("first".equals(write) ? "first letter" : write) + " case";
            case KEEP -> "only " + allowed;
            case CUT -> "cut to " + length + (BYTES.equals(unit) ? " bytes" : "");
            case PAD -> "fill up to " + length;
            case TRIM -> kind.word();
        };
    }

    /** Returns this format ready for many values; a step that cannot work is an {@link IllegalArgumentException}. */
    public Conversion compile() {
        Conversion first = compileStep();
        if (then == null) {
            return first;
        }
        Conversion next = then.compile();
        return text -> {
            String value = first.convert(text);
            return value.isEmpty() ? value : next.convert(value);
        };
    }

    private Conversion compileStep() {
        if (kind == null) {
            throw new IllegalArgumentException(
                    "a format needs a kind: number, date, boolean, trim, case, keep, cut or pad");
        }
        return switch (kind) {
            case NUMBER -> new NumberFormat(this);
            case DATE -> DateFormat.of(this);
            case BOOLEAN -> booleans();
            case TRIM -> String::strip;
            case CASE -> cased();
            case KEEP -> kept();
            case CUT -> cutting();
            case PAD -> padding();
        };
    }

    private int length(int most) {
        if (length == null || length < 1 || length > most) {
            throw new IllegalArgumentException(kind.word() + " needs a length from 1 to " + most);
        }
        return length;
    }

    private Conversion cutting() {
        int most = length(1_000_000);
        if (!BYTES.equals(unit)) {
            return text -> text.length() <= most || text.codePointCount(0, text.length()) <= most
                    ? text
                    : text.substring(0, text.offsetByCodePoints(0, most));
        }
        return text -> {
            byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
            int end = Math.min(most, bytes.length);
            // a byte 10xxxxxx goes on with a character (RFC 3629, 3)
            while (end < bytes.length && end > 0 && (bytes[end] & 0xC0) == 0x80) {
                end--;
            }
            return end == bytes.length ? text : new String(bytes, 0, end, StandardCharsets.UTF_8);
        };
    }

    private Conversion padding() {
        int least = length(10_000);
        String fill = with == null || with.isEmpty() ? "0" : with.substring(0, with.offsetByCodePoints(0, 1));
        boolean right = "right".equals(side);
        return text -> {
            int missing = least - text.codePointCount(0, text.length());
            String more = missing <= 0 ? "" : fill.repeat(missing);
            return right ? text + more : more + text;
        };
    }

    private Conversion cased() {
        return switch (String.valueOf(write)) {
            case "upper" -> text -> text.toUpperCase(Locale.ROOT);
            case "lower" -> text -> text.toLowerCase(Locale.ROOT);
            case "first" -> text -> {
                int first = text.offsetByCodePoints(0, Math.min(1, text.length()));
                return text.substring(0, first).toUpperCase(Locale.ROOT) + text.substring(first);
            };
            default -> throw new IllegalArgumentException("case needs upper, lower or first");
        };
    }

    private Conversion kept() {
        try {
            Pattern other = Pattern.compile("[^" + (allowed == null ? "" : allowed) + "]");
            String instead = java.util.regex.Matcher.quoteReplacement(write == null ? "" : write);
            return text -> other.matcher(text).replaceAll(instead);
        } catch (PatternSyntaxException e) {
            throw new IllegalArgumentException("“" + allowed + "” is no list of characters like A-Z0-9");
        }
    }

    private Conversion booleans() {
        String[] words = write == null ? new String[] {"true", "false"} : write.split("/", 2);
        if (words.length < 2) {
            throw new IllegalArgumentException("the words written are two, as J/N");
        }
        List<String> trues = yes == null ? List.of("true", "1") : yes;
        List<String> falses = no == null ? List.of("false", "0") : no;
        return text -> {
            String plain = text.strip();
            if (trues.stream().anyMatch(plain::equalsIgnoreCase)) {
                return words[0];
            }
            if (falses.stream().anyMatch(plain::equalsIgnoreCase)) {
                return words[1];
            }
            throw new ConversionException(
                    text, "one of " + String.join(", ", trues) + " or " + String.join(", ", falses));
        };
    }
}
