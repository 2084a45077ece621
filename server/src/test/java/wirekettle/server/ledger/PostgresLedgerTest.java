package wirekettle.server.ledger;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNotNull;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;
import static wirekettle.server.ledger.Books.NOVEMBER;
import static wirekettle.server.ledger.Books.claim;
import static wirekettle.server.ledger.Books.done;
import static wirekettle.server.ledger.Books.passage;
import static wirekettle.server.ledger.Books.rejected;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.flow.run.Claim;
import wirekettle.core.flow.run.Effect;
import wirekettle.core.flow.run.Ledger;
import wirekettle.core.flow.run.LedgerLine;
import wirekettle.core.flow.run.Passage;
import wirekettle.core.flow.run.Passage.Outcome;
import wirekettle.core.flow.run.Past;
import wirekettle.core.flow.run.Totals;

/** The books of runs in a real database. */
public class PostgresLedgerTest {
    private static final String MADE =
            "{\"now\":\"2026-11-28T22:00:00Z\",\"made\":{\"borrower\":\"<row><town>Öderstad</town></row>\"},\"ways\":{\"which\":1}}";

    private Books books;

    @BeforeClass
    public void open() throws Exception {
        books = new Books(Files.createTempDirectory("books"));
    }

    @AfterClass(alwaysRun = true)
    public void close() throws Exception {
        books.close();
    }

    private String count(String table, long run) throws Exception {
        return books.database.value("select count(*) from " + table + " where run_id = " + run);
    }

    @Test
    public void aBatchWrittenOnceMoreChangesNothing() throws Exception {
        long run = books.run(NOVEMBER);
        Ledger.Batch batch = new Ledger.Batch(
                List.of(claim(3, "book", MADE)),
                List.of(),
                List.of(
                        done(1, "L-1"),
                        rejected(2, "L-2", "UnknownInstitution", passage("book", Outcome.NOT_DONE, "<fault/>"))),
                Map.of("write", 17L),
                "2026-11-28",
                new Totals(3, List.of(1L, 1L, 0L, 0L, 0L), 0, 1, 1, Map.of(), Map.of()));
        PostgresLedger.OfRun ledger = books.held(run);
        ledger.keep(batch);
        ledger.keep(batch);
        assertEquals(count("record_end", run), "2");
        assertEquals(count("passage", run), "2");
        assertEquals(count("passage_attempt", run), "1");
        assertEquals(count("passage_exchange", run), "1");
        assertEquals(books.lines.causes(run).get(0).count(), 1);
        RunMapper.Row row = books.runs.byId(run);
        assertEquals(row.read() + " " + row.done() + " " + row.rejected() + " " + row.ended(), "3 1 1 2");
        assertEquals(books.runs.positions(run), "{\"write\": 17}");
        assertNull(books.lines.items(run, 1));
        String items = books.lines.items(run, 2);
        assertTrue(items.contains("\"lines:2\"") && items.contains("\"rejected\""), items);
    }

    @Test
    public void whoeverHeldARunBeforeWritesNothingMore() throws Exception {
        long run = books.run(NOVEMBER);
        PostgresLedger.OfRun before = books.held(run);
        PostgresLedger.OfRun now = books.held(run);
        IOException refused = expectThrows(IOException.class, () -> before.keep(Books.ends(done(1, "L-1"))));
        assertTrue(refused.getMessage().contains("another server"), refused.getMessage());
        assertEquals(count("record_end", run), "0");
        assertEquals(books.runs.byId(run).done(), 0L);
        now.keep(Books.ends(done(1, "L-1")));
        assertEquals(count("record_end", run), "1");
    }

    @Test
    public void whatAClaimKeepsIsEncryptedAndComesBackWhole() throws Exception {
        long run = books.run(NOVEMBER);
        PostgresLedger.OfRun ledger = books.held(run);
        ledger.keep(Books.claims(claim(1, "book", MADE), claim(1, "tell", MADE), claim(2, "book", MADE)));
        ledger.keep(Books.known(1, passage("book", Outcome.DONE, null), "<booked><no>T-9</no></booked>"));
        ledger.keep(Books.known(2, passage("book", Outcome.NOT_DONE, null), null));
        String bytes = books.database.value(
                "select string_agg(encode(made, 'escape') || coalesce(encode(reply, 'escape'), ''), '') from passage"
                        + " where run_id = " + run);
        assertFalse(bytes.contains("derstad") || bytes.contains("T-9"), bytes);

        Past past = books.past(run);
        assertNull(past.ended(1));
        Past.OpenRecord first = past.open(1);
        assertEquals(first.fingerprint(), "print-1");
        assertTrue(first.replay().text("").contains("Öderstad"), first.replay().text(""));
        assertNull(past.open(3));
    }

