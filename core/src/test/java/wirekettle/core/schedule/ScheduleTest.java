package wirekettle.core.schedule;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertThrows;
import static org.testng.Assert.assertTrue;

import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;

/** When something is due, over changes of summer time, days off and cut-offs. */
public class ScheduleTest {
    private static final ZoneId VIENNA = ZoneId.of("Europe/Vienna");
    private static final Set<DayOfWeek> WEEKEND = Set.of(DayOfWeek.SATURDAY, DayOfWeek.SUNDAY);

    private static Schedule cron(String text, String zone) {
        return new Schedule(Cron.parse(text), null, ZoneId.of(zone), WorkingDays.ALL, false);
    }

    private static List<String> local(Schedule schedule, String after, int most) {
        return schedule.next(Instant.parse(after), most).stream()
                .map(at -> at.atZone(schedule.zone()).toOffsetDateTime().toString())
                .toList();
    }

    @DataProvider
    Object[][] expressions() {
        return new Object[][] {
            {"30 2 * * *", "2026-11-30T12:00:00Z", List.of("2026-12-01T02:30+01:00", "2026-12-02T02:30+01:00")},
            {"*/20 6-7 * * mon-fri", "2026-12-04T05:50:00Z", List.of("2026-12-04T07:00+01:00", "2026-12-04T07:20+01:00")
            },
            {"0 8 L * *", "2027-02-01T00:00:00Z", List.of("2027-02-28T08:00+01:00", "2027-03-31T08:00+02:00")},
            // either day counts where both are restricted: the first of the month, and every Sunday
            {"0 0 1 * 7", "2026-11-29T00:00:00Z", List.of("2026-12-01T00:00+01:00", "2026-12-06T00:00+01:00")},
            {"0 0 29 2 *", "2026-12-01T00:00:00Z", List.of("2028-02-29T00:00+01:00", "2032-02-29T00:00+01:00")},
            {"5/25 12 * dec *", "2026-12-01T00:00:00Z", List.of("2026-12-01T12:05+01:00", "2026-12-01T12:30+01:00")},
        };
    }

    @Test(dataProvider = "expressions")
    public void expressionsSayWhen(String text, String after, List<String> expected) {
        assertEquals(local(cron(text, "Europe/Vienna"), after, 2), expected);
    }

    @Test
    public void aTimeThatDoesNotExistIsDueWhenClocksArePutForward() {
        assertEquals(
                local(cron("30 2 * * *", "Europe/Vienna"), "2027-03-27T12:00:00Z", 2),
                List.of("2027-03-28T03:00+02:00", "2027-03-29T02:30+02:00"));
        assertEquals(
                local(cron("30 * * * *", "Europe/Vienna"), "2027-03-28T00:00:00Z", 3),
                List.of("2027-03-28T01:30+01:00", "2027-03-28T03:30+02:00", "2027-03-28T04:30+02:00"));
    }

    @Test
    public void aTimeThatComesTwiceIsDueOnceUnlessEveryHourCounts() {
        assertEquals(
                local(cron("30 2 * * *", "Europe/Vienna"), "2026-10-24T12:00:00Z", 2),
                List.of("2026-10-25T02:30+02:00", "2026-10-26T02:30+01:00"));
        assertEquals(
                local(cron("30 * * * *", "Europe/Vienna"), "2026-10-25T00:00:00Z", 3),
                List.of("2026-10-25T02:30+02:00", "2026-10-25T02:30+01:00", "2026-10-25T03:30+01:00"));
    }

    @DataProvider
    Object[][] changes() {
        return new Object[][] {
            {"Europe/Vienna", "2027-03-14T00:00:00Z"},
            {"Europe/Vienna", "2026-10-11T00:00:00Z"},
            {"America/New_York", "2027-03-01T00:00:00Z"},
            {"America/New_York", "2026-10-18T00:00:00Z"},
            // half an hour only
            {"Australia/Lord_Howe", "2026-09-20T00:00:00Z"},
            {"Australia/Lord_Howe", "2027-03-21T00:00:00Z"},
        };
    }

