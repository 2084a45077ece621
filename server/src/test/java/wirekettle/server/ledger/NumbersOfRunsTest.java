package wirekettle.server.ledger;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;
import static wirekettle.server.ledger.Books.NOVEMBER;
import static wirekettle.server.ledger.Books.claim;

import java.io.IOException;
import java.nio.file.Files;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.core.flow.run.Claim;
import wirekettle.core.flow.run.DrawnNumber;
import wirekettle.core.flow.run.DrawnNumber.Fate;
import wirekettle.core.flow.run.Effect;
import wirekettle.core.flow.run.End;
import wirekettle.core.flow.run.LedgerLine;
import wirekettle.core.flow.run.Numbers;
import wirekettle.core.value.Series;
import wirekettle.server.series.SeriesOf;
import wirekettle.server.series.SeriesStore;

/** Numbers that runs draw from series, settled with the ends of their records in a real database. */
public class NumbersOfRunsTest {
    private Books books;
    private SeriesStore store;

    @BeforeClass
    public void open() throws Exception {
        books = new Books(Files.createTempDirectory("numbers"));
        store = SeriesOf.over(books.database);
    }

    @AfterClass(alwaysRun = true)
    public void close() throws Exception {
        books.close();
    }

    private Series gapless(String name) {
        return SeriesOf.added(store, new Series(name, true, 1, null, false, null));
    }

    private static Numbers.Place at(long ordinal) {
        return new Numbers.Place(ordinal, "", "draw");
    }

    private static LedgerLine line(long ordinal, Series series, long number, Fate fate) {
        End end = fate == Fate.USED ? End.DONE : End.REJECTED;
        return Books.line(ordinal, null, end, null, List.of())
                .drawing(List.of(new DrawnNumber(series, number, 2026, "", "draw", fate)));
    }

    @Test
    public void twoRunsAtOnceDrawEachNumberOnce() throws Exception {
        Series series = gapless("both");
        ExecutorService threads = Executors.newFixedThreadPool(8);
        List<Callable<Long>> draws = new ArrayList<>();
        for (long run : List.of(books.run(NOVEMBER), books.run(NOVEMBER))) {
            Numbers numbers = store.drawing(run, "Test");
            for (long ordinal = 1; ordinal <= 40; ordinal++) {
                Numbers.Place place = at(ordinal);
                draws.add(() -> numbers.draw(series, 2026, place));
            }
        }
        Set<Long> drawn = new TreeSet<>();
        for (Future<Long> each : threads.invokeAll(draws)) {
            assertTrue(drawn.add(each.get()));
        }
        threads.shutdown();
        assertEquals(drawn.size(), 80);
        assertEquals(drawn.iterator().next(), Long.valueOf(1));
        assertEquals(((TreeSet<Long>) drawn).last(), Long.valueOf(80));
    }

    @Test
    public void theSamePlaceHasTheSameNumberUntilItsRecordEnds() throws Exception {
        Series series = gapless("same");
        long run = books.run(NOVEMBER);
        Numbers numbers = store.drawing(run, "Test");
        assertEquals(numbers.draw(series, 2026, at(1)), 1);
        assertEquals(store.drawing(run, "Test").draw(series, 2026, at(1)), 1, "after a crash");
        assertEquals(numbers.draw(series, 2026, at(2)), 2);
        PostgresLedger.OfRun held = books.held(run);
        held.keep(Books.ends(line(1, series, 1, Fate.GIVEN_BACK), line(2, series, 2, Fate.USED)));
        // written once more, when nobody knows whether the database had taken it
        held.keep(Books.ends(line(1, series, 1, Fate.GIVEN_BACK), line(2, series, 2, Fate.USED)));
        assertEquals(numbers.draw(series, 2026, at(3)), 1, "what was given back is drawn first");
        assertEquals(numbers.draw(series, 2026, at(4)), 3);
        assertEquals(
                books.database.value("select count(*) from series_number n join series s on s.id = n.series_id"
                        + " where s.name = 'same'"),
                "2");
        String kept = books.lines.numbers(run, 1);
        assertTrue(kept.contains("\"givenBack\":true") && kept.contains("\"text\":\"1\""), kept);
    }

