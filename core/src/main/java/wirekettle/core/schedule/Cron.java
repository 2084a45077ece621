package wirekettle.core.schedule;

import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.zone.ZoneOffsetTransition;
import java.util.BitSet;
import java.util.List;
import java.util.Locale;

/**
 * A cron expression of five fields: minute, hour, day of month, month, day of week (0 and 7 are Sunday). A field is
 * {@code *} or a list of values, ranges and steps; months and days may be English names of three letters; {@code L} as
 * day of month is the last one. Where both days are restricted, either counts (POSIX crontab). Immutable.
 *
 * <p>Where clocks are put forward, a time that does not exist is due at the moment they are. Where they are put back, a
 * time that comes twice is due the first time only, unless the hour is {@code *}: then every hour that passes counts.
 */
public final class Cron {
    private static final List<String> MONTHS =
            List.of("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec");
    private static final List<String> DAYS = List.of("sun", "mon", "tue", "wed", "thu", "fri", "sat");
    private static final int MOST_YEARS = 8;

    private final String text;
    private final BitSet minutes;
    private final BitSet hours;
    private final BitSet days;
    private final boolean lastDay;
    private final BitSet months;
    private final BitSet weekdays;
    private final boolean everyHour;
    private final boolean anyDay;
    private final boolean anyWeekday;

    private Cron(String text, String[] fields) {
        this.text = text;
        minutes = field(fields[0], "minute", 0, 59, List.of());
        hours = field(fields[1], "hour", 0, 23, List.of());
        lastDay = fields[2].equalsIgnoreCase("L");
        days = lastDay ? new BitSet() : field(fields[2], "day of month", 1, 31, List.of());
        months = field(fields[3], "month", 1, 12, MONTHS);
        weekdays = field(fields[4], "day of week", 0, 7, DAYS);
        if (weekdays.get(7)) {
            weekdays.set(0);
        }
        everyHour = fields[1].startsWith("*");
        anyDay = fields[2].startsWith("*");
        anyWeekday = fields[4].startsWith("*");
    }

    /**
     * Reads an expression.
     *
     * @throws IllegalArgumentException saying which field is wrong and what it may be
     */
    public static Cron parse(String text) {
        String[] fields = text == null ? new String[0] : text.strip().split("\\s+");
        if (fields.length != 5) {
            throw new IllegalArgumentException("a cron expression has five fields, as in “30 2 * * mon-fri”:"
                    + " minute, hour, day of month, month, day of week");
        }
        return new Cron(text.strip(), fields);
    }

    private static BitSet field(String text, String name, int from, int to, List<String> names) {
        BitSet values = new BitSet();
        for (String part : text.toLowerCase(Locale.ROOT).split(",", -1)) {
            String[] stepped = part.split("/", -1);
            int step = stepped.length == 2 ? number(stepped[1], name, 1, to, text, List.of()) : 1;
            String[] range = stepped[0].split("-", -1);
            if (stepped.length > 2 || range.length > 2) {
                throw wrong(name, from, to, text);
            }
            int first = range[0].equals("*") ? from : number(range[0], name, from, to, text, names);
            int last = range.length == 2
                    ? number(range[1], name, from, to, text, names)
                    : range[0].equals("*") || stepped.length == 2 ? to : first;
            if (last < first) {
                throw wrong(name, from, to, text);
            }
            for (int i = first; i <= last; i += step) {
                values.set(i);
            }
        }
        return values;
    }

    private static int number(String text, String name, int from, int to, String all, List<String> names) {
        int named = names.indexOf(text);
        if (named >= 0) {
            return named + from;
        }
        if (!text.matches("\\d{1,2}") || Integer.parseInt(text) < from || Integer.parseInt(text) > to) {
            throw wrong(name, from, to, all);
        }
        return Integer.parseInt(text);
    }

    private static IllegalArgumentException wrong(String name, int from, int to, String text) {
        return new IllegalArgumentException("“" + text + "” is no " + name + ": it is *, or values from " + from
                + " to " + to + ", as in 1,3 or 1-5 or */2");
    }

    /** Returns the first time it is due after a moment, null when there is none within eight years. */
    Instant next(Instant after, ZoneId zone) {
        return everyHour ? nextPassing(after, zone) : nextLocal(after, zone);
    }

    private boolean on(LocalDate day) {
        if (!months.get(day.getMonthValue())) {
            return false;
        }
        boolean ofMonth = lastDay ? day.getDayOfMonth() == day.lengthOfMonth() : days.get(day.getDayOfMonth());
        boolean ofWeek = weekdays.get(day.getDayOfWeek().getValue() % 7);
        return anyDay || anyWeekday ? ofMonth && ofWeek : ofMonth || ofWeek;
    }

    /** Every hour that passes counts: time goes on in minutes that exist. */
    private Instant nextPassing(Instant after, ZoneId zone) {
        Instant at = Instant.ofEpochSecond(Math.floorDiv(after.getEpochSecond(), 60) * 60 + 60);
        LocalDate end = LocalDate.ofInstant(after, zone).plusYears(MOST_YEARS);
        while (true) {
            LocalDateTime local = LocalDateTime.ofInstant(at, zone);
            if (local.toLocalDate().isAfter(end)) {
                return null;
            }
            if (!on(local.toLocalDate())) {
                at = local.toLocalDate().plusDays(1).atStartOfDay(zone).toInstant();
            } else if (hours.get(local.getHour()) && minutes.get(local.getMinute())) {
                return at;
            } else {
                at = at.plusSeconds(60);
            }
        }
    }

    private Instant nextLocal(Instant after, ZoneId zone) {
        LocalDate first = LocalDate.ofInstant(after, zone);
        for (LocalDate day = first; !day.isAfter(first.plusYears(MOST_YEARS)); day = day.plusDays(1)) {
            if (!on(day)) {
                continue;
            }
            for (int hour = hours.nextSetBit(0); hour >= 0; hour = hours.nextSetBit(hour + 1)) {
                for (int minute = minutes.nextSetBit(0); minute >= 0; minute = minutes.nextSetBit(minute + 1)) {
                    Instant at = moment(day.atTime(hour, minute), zone);
                    if (at.isAfter(after)) {
                        return at;
                    }
                }
            }
        }
        return null;
    }

    /** Returns when a local time is: the end of the gap it falls into, the first of two. */
    static Instant moment(LocalDateTime local, ZoneId zone) {
        ZoneOffsetTransition change = zone.getRules().getTransition(local);
        return change != null && change.isGap()
                ? change.getInstant()
                : local.atZone(zone).withEarlierOffsetAtOverlap().toInstant();
    }

    /** Returns what it says in words, as far as words are shorter: else the expression. */
    String words() {
        if (minutes.cardinality() != 1
                || hours.cardinality() != 1
                || lastDay
                || !anyDay
                || months.cardinality() != 12) {
            return "at " + text;
        }
        String at = String.format(Locale.ROOT, "at %02d:%02d", hours.nextSetBit(0), minutes.nextSetBit(0));
        if (anyWeekday) {
            return "every day " + at;
        }
        StringBuilder on = new StringBuilder();
        boolean working = true;
        for (DayOfWeek day : DayOfWeek.values()) {
            boolean its = weekdays.get(day.getValue() % 7);
            working &= its == day.getValue() < 6;
            if (its) {
                String name = day.name().charAt(0) + day.name().substring(1).toLowerCase(Locale.ROOT);
                on.append(on.length() == 0 ? "" : ", ").append(name);
            }
        }
        return (working ? "Monday to Friday " : on + " ") + at;
    }

    @Override
    public String toString() {
        return text;
    }
}
