package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.io.IOException;
import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.value.Node;

/** Runs that go on from their ledgers. */
public class GoingOnTest extends OutlineFixture {
    @Test
    public void aPilotGoesOnWithTheRest() throws Exception {
        CompiledFlow flow = sound(file(reads("c", "$t/key"), write("out", "$t/n")));
        List<Node> records = records("a", "b", "c", "d", "e");
        Ran pilot = new Ran()
                .prepared(flow, doors(flow), Ran.source(records), Past.NONE, new FlowRun.Extent(2, true))
                .go();
        assertEquals(pilot.ended, FlowRun.Ended.PAUSED);
        assertFalse(pilot.finished || pilot.left);
        Ran rest = new Ran()
                .prepared(flow, doors(flow), Ran.source(records), pilot.past(), FlowRun.Extent.ALL)
                .go();
        assertEquals(rest.ended, FlowRun.Ended.DONE);
        assertEquals(rest.rows.get("out"), List.of("3", "4", "5"));
        assertEquals(rest.totals.of(End.DONE), 5);
        assertEquals(rest.totals.read(), 5);
    }

    /** What was asked between two changes is known by the second one's claim, whichever of the two is read first. */
    @Test
    public void aReadBetweenTwoChangesIsNotAskedAgain() throws Exception {
        CompiledFlow flow = sound(file(
                changes("first", "concat('first-', $t/key)"),
                reads("asked", "concat('ask-', $first/reference)"),
                changes("second", "concat('second-', $asked/status)"),
                write("out", "$first/reference", "$asked/status", "$second/reference")));
        service = request -> answer(reference(request), "seen");
        Ran whole = Ran.of(flow, doors(flow), records("a"));
        List<String> row = whole.rows.get("out");
        for (boolean latestFirst : List.of(false, true)) {
            Ran killed = new Ran();
            killed.claims.addAll(whole.claims);
            killed.known.addAll(whole.known);
            if (latestFirst) {
                java.util.Collections.reverse(killed.claims);
            }
            killed.totals = Totals.NONE.reading(1);
            sent.clear();
            service = request -> answer(reference(request), "would shift everything");
            Ran resumed = new Ran()
                    .prepared(flow, doors(flow), Ran.source(records("a")), killed.past(), FlowRun.Extent.ALL)
                    .go();
            assertEquals(sent, List.of());
            assertEquals(resumed.rows.get("out"), row);
        }
    }

    /** One record of three is sent again: it is the first of a run of its own, and its change is not made twice. */
    @Test
    public void whatIsSentAgainBeginsWithWhatItDid() throws Exception {
        CompiledFlow flow = sound(file(
                changes("first", "concat('first-', $t/key)"),
                reads("asked", "concat('ask-', $t/key)"),
                write("out", "$t/key", "$first/reference", "$asked/status")));
        service = request -> reference(request).equals("ask-b") ? fault("not now") : answer(reference(request), "seen");
        Ran origin = Ran.of(flow, doors(flow), records("a", "b", "c"));
        assertEquals(origin.line(2).end(), End.REJECTED, origin.lines.toString());
        Past known = origin.past();
        Past again = new Past() {
            @Override
            public String ended(long ordinal) {
                return null;
            }

            @Override
            public OpenRecord open(long ordinal) throws IOException {
                return known.open(2);
            }

            @Override
            public Totals totals() {
                return Totals.NONE;
            }

            @Override
            public List<Long> picked() {
                return List.of(2L);
            }
        };
        sent.clear();
        service = request -> answer(reference(request), "seen");
        Ran resent = new Ran()
                .prepared(flow, doors(flow), Ran.source(records("a", "b", "c")), again, FlowRun.Extent.ALL)
                .go();
        assertEquals(sent, List.of("ask-b"));
        assertEquals(resent.totals.read(), 1);
        assertEquals(resent.rows.get("out"), List.of("b|first-b|seen"));
    }

