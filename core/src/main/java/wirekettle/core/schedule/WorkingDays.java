package wirekettle.core.schedule;

import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.Set;

/**
 * Which days are worked on, and until when.
 *
 * @param weekdaysOff the days of every week that are off
 * @param datesOff single days that are off
 * @param opens when a working day begins
 * @param cutOff when a working day ends: what is due later belongs to the next one; null for midnight
 */
public record WorkingDays(Set<DayOfWeek> weekdaysOff, Set<LocalDate> datesOff, LocalTime opens, LocalTime cutOff) {
    /** Every day, all day. */
    public static final WorkingDays ALL = new WorkingDays(Set.of(), Set.of(), LocalTime.MIDNIGHT, null);

    private static final int MOST_DAYS = 800;

    /** Keeps its own copies. */
    public WorkingDays {
        weekdaysOff = Set.copyOf(weekdaysOff);
        datesOff = Set.copyOf(datesOff);
        opens = opens == null ? LocalTime.MIDNIGHT : opens;
        if (weekdaysOff.size() == DayOfWeek.values().length) {
            throw new IllegalArgumentException("a week needs a day that is not off");
        }
        if (cutOff != null && !cutOff.isAfter(opens)) {
            throw new IllegalArgumentException("a day ends after it begins: the cut-off comes after the opening");
        }
    }

    /** Tells whether a day is worked on. */
    public boolean on(LocalDate day) {
        return !weekdaysOff.contains(day.getDayOfWeek()) && !datesOff.contains(day);
    }

    /** Tells whether something may begin at a local time. */
    boolean open(LocalDateTime local) {
        return on(local.toLocalDate())
                && !local.toLocalTime().isBefore(opens)
                && (cutOff == null || local.toLocalTime().isBefore(cutOff));
    }

    /** Returns the next opening at or after a local time that is not open; null when none comes in two years. */
    LocalDateTime opening(LocalDateTime local) {
        LocalDate day = local.toLocalDate();
        if (on(day) && local.toLocalTime().isBefore(opens)) {
            return day.atTime(opens);
        }
        for (int i = 1; i <= MOST_DAYS; i++) {
            if (on(day.plusDays(i))) {
                return day.plusDays(i).atTime(opens);
            }
        }
        return null;
    }
}