    @Test
    public void effectsOfItemsAreKeptApartByTheirPlaces() throws Exception {
        long run = books.run(NOVEMBER);
        PostgresLedger.OfRun ledger = books.held(run);
        Effect first = new Effect("crates:1", "book", 1);
        Effect second = new Effect("crates:2", "book", 1);
        ledger.keep(Books.claims(
                new Claim(1, "print-1", first, MADE, null),
                new Claim(1, "print-1", second, MADE, null),
                claim(1, "book", MADE)));
        Passage done = new Passage(first, Outcome.DONE, true, List.of(), null);
        ledger.keep(Books.known(1, done, "<booked/>"));
        assertEquals(
                books.lines.passages(run, 1).stream()
                        .map(each -> each.path() + " " + each.outcome())
                        .toList(),
                List.of(" claimed", "crates:1 done", "crates:2 claimed"));
        assertNotNull(books.past(run).open(1));
    }

    /** What was claimed for a batch is kept until its last record has ended, though the one that leads it has. */
    @Test
    public void aBatchIsKnownToItsOpenRecordsThoughItsFirstHasEnded() throws Exception {
        long run = books.run(NOVEMBER);
        PostgresLedger.OfRun ledger = books.held(run);
        String made =
                "{\"now\":\"2026-11-23T09:14:02Z\",\"batches\":{\"papers:1\":{\"stage\":\"papers\",\"node\":\"<papers/>\","
                        + "\"members\":[{\"ordinal\":1,\"fingerprint\":\"print-1\",\"made\":\"{}\"},"
                        + "{\"ordinal\":2,\"fingerprint\":\"print-2\",\"made\":\"{}\"}]}}}";
        Effect effect = new Effect("papers:1", "submit", 1);
        Passage done = new Passage(effect, Outcome.DONE, true, List.of(), null);
        ledger.keep(Books.claims(new Claim(1, "print-1", effect, made, 2L)));
        ledger.keep(Books.known(1, done, "<answer/>"));
        ledger.keep(Books.ends(Books.line(1, "L-1", wirekettle.core.flow.run.End.DONE, null, List.of(done))));
        Past past = books.past(run);
        assertNull(past.open(1));
        assertEquals(past.open(2).fingerprint(), "print-2");
        ledger.keep(Books.ends(done(1, "L-1"), done(2, "L-2")));
        assertNull(books.past(run).open(2));
    }

    @Test
    public void whatIsOverKeepsNothingThatWasNeededToGoOn() throws Exception {
        long run = books.run(NOVEMBER);
        PostgresLedger.OfRun ledger = books.held(run);
        ledger.keep(Books.claims(claim(1, "book", MADE), claim(2, "book", MADE)));
        ledger.keep(Books.ends(
                Books.line(
                        1,
                        "L-1",
                        wirekettle.core.flow.run.End.DONE,
                        null,
                        List.of(passage("book", Outcome.DONE, "<booked/>"))),
                rejected(2, "L-2", "NoCrate", passage("book", Outcome.DONE, "<booked/>"))));
        assertEquals(
                books.database.value("select string_agg(ordinal || ' ' || (made is null), ', ' order by ordinal)"
                        + " from passage where run_id = " + run),
                "1 true, 2 false"); // the rejected one may be sent again from there
        assertNull(books.past(run).open(2));
    }

    @Test
    public void aRunThatGoesOnPassesOverWhatEndedInTheOrderOfItsInput() throws Exception {
        long run = books.run(NOVEMBER);
        PostgresLedger.OfRun ledger = books.held(run);
        List<LedgerLine> ended = new ArrayList<>();
        for (long ordinal = 1; ordinal <= 12_000; ordinal++) {
            if (ordinal % 5 != 0) {
                ended.add(done(ordinal, "L-" + ordinal));
            }
        }
        ledger.keep(Books.ends(ended.toArray(LedgerLine[]::new)));
        Past past = books.past(run);
        for (long ordinal = 1; ordinal <= 12_005; ordinal++) {
            String expected = ordinal % 5 == 0 || ordinal > 12_000 ? null : "print-" + ordinal;
            assertEquals(past.ended(ordinal), expected, "record " + ordinal);
        }
        assertEquals(past.totals().ended(), ended.size());
    }

