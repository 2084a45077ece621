package wirekettle.core.soap;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNotNull;
import static org.testng.Assert.assertNull;

import java.time.Instant;
import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;

/** When an endpoint is open. */
public class EndpointHoursTest {
    private static final EndpointHours NIGHT = new EndpointHours(
            "Europe/Vienna",
            List.of(
                    new EndpointHours.Span(List.of(1, 2, 3, 4, 5), "22:00", "05:30", 20.0),
                    new EndpointHours.Span(List.of(6), "00:00", "24:00", null)),
            600);

    @DataProvider
    Object[][] moments() {
        return new Object[][] {
            // Tuesday, 1 December 2026
            {"2026-12-01T12:00:00Z", "2026-12-01T21:00:00Z"},
            {"2026-12-01T21:00:00Z", null},
            {"2026-12-02T04:15:00Z", null},
            // it closes at 05:30: ten minutes before, nothing new is sent
            {"2026-12-02T04:20:00Z", "2026-12-02T21:00:00Z"},
            // Friday night goes on into Saturday, and that until Sunday begins
            {"2026-12-05T04:29:00Z", null},
            {"2026-12-05T12:00:00Z", null},
            {"2026-12-05T22:50:00Z", "2026-12-07T21:00:00Z"},
            // Sunday 01:00 on clocks put back is over: Monday
            {"2026-10-25T00:30:00Z", "2026-10-26T21:00:00Z"},
        };
    }

    @Test(dataProvider = "moments")
    public void itSaysWhenItOpens(String now, String opens) {
        Instant expected = opens == null ? null : Instant.parse(opens);
        assertEquals(NIGHT.opens(Instant.parse(now)), expected);
    }

    @Test
    public void ratesGoByTheHour() {
        assertEquals(NIGHT.perSecond(Instant.parse("2026-12-01T23:00:00Z")), 20.0);
        assertNull(NIGHT.perSecond(Instant.parse("2026-12-05T12:00:00Z")));
    }

    @Test
    public void withoutSpansItIsAlwaysOpen() {
        assertNull(new EndpointHours("UTC", List.of(), null).opens(Instant.EPOCH));
    }

    @Test
    public void whatCannotBeReadIsSaid() {
        assertNull(NIGHT.problem());
        for (EndpointHours wrong : List.of(
                new EndpointHours("Nowhere/Atall", List.of(), null),
                new EndpointHours(null, List.of(), null),
                new EndpointHours("UTC", List.of(new EndpointHours.Span(List.of(8), "01:00", "02:00", null)), null),
                new EndpointHours("UTC", List.of(new EndpointHours.Span(null, "1", "02:00", null)), null),
                new EndpointHours("UTC", List.of(new EndpointHours.Span(null, "01:00", null, null)), null),
                new EndpointHours("UTC", List.of(new EndpointHours.Span(null, "01:00", "02:00", 0.0)), null),
                new EndpointHours("UTC", List.of(), 9_999))) {
            assertNotNull(wrong.problem(), wrong.toString());
        }
    }
}