    /** A month of a minute-by-minute clock over a change: every day once, every hour that passes once. */
    @Test(dataProvider = "changes")
    public void aMonthOverAChangeHasEveryDayOnceAndEveryHourThatPasses(String zone, String from) {
        Instant begin = Instant.parse(from);
        Instant end = begin.plusSeconds(31L * 24 * 3600);
        for (String time : List.of("30 2", "15 1", "0 0", "59 23")) {
            Schedule daily = cron(time + " * * *", zone);
            List<LocalDate> days = new ArrayList<>();
            for (Instant at = daily.next(begin); at.isBefore(end); at = daily.next(at)) {
                days.add(LocalDate.ofInstant(at, daily.zone()));
            }
            for (int i = 1; i < days.size(); i++) {
                assertEquals(days.get(i), days.get(i - 1).plusDays(1), time + " in " + zone);
            }
            assertTrue(days.size() >= 30, days.toString());
        }
        // wherever the wall shows a full hour, once each time it does
        List<Instant> shown = new ArrayList<>();
        for (Instant at = begin.plusSeconds(60); at.isBefore(end); at = at.plusSeconds(60)) {
            if (LocalDateTime.ofInstant(at, ZoneId.of(zone)).getMinute() == 0) {
                shown.add(at);
            }
        }
        assertEquals(cron("0 * * * *", zone).next(begin, shown.size()), shown);
    }

    @Test
    public void intervalsGoOnWithoutRegardToSummerTime() {
        Schedule every = new Schedule(null, 45, VIENNA, WorkingDays.ALL, false);
        List<Instant> times = every.next(Instant.parse("2026-10-25T00:10:00Z"), 4);
        for (int i = 1; i < times.size(); i++) {
            assertEquals(times.get(i), times.get(i - 1).plusSeconds(45 * 60));
        }
    }

    @Test
    public void daysOffAreLeftOutOrPostponed() {
        WorkingDays days =
                new WorkingDays(WEEKEND, Set.of(LocalDate.of(2026, 12, 8)), LocalTime.of(6, 0), LocalTime.of(17, 30));
        Schedule out = new Schedule(Cron.parse("0 7 * * *"), null, VIENNA, days, false);
        assertEquals(
                local(out, "2026-12-04T12:00:00Z", 3),
                List.of("2026-12-07T07:00+01:00", "2026-12-09T07:00+01:00", "2026-12-10T07:00+01:00"));
        Schedule postponed = new Schedule(Cron.parse("0 18 * * *"), null, VIENNA, days, true);
        assertEquals(
                local(postponed, "2026-12-03T12:00:00Z", 3),
                List.of("2026-12-04T06:00+01:00", "2026-12-07T06:00+01:00", "2026-12-09T06:00+01:00"),
                "what is due after the cut-off, on a weekend or on a day off comes at the next opening, once");
    }

    @Test
    public void wrongExpressionsSayWhatIsWrong() {
        for (String wrong : List.of(
                "",
                "* * * *",
                "60 * * * *",
                "* 24 * * *",
                "* * 0 * *",
                "* * * 13 *",
                "* * * * 8",
                "5-1 * * * *",
                "*/0 * * * *",
                "a * * * *",
                "1,,2 * * * *",
                "1/2/3 * * * *")) {
            assertThrows(wrong, IllegalArgumentException.class, () -> Cron.parse(wrong));
        }
        assertThrows(IllegalArgumentException.class, () -> new Schedule(null, 0, VIENNA, WorkingDays.ALL, false));
        assertThrows(
                IllegalArgumentException.class,
                () -> new WorkingDays(Set.of(DayOfWeek.values()), Set.of(), null, null));
        assertFalse(WorkingDays.ALL.datesOff().iterator().hasNext());
    }

    @Test
    public void wordsSayWhen() {
        assertEquals(cron("30 2 * * mon-fri", "Europe/Vienna").words(), "Monday to Friday at 02:30 (Europe/Vienna)");
        assertEquals(cron("0 6 * * 1,3", "Europe/Vienna").words(), "Monday, Wednesday at 06:00 (Europe/Vienna)");
        assertEquals(cron("5 0 * * *", "Z").words(), "every day at 00:05 (Z)");
        assertEquals(new Schedule(null, 15, ZoneOffset.UTC, WorkingDays.ALL, false).words(), "every 15 minutes");
    }

    @Test
    public void neverIsSaid() {
        assertEquals(cron("0 0 30 2 *", "Europe/Vienna").next(Instant.parse("2026-12-01T00:00:00Z")), null);
    }
}
