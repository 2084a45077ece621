package wirekettle.core.soap;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.List;

/**
 * When an endpoint takes the calls of runs, and how many a second. Immutable.
 *
 * @param zone the zone of the times, as in Europe/Vienna
 * @param open when it is open
 * @param drainSeconds how long before it closes nothing new is sent, 0 to 3,600; 0 where null
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record EndpointHours(String zone, List<Span> open, Integer drainSeconds) {
    private static final int MOST_DRAIN = 3_600;
    private static final int DAYS_AHEAD = 8;

    /**
     * A time of the day on some days of the week.
     *
     * @param days 1 is Monday to 7; every day where empty
     * @param from as 22:00
     * @param to as 05:30 or 24:00; before {@code from} it is on the next day
     * @param perSecond how many calls a second then, null for what the endpoint allows anyway
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Span(List<Integer> days, String from, String to, Double perSecond) {
        /** Keeps its own copy. */
        public Span {
            days = days == null ? List.of() : List.copyOf(days);
        }

        private boolean on(LocalDate day) {
            return days.isEmpty() || days.contains(day.getDayOfWeek().getValue());
        }

        private ZonedDateTime begins(LocalDate day, ZoneId zone) {
            return day.atTime(LocalTime.parse(from)).atZone(zone);
        }

        private ZonedDateTime ends(LocalDate day, ZoneId zone) {
            boolean midnight = to.equals("24:00");
            LocalTime end = midnight ? LocalTime.MIDNIGHT : LocalTime.parse(to);
            boolean next = midnight || !end.isAfter(LocalTime.parse(from));
            return (next ? day.plusDays(1) : day).atTime(end).atZone(zone);
        }
    }

    /** Keeps its own copy. */
    public EndpointHours {
        open = open == null ? List.of() : List.copyOf(open);
    }

    /** Returns what cannot be read of it, null when it is sound. */
    public String problem() {
        try {
            ZoneId.of(String.valueOf(zone));
            for (Span span : open) {
                span.begins(LocalDate.EPOCH, ZoneId.of(zone));
                span.ends(LocalDate.EPOCH, ZoneId.of(zone));
                if (span.days().stream().anyMatch(day -> day < 1 || day > 7)) {
                    return "days of the week are 1 to 7";
                }
                if (span.perSecond() != null && !(span.perSecond() > 0)) {
                    return "calls a second are more than 0";
                }
            }
        } catch (DateTimeException | NullPointerException e) {
            return "the hours need a zone as in Europe/Vienna, and times as in 22:00";
        }
        return drainSeconds != null && (drainSeconds < 0 || drainSeconds > MOST_DRAIN)
                ? "nothing new is sent for 0 to " + MOST_DRAIN + " seconds before it closes"
                : null;
    }

    private Duration drain() {
        return Duration.ofSeconds(drainSeconds == null ? 0 : drainSeconds);
    }

    /** Returns the span that is open at a moment and goes on longer than nothing new is sent; null when there is none. */
    private Span at(Instant now) {
        ZoneId its = ZoneId.of(zone);
        LocalDate today = LocalDate.ofInstant(now, its);
        for (LocalDate day : List.of(today.minusDays(1), today)) {
            for (Span span : open) {
                boolean begun = !span.begins(day, its).toInstant().isAfter(now);
                if (span.on(day) && begun && span.ends(day, its).toInstant().isAfter(now) && goesOn(now, its)) {
                    return span;
                }
            }
        }
        return null;
    }

    /** Tells whether it is still open after the time in which nothing new is sent before it closes. */
    private boolean goesOn(Instant now, ZoneId its) {
        Instant later = now.plus(drain());
        LocalDate day = LocalDate.ofInstant(later, its);
        return List.of(day.minusDays(1), day).stream().anyMatch(each -> open.stream()
                .anyMatch(span -> span.on(each)
                        && !span.begins(each, its).toInstant().isAfter(later)
                        && span.ends(each, its).toInstant().isAfter(later)));
    }

    /** Returns when it opens next, null while it is open. */
    public Instant opens(Instant now) {
        if (open.isEmpty() || at(now) != null) {
            return null;
        }
        ZoneId its = ZoneId.of(zone);
        LocalDate today = LocalDate.ofInstant(now, its);
        Instant first = null;
        for (int i = 0; i < DAYS_AHEAD; i++) {
            for (Span span : open) {
                Instant begins = span.begins(today.plusDays(i), its).toInstant();
                boolean sooner =
                        span.on(today.plusDays(i)) && begins.isAfter(now) && (first == null || begins.isBefore(first));
                first = sooner ? begins : first;
            }
        }
        return first == null ? Instant.MAX : first;
    }

    /** Returns how many calls a second there may be at a moment, null where it says nothing. */
    public Double perSecond(Instant now) {
        Span span = open.isEmpty() ? null : at(now);
        return span == null ? null : span.perSecond();
    }
}
