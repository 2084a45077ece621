package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.io.IOException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.testng.annotations.Test;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.value.Node;

/** What a record did in an earlier run is taken back before it goes its way anew. */
public class TakenBackTest extends OutlineFixture {
    private static CallStage undoable(String id) {
        return changes(id, "concat('" + id + " ', $t/key)")
                .undoneBy(List.of(changes("no" + id, "concat('no ', $" + id + "/reference)")));
    }

    /** A flow whose records are rejected behind two changes, which a lane keeps. */
    private CompiledFlow flow() {
        Stage last = reads("last", "concat('last ', $t/key)");
        return sound(file(
                undoable("one"),
                reads("seen", "concat('seen ', $t/key)"),
                undoable("two"),
                last,
                write("out", "$t/key")));
    }

    /** What an origin left that was rejected without taking anything back. */
    private Ran origin(CompiledFlow flow) throws Exception {
        service = request -> answer(reference(request), "fine");
        Ran whole = Ran.of(flow, doors(flow), records("a"));
        assertEquals(whole.line(1).end(), End.DONE);
        sent.clear();
        return whole;
    }

    private Past again(Ran origin, Ran resent) {
        return new Past() {
            @Override
            public String ended(long ordinal) {
                return null;
            }

            @Override
            public OpenRecord open(long ordinal) throws IOException {
                return part(resent, false).get(ordinal);
            }

            @Override
            public Replay takesBack(long ordinal) {
                try {
                    OpenRecord before = origin.past().open(ordinal);
                    before.replay().beginAnew();
                    resent.claims.stream()
                            .filter(claim -> claim.effect().undoesEarlier())
                            .forEach(claim -> before.replay().claim(claim.effect()));
                    resent.known.stream()
                            .filter(each -> each.passage().effect().undoesEarlier())
                            .forEach(each ->
                                    before.replay().passage(each.passage().effect(), each.reply()));
                    return before.replay();
                } catch (IOException e) {
                    throw new AssertionError(e);
                }
            }

            @Override
            public Totals totals() {
                return Totals.NONE;
            }

            @Override
            public Node corrected(long ordinal, Node given) {
                return records("b").get(0);
            }
        };
    }

    private static Map<Long, Past.OpenRecord> part(Ran ran, boolean earlier) {
        Map<Long, Past.OpenRecord> open = new HashMap<>();
        ran.claims.stream()
                .filter(claim -> claim.effect().undoesEarlier() == earlier)
                .forEach(claim -> open.put(
                        claim.ordinal(),
                        Past.OpenRecord.claimed(
                                open.get(claim.ordinal()), claim.fingerprint(), claim.effect(), claim.made())));
        ran.known.stream()
                .filter(each -> each.passage().effect().undoesEarlier() == earlier && open.containsKey(each.ordinal()))
                .forEach(each ->
                        open.get(each.ordinal()).replay().passage(each.passage().effect(), each.reply()));
        return open;
    }

    private Ran resent(CompiledFlow flow, Past past) throws Exception {
        return new Ran()
                .prepared(flow, doors(flow), Ran.source(records("a")), past, FlowRun.Extent.ALL)
                .go();
    }

    @Test
    public void whatWasDoneIsTakenBackLastFirstAndAllIsDoneAnewForTheCorrectedRecord() throws Exception {
        CompiledFlow flow = flow();
        Ran origin = origin(flow);
        Ran resent = resent(flow, again(origin, new Ran()));
        assertEquals(
                sent, List.of("no two a", "no one a", "one b", "seen b", "two b", "last b"), "with what it knew then");
        LedgerLine line = resent.line(1);
        assertEquals(line.end(), End.DONE);
        assertEquals(resent.rows.get("out"), List.of("b"));
        assertEquals(
                line.passages().stream()
                        .filter(Passage::changes)
                        .map(p -> p.effect().path() + " " + p.stage() + " "
                                + p.outcome().word())
                        .toList(),
                List.of("earlier/two:undo notwo done", "earlier/one:undo noone done", " one done", " two done"));
    }

