package wirekettle.core.value;

import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.time.format.DateTimeFormatterBuilder;
import java.time.format.ResolverStyle;
import java.time.temporal.TemporalAccessor;
import java.time.temporal.TemporalQueries;
import java.util.Locale;

/** Reads and writes days and times in any pattern and zone. Safe for several threads. */
final class DateFormat implements Conversion {
    private final String read;
    private final DateTimeFormatter in;
    private final DateTimeFormatter out;
    private final FixedDate fixed;
    private final ZoneId zone;
    private final ZoneId toZone;

    private DateFormat(
            String read, DateTimeFormatter in, DateTimeFormatter out, FixedDate fixed, ZoneId zone, ZoneId toZone) {
        this.read = read;
        this.in = in;
        this.out = out;
        this.fixed = fixed;
        this.zone = zone;
        this.toZone = toZone;
    }

    static DateFormat of(ValueFormat format) {
        String read = blankIsNull(format.read());
        String write = blankIsNull(format.write());
        return new DateFormat(
                read,
                read == null ? null : formatter(read),
                write == null ? null : formatter(write),
                read == null ? FixedDate.ISO : FixedDate.of(read),
                zone(format.zone()),
                zone(format.toZone()));
    }

    private static String blankIsNull(String text) {
        return text == null || text.isBlank() ? null : text;
    }

    private static ZoneId zone(String name) {
        try {
            return blankIsNull(name) == null ? null : ZoneId.of(name);
        } catch (DateTimeException e) {
            throw new IllegalArgumentException("“" + name + "” is no zone like Europe/Oslo or +01:00");
        }
    }

    private static DateTimeFormatter formatter(String pattern) {
        return new DateTimeFormatterBuilder()
                .parseCaseInsensitive()
                .appendPattern(pattern.replace('y', 'u'))
                .toFormatter(Locale.ENGLISH)
                .withResolverStyle(ResolverStyle.STRICT);
    }

    @Override
    public String convert(String text) throws ConversionException {
        try {
            String plain = text.strip();
            TemporalAccessor value = fixed == null ? null : fixed.read(plain);
            value = value != null ? value : in == null ? iso(plain) : in.parse(plain);
            if (zone != null || toZone != null) {
                value = moved(value);
            }
            return out == null ? lexical(value) : out.format(value);
        } catch (DateTimeException e) {
            throw new ConversionException(text, "a date like " + (read == null ? "2026-12-04" : read));
        }
    }

    /** A time without zone is in {@link #zone}; then it is told in the other. */
    private TemporalAccessor moved(TemporalAccessor value) {
        LocalDate day = value.query(TemporalQueries.localDate());
        LocalTime time = value.query(TemporalQueries.localTime());
        if (day == null || time == null) {
            return value;
        }
        ZoneId own = value.query(TemporalQueries.zone());
        if (own == null && zone == null) {
            return value;
        }
        ZonedDateTime at = own == null ? ZonedDateTime.of(day, time, zone) : ZonedDateTime.from(value);
        return toZone == null ? at : at.withZoneSameInstant(toZone);
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
        boolean zoned = value.query(TemporalQueries.zone()) != null;
        return zoned
                ? DateTimeFormatter.ISO_OFFSET_DATE_TIME.format(OffsetDateTime.from(value))
                : DateTimeFormatter.ISO_LOCAL_DATE_TIME.format(LocalDateTime.of(day, time));
    }
}
