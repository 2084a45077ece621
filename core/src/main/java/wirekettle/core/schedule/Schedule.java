package wirekettle.core.schedule;

import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;

/**
 * When something is due again and again. Immutable.
 *
 * @param cron the times of a clock on the wall, or null
 * @param everyMinutes the minutes between two times where there is no cron expression: 1 to 10,080, counted from
 *     midnight UTC of 1970-01-01
 * @param zone the zone of the clock on the wall
 * @param days the days worked on
 * @param postponed whether what is due on a day off or after the cut-off is due at the next opening; else it is left out
 */
public record Schedule(Cron cron, Integer everyMinutes, ZoneId zone, WorkingDays days, boolean postponed) {
    private static final int MOST_MINUTES = 10_080;
    private static final int MOST_LEFT_OUT = 100_000;

    /** Refuses what is never due. */
    public Schedule {
        if (cron == null && (everyMinutes == null || everyMinutes < 1 || everyMinutes > MOST_MINUTES)) {
            throw new IllegalArgumentException("say a cron expression, or minutes from 1 to " + MOST_MINUTES);
        }
    }

    /** Returns the first time it is due after a moment, null when it never is again. */
    public Instant next(Instant after) {
        Instant at = after;
        Instant waiting = null;
        for (int i = 0; i < MOST_LEFT_OUT; i++) {
            at = due(at);
            if (at == null || waiting != null && !at.isBefore(waiting)) {
                return waiting;
            }
            LocalDateTime local = LocalDateTime.ofInstant(at, zone);
            if (days.open(local)) {
                return at;
            }
            if (postponed && waiting == null) {
                LocalDateTime opening = days.opening(local);
                waiting = opening == null ? null : Cron.moment(opening, zone);
            }
        }
        return waiting;
    }

    private Instant due(Instant after) {
        if (cron != null) {
            return cron.next(after, zone);
        }
        long seconds = everyMinutes * 60L;
        return Instant.ofEpochSecond((Math.floorDiv(after.getEpochSecond(), seconds) + 1) * seconds);
    }

    /** Returns the next times it is due, at most a number of them. */
    public List<Instant> next(Instant after, int most) {
        List<Instant> times = new ArrayList<>();
        Instant at = next(after);
        while (at != null && times.size() < most) {
            times.add(at);
            at = next(at);
        }
        return times;
    }

    /** Returns what it says in words. */
    public String words() {
        if (cron == null) {
            return everyMinutes == 1 ? "every minute" : "every " + everyMinutes + " minutes";
        }
        return cron.words() + " (" + zone.getId() + ")";
    }
}