    @Test
    public void whatIsTakenBackAndNotDoneAgainIsNotDone() throws Exception {
        CompiledFlow flow = flow();
        Ran origin = origin(flow);
        service = request -> reference(request).equals("one b") ? fault("no b") : answer(reference(request), "fine");
        LedgerLine line = resent(flow, again(origin, new Ran())).line(1);
        assertEquals(line.end(), End.REJECTED);
        assertEquals(
                line.passages().stream()
                        .filter(p -> p.effect().path().isEmpty() && p.changes())
                        .map(p -> p.stage() + " " + p.outcome().word())
                        .toList(),
                List.of("two undone", "one not-done"));
    }

    @Test
    public void nothingIsSentAnewWhereSomethingCannotBeTakenBack() throws Exception {
        CompiledFlow flow = flow();
        Ran origin = origin(flow);
        service = request ->
                reference(request).equals("no one a") ? fault("too late") : answer(reference(request), "fine");
        LedgerLine line = resent(flow, again(origin, new Ran())).line(1);
        assertEquals(line.end(), End.IN_DOUBT);
        assertEquals(sent, List.of("no two a", "no one a"));
        assertTrue(
                line.failure().message().contains("could not be taken back: "),
                line.failure().message());

        FlowFile bare = file(changes("one", "concat('one ', $t/key)"), write("out", "$t/key"));
        CompiledFlow without = sound(bare);
        assertEquals(bare.irreversible().size(), 1);
        LedgerLine left = resent(without, again(origin(without), new Ran())).line(1);
        assertEquals(left.end(), End.REJECTED);
        assertEquals(sent, List.of());
        assertTrue(
                left.failure().message().contains("nothing takes it back"),
                left.failure().message());
    }

    /** Killed at every moment: nothing is sent twice, and in the end all is taken back and done once for the new record. */
    @Test
    public void aRunThatTakesBackGoesOnAfterACrash() throws Exception {
        CompiledFlow flow = flow();
        Ran origin = origin(flow);
        Ran whole = resent(flow, again(origin, new Ran()));
        List<String> all = List.of("no two a", "no one a", "one b", "two b");
        assertEquals(whole.claims.size(), all.size());
        for (int claims = 1; claims <= all.size(); claims++) {
            for (int known = claims - 1; known <= claims; known++) {
                Ran killed = new Ran();
                killed.claims.addAll(whole.claims.subList(0, claims));
                killed.known.addAll(whole.known.subList(0, known));
                sent.clear();
                Ran resumed = resent(flow, again(origin, killed));
                List<String> changed = sent.stream()
                        .filter(each -> !each.startsWith("seen") && !each.startsWith("last"))
                        .toList();
                String at = "killed at claim " + claims + ", " + known + " known: " + sent;
                LedgerLine line = resumed.line(1);
                if (known < claims) {
                    assertEquals(line.end(), End.IN_DOUBT, at);
                    assertEquals(changed, List.of(), at);
                } else {
                    List<String> together = new ArrayList<>(all.subList(0, claims));
                    together.addAll(changed);
                    assertEquals(together, all, at);
                    assertEquals(line.end(), End.DONE, at);
                }
            }
        }
    }

    /** A lane that goes on where a call fails must not stand for what is to be taken back. */
    @Test
    public void aLaneThatGoesOnHidesNothing() throws Exception {
        Lane goesOn = Lane.of(Lane.Rule.run("r", ANY, Lane.Then.GO_ON));
        Stage odd = reads("odd", "concat('odd ', $t/key)").failing(goesOn);
        CompiledFlow flow = sound(file(odd, undoable("one"), write("out", "$t/key")));
        Ran origin = origin(flow);
        resent(flow, again(origin, new Ran()));
        assertEquals(sent, List.of("no one a", "odd b", "one b"));
    }
}
