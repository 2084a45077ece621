package wirekettle.core.value;

import static org.testng.Assert.assertEquals;

import java.time.Instant;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;

/** How numbers of a series are written, and what a series cannot be. */
public class SeriesTest {
    private static Series series(String pattern, boolean yearly) {
        return new Series("papers", true, 1, pattern, yearly, null);
    }

    @DataProvider
    public Object[][] written() {
        return new Object[][] {
            {null, "7"},
            {"HC-{year}-{number:5}", "HC-2026-00007"},
            {"{year:2}/{number}", "26/7"},
            {"{number:1}", "7"},
            {"no {number:3} of {year}", "no 007 of 2026"},
        };
    }

    @Test(dataProvider = "written")
    public void aNumberIsWrittenByThePattern(String pattern, String text) {
        assertEquals(series(pattern, false).text(7, 2026), text);
    }

    @Test
    public void aNumberWiderThanItsPatternIsWrittenWhole() {
        assertEquals(series("{number:2}", false).text(12_345, 2026), "12345");
    }

    @DataProvider
    public Object[][] wrong() {
        return new Object[][] {
            {series("HC-{year}", false), "the pattern has no {number}"},
            {
                series("{month}-{number}", false),
                "{month} means nothing here: a pattern has {number}, {number:5}, {year} and {year:2}"
            },
            {series("HC-{number}", true), "it begins anew each year: put {year} into its pattern, or numbers come twice"
            },
            {series(null, true), "it begins anew each year: put {year} into its pattern, or numbers come twice"},
            {new Series("p", true, -1, null, false, null), "the first number is at least 0"},
            {
                new Series("p", true, 1, null, false, "Halewick"),
                "there is no zone “Halewick”: a zone is written as Europe/Paris"
            },
            {series("{year}-{number:4}", true), null},
        };
    }

    @Test(dataProvider = "wrong")
    public void whatCannotBeIsSaid(Series series, String problem) {
        assertEquals(series.problem(), problem);
    }

    @Test
    public void theYearIsThatOfItsZone() {
        Instant eve = Instant.parse("2026-12-31T23:30:00Z");
        assertEquals(series(null, false).year(eve), 2026);
        assertEquals(new Series("p", true, 1, null, false, "Europe/Paris").year(eve), 2027);
    }
}
