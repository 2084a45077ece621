package wirekettle.core.value;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.time.format.ResolverStyle;
import java.time.temporal.TemporalAccessor;
import java.time.temporal.TemporalQueries;
import java.util.List;
import java.util.Locale;

/**
 * How a text is read, and optionally written again: {@code number} with its decimal and grouping signs, {@code date}
 * with patterns, {@code boolean} with its words, {@code trim}, {@code cut} to a length.
 *
 * @param kind one of number, date, boolean, trim, cut
 * @param read the date pattern read, or the decimal sign of a number; null for the XML Schema form
 * @param write the date pattern or decimal sign written; null for the XML Schema form
 * @param grouping the grouping sign a number may have, or null
 * @param yes the words read as true
 * @param no the words read as false
 * @param length the most characters kept by {@code cut}
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record ValueFormat(
        String kind, String read, String write, String grouping, List<String> yes, List<String> no, Integer length) {

    /** Returns a number format reading {@code decimal} as decimal sign and {@code grouping} between thousands. */
    public static ValueFormat number(String decimal, String grouping) {
        return new ValueFormat("number", decimal, null, grouping, null, null, null);
    }

    /** Returns a date format reading {@code pattern} as {@link DateTimeFormatter} writes it. */
    public static ValueFormat date(String pattern) {
        return new ValueFormat("date", pattern, null, null, null, null, null);
    }

    /** Returns a format that cuts to {@code length} characters. */
    public static ValueFormat cut(int length) {
        return new ValueFormat("cut", null, null, null, null, null, length);
    }

    /** Returns the format in a few words, for a fill cell. */
    public String label() {
        return switch (kind) {
            case "number" -> "decimal " + (",".equals(read) ? "comma" : "“" + (read == null ? "." : read) + "”");
            case "date" -> write == null ? read : (read == null ? "" : read) + " → " + write;
            case "boolean" -> String.join("/", yes) + " = true";
            case "cut" -> "cut to " + length;
            default -> kind;
        };
    }

    /** Returns this format ready for many values; a bad pattern is an {@link IllegalArgumentException}. */
    public Conversion compile() {
        return switch (kind) {
            case "number" -> this::number;
            case "date" -> dates();
            case "boolean" -> this::bool;
            case "trim" -> String::strip;
            case "cut" -> text -> text.codePointCount(0, text.length()) <= length
                    ? text
                    : text.substring(0, text.offsetByCodePoints(0, length));
            default -> throw new IllegalArgumentException("unknown format kind " + kind);
        };
    }

    private String number(String text) throws ConversionException {
        String plain = text.strip();
        if (grouping != null && !grouping.isEmpty()) {
            plain = plain.replace(grouping, "");
        }
        if (read != null && !read.equals(".")) {
            if (plain.indexOf('.') >= 0) {
                throw new ConversionException(text, "a number with decimal sign " + read);
            }
            plain = plain.replace(read, ".");
        }
        try {
            String canonical = new BigDecimal(plain).toPlainString();
            return write == null || write.equals(".") ? canonical : canonical.replace(".", write);
        } catch (NumberFormatException e) {
            throw new ConversionException(text, "a number" + (read == null ? "" : " with decimal sign " + read));
        }
    }

    private String bool(String text) throws ConversionException {
        String plain = text.strip();
        for (String word : yes) {
            if (word.equalsIgnoreCase(plain)) {
                return "true";
            }
        }
        for (String word : no == null ? List.<String>of() : no) {
            if (word.equalsIgnoreCase(plain)) {
                return "false";
            }
        }
        throw new ConversionException(text, "one of " + yes + " or " + no);
    }

    private Conversion dates() {
        DateTimeFormatter in = read == null ? null : formatter(read);
        DateTimeFormatter out = write == null ? null : formatter(write);
        FixedDate fixed = in == null ? FixedDate.ISO : FixedDate.of(read);
        return text -> {
            try {
                String plain = text.strip();
                TemporalAccessor value = fixed == null ? null : fixed.read(plain);
                value = value != null ? value : in == null ? iso(plain) : in.parse(plain);
                return out == null ? lexical(value) : out.format(value);
            } catch (DateTimeException e) {
                throw new ConversionException(text, "a date like " + (read == null ? "2026-12-04" : read));
            }
        };
    }

    private static DateTimeFormatter formatter(String pattern) {
        return DateTimeFormatter.ofPattern(pattern.replace("yyyy", "uuuu"), Locale.ROOT)
                .withResolverStyle(ResolverStyle.STRICT);
    }

    private static TemporalAccessor iso(String text) {
        return text.contains("T")
                ? DateTimeFormatter.ISO_DATE_TIME.parseBest(text, ZonedDateTime::from, LocalDateTime::from)
                : LocalDate.parse(text);
    }

    private static String lexical(TemporalAccessor value) {
        LocalDate day = value.query(TemporalQueries.localDate());
        LocalTime time = value.query(TemporalQueries.localTime());
        if (time == null) {
            return LocalDate.from(value).toString();
        }
        if (day == null) {
            return DateTimeFormatter.ISO_LOCAL_TIME.format(time);
        }
        boolean zoned = value.query(TemporalQueries.offset()) != null || value.query(TemporalQueries.zoneId()) != null;
        return zoned
                ? DateTimeFormatter.ISO_OFFSET_DATE_TIME.format(OffsetDateTime.from(value))
                : DateTimeFormatter.ISO_LOCAL_DATE_TIME.format(LocalDateTime.of(day, time));
    }
}