    @Test
    public void keysThatAreHeldBackAreKnownAgain() throws Exception {
        long run = books.run(NOVEMBER);
        books.held(run)
                .keep(Books.ends(
                        rejected(4, "L-4", "NoCrate"),
                        rejected(2, "L-4", "NoCrate"),
                        done(5, "L-5"),
                        rejected(6, null, "NoCrate")));
        assertEquals(books.past(run).held(), Map.of("L-4", 2L));
    }

    @Test
    public void textsTheDatabaseCannotHoldAreKeptWithAMark() throws Exception {
        long run = books.run(NOVEMBER);
        byte[] odd = "<a>\u0000</a>".getBytes(StandardCharsets.UTF_8);
        Passage passage = new Passage(
                Effect.of("book", 1),
                Outcome.NOT_DONE,
                true,
                List.of(new Passage.Attempt(1, NOVEMBER, 1, 500, true, "broke off after \u0000")),
                new Passage.Exchange("http://127.0.0.1:9/", odd, 500, odd));
        books.held(run).keep(Books.ends(rejected(1, "L\u0000-1", "odd \u0000 cause", passage)));
        LedgerMapper.Line line = books.lines.line(run, 1);
        assertEquals(line.key(), "L\uFFFD-1");
        assertEquals(line.cause(), "odd \uFFFD cause");
        assertEquals(books.lines.exchanges(run, 1).get(0).reply(), "<a>\uFFFD</a>");
    }

    @Test
    public void eachMonthHasTablesOfItsOwn() throws Exception {
        long old = books.run(NOVEMBER);
        long young = books.run(Books.DECEMBER);
        books.held(old).keep(Books.ends(done(1, "L-1")));
        books.held(young).keep(Books.ends(done(1, "L-1"), done(2, "L-2")));
        assertEquals(
                books.database.value(
                        "select count(distinct tableoid) from record_end where run_id in (" + old + ", " + young + ")"),
                "2");
        assertEquals(books.lines.count(young, "%", "%", "%", "%"), 2);
    }

    @DataProvider
    public Object[][] narrowed() {
        return new Object[][] {
            {"%", "%", "%", "%", "1 2 3 4"},
            {"rejected", "%", "%", "%", "2 3 4"},
            {"%", "NoCrate", "%", "%", "3 4"},
            {"%", "%", "book", "%", "2 3 4"},
            {"%", "%", "%", "%100\\%%", "4"},
            {"%", "%", "%", "%l-2%", "2"},
            {"in-doubt", "%", "%", "%", ""},
        };
    }

    @Test(dataProvider = "narrowed")
    public void linesAreNarrowedAndPaged(String ended, String cause, String stage, String like, String expected)
            throws Exception {
        long run = books.run(NOVEMBER);
        books.held(run)
                .keep(Books.ends(
                        done(1, "L-1"),
                        rejected(2, "L-2", "UnknownInstitution"),
                        rejected(3, "L-3", "NoCrate"),
                        rejected(4, "100% silk", "NoCrate")));
        List<String> found = new ArrayList<>();
        for (long offset = 0; ; offset++) {
            List<LedgerMapper.Line> page = books.lines.page(run, ended, cause, stage, like, 1, offset);
            if (page.isEmpty()) {
                break;
            }
            found.add(page.get(0).ordinal().toString());
        }
        assertEquals(String.join(" ", found), expected);
        assertEquals(books.lines.count(run, ended, cause, stage, like), found.size());
    }