    @Test
    public void environmentsAndYearsCountForThemselves() throws Exception {
        Series series = SeriesOf.added(store, new Series("yearly", true, 10, "{year}/{number}", true, null));
        long run = books.run(NOVEMBER);
        assertEquals(store.drawing(run, "Test").draw(series, 2026, at(1)), 10);
        assertEquals(store.drawing(run, "Test").draw(series, 2027, at(2)), 10);
        assertEquals(store.drawing(run, "Test").draw(series, 2026, at(3)), 11);
        assertEquals(store.drawing(books.run(NOVEMBER), "Live").draw(series, 2026, at(1)), 10);
        assertEquals(store.looking("Test").draw(series, 2026, at(9)), 12);
        assertEquals(store.looking("Test").draw(series, 2026, at(9)), 12, "looking draws nothing");
    }

    /** What nothing was claimed for comes back when its run is over; of the rest nobody knows. */
    @Test
    public void aRunThatIsOverGivesBackWhatItHolds() throws Exception {
        Series series = gapless("over");
        long run = books.run(NOVEMBER);
        Numbers numbers = store.drawing(run, "Test");
        numbers.draw(series, 2026, at(1));
        numbers.draw(series, 2026, at(2));
        // what is run once before the first record is needed by all of them, and says nothing of their numbers
        String now = "{\"now\":\"2026-11-28T22:00:00Z\"}";
        Claim once = new Claim(0, "print-0", Effect.of("open", 1), now, Long.MAX_VALUE);
        books.held(run).keep(Books.claims(once));
        books.held(run).keep(Books.claims(claim(2, "book", "{\"now\":\"2026-11-28T22:00:00Z\"}")));
        store.ended(run);
        Numbers others = store.drawing(books.run(NOVEMBER), "Test");
        assertEquals(others.draw(series, 2026, at(1)), 1);
        assertEquals(others.draw(series, 2026, at(2)), 3);
    }

    @Test
    public void aSeriesWithGapsIsFastAndNeverDrawsTwice() throws Exception {
        Series series = SeriesOf.added(store, new Series("tickets", false, 5, null, false, null));
        Set<Long> drawn = new TreeSet<>();
        for (int server = 0; server < 2; server++) {
            Numbers numbers = SeriesOf.over(books.database).drawing(books.run(NOVEMBER), "Test");
            for (long ordinal = 1; ordinal <= 60; ordinal++) {
                assertTrue(drawn.add(numbers.draw(series, 2026, at(ordinal))));
            }
        }
        assertEquals(drawn.iterator().next(), Long.valueOf(5));
    }

    @Test
    public void aSeriesThatWasRemovedSaysSo() {
        Series gone = new Series("gone", true, 1, null, false, null);
        IOException why =
                expectThrows(IOException.class, () -> store.drawing(1, "Test").draw(gone, 2026, at(1)));
        assertEquals(why.getMessage(), "the series was removed");
    }

    @Test
    public void whatARecordHandsOnIsKnownAgain() throws Exception {
        long run = books.run(NOVEMBER);
        PostgresLedger.OfRun held = books.held(run);
        var node = wirekettle.core.value.Node.build(wirekettle.core.value.Name.of("previous"))
                .add("n", "7")
                .done();
        LedgerLine carrying = Books.done(1, "HC-1").carrying(node);
        held.keep(Books.ends(carrying));
        assertEquals(books.past(run).carried("HC-1", 2).textOf("n"), "7");
        assertEquals(books.past(run).carried("HC-1", 1), null);
        assertEquals(books.past(run).carried("HC-2", 2), null);
        String kept = books.database.value("select encode(carried, 'escape') from record_end where run_id = " + run);
        assertTrue(!kept.contains("previous"), "it is sealed");
    }
}
