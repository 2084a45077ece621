package wirekettle.server.flows;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.expectThrows;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import org.testng.annotations.AfterMethod;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.server.Database;
import wirekettle.server.ledger.RunMapper;
import wirekettle.server.uses.UseMapper;
import wirekettle.server.uses.Uses;
import wirekettle.server.uses.UsesOf;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** Flows, their revisions and what holds them, in a real database. */
public class FlowMapperTest {
    private Database database;
    private FlowMapper flows;
    private RunMapper runs;

    @BeforeMethod
    public void open() throws Exception {
        database = Database.open();
        flows = database.mapper(FlowMapper.class);
        runs = database.mapper(RunMapper.class);
    }

    @AfterMethod(alwaysRun = true)
    public void close() throws Exception {
        database.close();
    }

    private long run(long flow) {
        return runs.add(flow, 1, "{}", "Test", "ada", Instant.parse("2026-11-28T22:00:00Z"), 1, 0, false);
    }

    @Test
    public void ofPeopleWhoSaveAtOnceOneDoes() {
        long id = flows.add("Check borrowers", "ada");
        List<CompletableFuture<Integer>> saves = new ArrayList<>();
        for (int i = 0; i < 6; i++) {
            String by = "person " + i;
            saves.add(CompletableFuture.supplyAsync(() -> flows.advance(id, 1, "Check borrowers", by)));
        }
        assertEquals(saves.stream().mapToInt(CompletableFuture::join).sum(), 1);
        assertEquals(flows.byId(id).revision(), (Integer) 2);
    }

    @Test
    public void everyRevisionStaysAsItWas() {
        long id = flows.add("Check borrowers", "ada");
        flows.keep(id, 1, "first", "ada");
        flows.advance(id, 1, "Check all borrowers", "bo");
        flows.keep(id, 2, "second", "bo");
        assertEquals(flows.file(id, 1), "first");
        assertEquals(flows.file(id, 2), "second");
        assertNull(flows.file(id, 3));
        assertEquals(flows.byId(id).name() + flows.byId(id).changedBy(), "Check all borrowersbo");
        expectThrows(RuntimeException.class, () -> flows.keep(id, 2, "another second", "cy"));
    }

    @Test
    public void aFlowThatRanIsArchivedAndItsNameFree() {
        long id = flows.add("Check borrowers", "ada");
        run(id);
        assertEquals(flows.remove(id), 0);
        flows.archive(id);
        assertNull(flows.byName("Check borrowers"));
        assertEquals(flows.count("%"), 0);
        long second = flows.add("Check borrowers", "ada");
        assertEquals(flows.remove(second), 1);
        assertEquals(runs.last(id).flowName(), "Check borrowers");
    }

    @DataProvider
    public Object[][] searches() {
        return new Object[][] {
            {"", 4}, {"BOOK", 2}, {"%", 1}, {"_", 1}, {"\\", 0}, {"100%", 1}, {"'; drop table flow; --", 0},
        };
    }

    @Test(dataProvider = "searches")
    public void flowsAreFoundByWhatStandsInTheirNames(String search, int expected) {
        for (String name : List.of("Book transports", "Book_all", "100% checked", "Read climate")) {
            flows.add(name, "ada");
        }
        assertEquals(flows.count(Page.like(search)), expected);
        assertEquals(flows.page(Page.like(search), "lower(name)", 50, 0).size(), expected);
    }

    @Test
    public void aListIsPagedInItsOrder() {
        for (int i = 0; i < 7; i++) {
            flows.add("Flow " + i, "ada");
        }
        List<String> names = new ArrayList<>();
        for (int page = 1; page <= 4; page++) {
            flows.page("%", "lower(name)", Page.size(2), Page.offset(page, 2))
                    .forEach(row -> names.add(row.name().substring(5)));
        }
        assertEquals(String.join("", names), "0123456");
        assertEquals(Page.size(null) + " " + Page.size(0) + " " + Page.size(5_000), "50 1 500");
        assertEquals(Page.offset(-3, 10), 0);
    }

    @Test
    public void whatARunUsesIsHeldUntilItHasEnded() {
        long run = run(flows.add("Check borrowers", "ada"));
        Uses uses = UsesOf.a(database.mapper(UseMapper.class));
        uses.add(run, Uses.Kind.DATASET, "loans");
        uses.add(run, Uses.Kind.DATASET, "loans");
        uses.add(run, Uses.Kind.DATASET, null);
        uses.mustBeFree(Uses.Kind.CONTRACT, "loans", "The contract “loans”");
        Problem held =
                expectThrows(Problem.class, () -> uses.mustBeFree(Uses.Kind.DATASET, "loans", "The dataset “loans”"));
        assertEquals(
                held.getMessage(),
                "The dataset “loans” is used by run " + run + ": wait until it has ended, or cancel it.");
        runs.end(run, "paused", null);
        assertEquals(uses.going(Uses.Kind.DATASET, "loans"), List.of(run));
        runs.end(run, "cancelled", null);
        uses.mustBeFree(Uses.Kind.DATASET, "loans", "The dataset “loans”");
    }

    @Test
    public void aKeptReplyTakesThePlaceOfTheOlderOne() {
        long id = flows.add("Check borrowers", "ada");
        KeptReplyMapper kept = database.mapper(KeptReplyMapper.class);
        kept.keep(id, "call", 3, "", "Register", "Test", "aa", "<ask/>", 200, "<first/>", null, 4);
        kept.keep(id, "call", 1, "", "Register", "Test", "bb", "<ask/>", 500, "<fault/>", "fault", 4);
        kept.keep(id, "call", 3, "", "Register", "Test", "cc", "<ask/>", 200, "<second/>", null, 4);
        kept.keep(id, "call", 3, "", "Register", "Live", "cc", "<ask/>", 200, "<live/>", null, 4);
        List<KeptReplyMapper.Row> test = kept.all(id, "call", "Test");
        assertEquals(test.stream().map(KeptReplyMapper.Row::reply).toList(), List.of("<fault/>", "<second/>"));
        assertEquals(kept.size(id, "call", "Test"), "<fault/><second/>".length());
        assertEquals(kept.everywhere(id, "call").size(), 3);
    }
}