    @DataProvider
    public Object[][] otherSources() {
        return new Object[][] {
            {List.of("a", "z", "c"), "record 1 is another now"}, {List.of("a"), "record 2 is not there"}
        };
    }

    @Test(dataProvider = "otherSources")
    public void aRecordIsSentAgainOnlyWhereItStillIsTheSame(List<String> now, String said) throws Exception {
        CompiledFlow flow = sound(file(reads("asked", "$t/key"), write("out", "$asked/status")));
        service = request -> reference(request).equals("b") ? fault("not now") : answer("", "seen");
        Ran origin = Ran.of(flow, doors(flow), records("a", "b", "c"));
        Past again = new Past() {
            @Override
            public String ended(long ordinal) {
                return null;
            }

            @Override
            public OpenRecord open(long ordinal) {
                return null;
            }

            @Override
            public Totals totals() {
                return Totals.NONE;
            }

            @Override
            public List<Long> picked() {
                return List.of(2L);
            }

            @Override
            public String seen(long ordinal) {
                return origin.line(2).fingerprint();
            }
        };
        sent.clear();
        IOException changed = expectThrows(IOException.class, () -> new Ran()
                .prepared(flow, doors(flow), Ran.source(records(now.toArray(String[]::new))), again, FlowRun.Extent.ALL)
                .go());
        assertTrue(changed.getMessage().contains(said), changed.getMessage());
        assertEquals(sent, List.of());
    }

    @DataProvider
    public Object[][] crashes() {
        return new Object[][] {{"before the second change"}, {"while the second change was sent"}};
    }

    @Test(dataProvider = "crashes")
    public void aRunThatWasKilledGoesOnAndSendsNothingTwice(String when) throws Exception {
        boolean sending = when.startsWith("while");
        CompiledFlow flow = sound(file(
                reads("asked", "concat('ask-', $t/key)"),
                changes("first", "concat('first-', $asked/status)"),
                changes("second", "concat('second-', $t/key)"),
                write("out", "$asked/status", "$first/reference", "$second/reference")));
        service = request -> answer(reference(request), "seen");
        Ran whole = Ran.of(flow, doors(flow), records("a"));
        assertEquals(whole.rows.get("out"), List.of("seen|first-seen|second-a"), whole.lines.toString());
        // the ledger as it was when the power went
        Ran killed = new Ran();
        killed.claims.addAll(whole.claims.subList(0, sending ? 2 : 1));
        killed.known.addAll(whole.known.subList(0, 1));
        killed.totals = Totals.NONE.reading(1);
        sent.clear();
        service = request -> answer(reference(request), "would shift everything");
        Ran resumed = new Ran()
                .prepared(flow, doors(flow), Ran.source(records("a")), killed.past(), FlowRun.Extent.ALL)
                .go();
        if (sending) {
            assertEquals(sent, List.of());
            assertEquals(resumed.line(1).end(), End.IN_DOUBT);
            assertEquals(resumed.line(1).failure().cause(), "interrupted while it was sent");
        } else {
            assertEquals(sent, List.of("second-a"));
            assertEquals(resumed.rows.get("out"), List.of("seen|first-seen|second-a"));
        }
        addsUp(resumed);
    }

    @Test
    public void aSourceThatChangedIsRefusedWithTheFirstDifference() throws Exception {
        CompiledFlow flow = sound(file(reads("c", "$t/key"), write("out", "$t/n")));
        Ran pilot = new Ran()
                .prepared(flow, doors(flow), Ran.source(records("a", "b", "c")), Past.NONE, new FlowRun.Extent(2, true))
                .go();
        Ran rest = new Ran()
                .prepared(flow, doors(flow), Ran.source(records("a", "x", "c")), pilot.past(), FlowRun.Extent.ALL);
        IOException e = expectThrows(IOException.class, rest::go);
        assertTrue(e.getMessage().contains("record 2 is another now"), e.getMessage());
    }
}