    @Test
    public void whatWasSentAgainInVainIsPickedFromItsLastRun() throws Exception {
        long first = books.run(NOVEMBER);
        PostgresLedger.OfRun ledger = books.held(first);
        ledger.keep(Books.claims(claim(7, "book", MADE), claim(9, "book", MADE)));
        ledger.keep(Books.ends(
                rejected(7, "L-7", "NoCrate", passage("book", Outcome.DONE, "<booked/>")),
                rejected(9, "L-9", "NoCrate", passage("book", Outcome.NOT_DONE, "<fault/>")),
                done(8, "L-8")));
        assertEquals(books.runs.byId(first).open(), 2);

        long second = books.run(NOVEMBER);
        books.runs.origin(second, first, 2, "kept");
        assertEquals(books.lines.pick(first, second, "%", ""), 2);
        books.runs.resent(first, 2);
        assertEquals(books.runs.byId(first).open(), 0);
        assertEquals(books.lines.pick(first, second + 1, "%", ""), 0); // nobody sends them twice
        Past past = books.past(second);
        assertEquals(past.picked(), List.of(7L, 9L));
        assertEquals(past.seen(2), "print-9");
        assertNotNull(past.open(1));
        books.held(second).keep(Books.ends(rejected(1, "L-7", "NoCrate"), done(2, "L-9")));

        long third = books.run(NOVEMBER);
        books.runs.origin(third, second, 1, "kept");
        assertEquals(books.lines.pick(second, third, "NoCrate", ""), 1);
        Past again = books.past(third);
        assertEquals(again.picked(), List.of(7L));
        assertEquals(again.seen(1), "print-7");
        assertNotNull(again.open(1), "what the first run did is known");
    }

    @Test
    public void theBooksWaitForADatabaseThatIsAway() throws Exception {
        try (Books own = new Books(Files.createTempDirectory("books"))) {
            long run = own.run(NOVEMBER);
            PostgresLedger.OfRun ledger = own.held(run);
            own.database.away();
            CompletableFuture<Void> kept = CompletableFuture.runAsync(() -> keep(ledger));
            while (ledger.away() == null) {
                Thread.onSpinWait();
            }
            assertTrue(ledger.away().startsWith("the database is away"), ledger.away());
            own.database.back();
            kept.join();
            assertNull(ledger.away());
            assertEquals(own.runs.byId(run).done(), 1L);

            own.database.away();
            CompletableFuture<Void> given = CompletableFuture.runAsync(() -> keep(ledger));
            while (ledger.away() == null) {
                Thread.onSpinWait();
            }
            ledger.giveUp();
            CompletionException ended = expectThrows(CompletionException.class, given::join);
            assertTrue(ended.getCause().getCause() instanceof IOException, ended.toString());
            own.database.back();
        }
    }

    private static void keep(Ledger ledger) {
        try {
            ledger.keep(Books.ends(done(1, "L-1")));
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    @Test
    public void aRunOfAnotherStateIsNotTakenUpAgain() {
        long run = books.run(NOVEMBER);
        assertEquals(books.runs.goOn(run), 0);
        books.runs.end(run, "paused", null);
        assertEquals(books.runs.goOn(run), 1);
        books.runs.end(run, "done", null);
        assertEquals(books.runs.goOn(run), 0);
        assertFalse(books.runs.interrupt("").contains(run));
    }

    @Test
    public void aRunIsTakenOverWhereItsServerEndedOrItsLeaseIsOver() throws Exception {
        long held = books.run(NOVEMBER);
        long gone = books.run(NOVEMBER);
        long late = books.run(NOVEMBER);
        books.runs.take(held, "here");
        books.runs.take(gone, "gone");
        books.runs.take(late, "elsewhere");
        books.database.execute("update run_part set lease_until = now() - interval '1 second' where run_id = " + late);
        List<Long> taken = books.runs.interrupt("gone,long ago");
        assertTrue(taken.contains(gone) && taken.contains(late), taken.toString());
        assertFalse(taken.contains(held), taken.toString());
        assertEquals(books.runs.endHeld(held, "gone", "done", null), 0, "only who holds a run ends it");
        assertEquals(books.runs.endHeld(held, "here", "done", null), 1);
    }

    @Test
    public void whatIsAskedOfARunIsKnownToWhoHoldsIt() {
        long run = books.run(NOVEMBER);
        books.runs.take(run, "one");
        assertEquals(books.runs.want(run, "pause"), 1);
        assertEquals(books.runs.wanted("other").size(), 0);
        assertEquals(books.runs.wanted("one"), List.of(new RunMapper.Wanted(run, "pause")));
        books.runs.end(run, "paused", null);
        books.runs.goOn(run);
        assertEquals(books.runs.wanted("one"), List.of(), "who lets it go on asks nothing");
    }
}
