package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.flow.file.SplitStage.Gather;
import wirekettle.core.flow.file.SplitStage.WhenSomeFail;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/** Changes that are taken back when their record is rejected later. */
public class UndoTest extends OutlineFixture {
    /** A change called {@code id KEY} that is reversed by {@code no id KEY}. */
    private static CallStage undoable(String id) {
        return changes(id, "concat('" + id + " ', $t/key)")
                .undoneBy(List.of(changes("no" + id, "concat('no ', $" + id + "/reference)")));
    }

    private static Stage last() {
        return reads("last", "concat('last ', $t/key)");
    }

    private static Node record(String key, String... crates) {
        Node.Builder record = Node.build(Name.of("record")).add("key", key).add("n", "1");
        for (String each : crates) {
            record.add(Node.build(Name.of("crate")).add("no", each).done());
        }
        return record.done();
    }

    private void failingWith(String... references) {
        service = request -> {
            String reference = reference(request);
            if (List.of(references).contains(reference)) {
                return fault("no " + reference);
            }
            if (reference.contains("lost")) {
                throw new CallFailure(FailureClass.TIMEOUT, "no answer in time", "nothing came", true, false, null);
            }
            return answer(reference, "fine");
        };
    }

    private Ran ran(CompiledFlow flow, Node... records) throws Exception {
        return Ran.of(flow, doors(flow), List.of(records));
    }

    @Test
    public void whatWasDoneIsTakenBackLastFirstWhenTheRecordIsRejected() throws Exception {
        failingWith("last a");
        Lane told = Lane.of(Lane.Rule.run("r", ANY, Lane.Then.REJECT, write("refused", "$t/key")));
        FlowFile file = file(undoable("one"), undoable("two"), last(), write("out", "$t/key"));
        CompiledFlow flow = sound(new FlowFile(2, "Undo", file.stages(), told));
        assertEquals(FlowFile.parse(flow.file().text()), flow.file());
        Ran ran = ran(flow, record("a"), record("b"));
        assertEquals(
                sent.stream().filter(each -> each.endsWith(" a")).toList(),
                List.of("one a", "two a", "last a", "no two a", "no one a"));
        LedgerLine line = ran.line(1);
        assertEquals(line.end(), End.REJECTED);
        assertEquals(line.failure().stage(), "last");
        assertEquals(
                line.passages().stream()
                        .map(p -> p.effect().path() + " " + p.stage() + " "
                                + p.outcome().word())
                        .toList(),
                List.of(" one undone", " two undone", " last not-done", "two:undo notwo done", "one:undo noone done"));
        assertEquals(line.calls(), 5, "those that take back count");
        assertEquals(ran.totals.stages().get("noone").entered(), 1);
        assertEquals(ran.rows.get("refused"), List.of("a"));
        assertEquals(ran.rows.get("out"), List.of("b"));
        addsUp(ran);
    }

    @Test
    public void theReasonIsKnownWhereSomethingIsTakenBackAndItsRowsStay() throws Exception {
        failingWith("last a");
        CallStage call = changes("one", "$t/key")
                .undoneBy(List.of(write("taken", "$one/reference", "$failure/stage", "$failure/class")));
        Ran ran = ran(sound(file(write("before", "$t/key"), call, last())), record("a"));
        assertEquals(ran.rows.get("taken"), List.of("a|last|fault"));
        assertEquals(ran.rows.get("before"), List.of());
        assertEquals(ran.line(1).rows(), 1);
    }

    @Test
    public void anUndoThatFailsLeavesTheRecordInDoubtAndNamesWhatIsLeft() throws Exception {
        for (String trouble : List.of("no two a", "no two lost")) {
            String key = trouble.substring(7);
            sent.clear();
            failingWith("last " + key, trouble.contains("lost") ? "" : trouble);
            service = lostOnlyWhenTakenBack(key);
            Ran ran = ran(sound(file(undoable("one"), undoable("two"), last(), write("out", "$t/key"))), record(key));
            assertEquals(ran.line(1).end(), End.IN_DOUBT, trouble);
            String message = ran.line(1).failure().message();
            assertTrue(message.contains("; TrackTransport could not be taken back: "), message);
            assertTrue(message.endsWith("; left as well: TrackTransport"), message);
            assertEquals(sent.get(sent.size() - 1), trouble, "nothing is skipped");
            assertEquals(ran.rows.get("out"), List.of());
        }
    }

    private wirekettle.core.soap.Transport lostOnlyWhenTakenBack(String key) {
        return request -> {
            String reference = reference(request);
            if (reference.equals("last " + key) || reference.equals("no two a")) {
                return fault("no");
            }
            if (reference.equals("no two lost")) {
                throw new CallFailure(FailureClass.TIMEOUT, "no answer in time", "nothing came", true, false, null);
            }
            return answer(reference, "fine");
        };
    }

    @Test
    public void aLaneThatSavesTheRecordTakesNothingBackAndDoubtNeitherDoes() throws Exception {
        failingWith("last a");
        Lane saves = Lane.of(Lane.Rule.run("r", ANY, Lane.Then.GO_ON));
        Stage saved = ((CallStage) last()).failing(saves);
        ran(sound(file(undoable("one"), saved)), record("a"));
        assertEquals(sent, List.of("one a", "last a"));
        sent.clear();
        failingWith();
        Ran doubt = ran(sound(file(undoable("one"), changes("two", "concat('lost ', $t/key)"))), record("a"));
        assertEquals(doubt.line(1).end(), End.IN_DOUBT);
        assertEquals(sent, List.of("one a", "lost a"));
    }

    private static SplitStage split(WhenSomeFail rule, int atOnce) {
        CallStage book = changes("book", "concat('book ', $crate/no)")
                .undoneBy(List.of(changes("cancel", "concat('cancel ', $crate/no, ' ', $book/reference)")));
        return new SplitStage(
                "crates",
                "$t/crate",
                "crate",
                atOnce,
                List.of(book, reads("seal", "concat('seal ', $crate/no)")),
                new Gather("crates", rule),
                null);
    }

    @DataProvider
    public Object[][] rules() {
        return new Object[][] {
            {
                WhenSomeFail.UNDO,
                List.of(
                        "one a",
                        "book x",
                        "seal x",
                        "book y",
                        "seal y",
                        "cancel y book y",
                        "cancel x book x",
                        "no one a")
            },
            {WhenSomeFail.REJECT, List.of("one a", "book x", "seal x", "book y", "seal y")},
            {WhenSomeFail.GO_ON, List.of("one a", "book x", "seal x", "book y", "seal y", "book z", "seal z", "last a")
            },
        };
    }

    @Test(dataProvider = "rules")
    public void aGatherSaysWhetherWhatItemsDidIsTakenBack(WhenSomeFail rule, List<String> expected) throws Exception {
        failingWith("seal y");
        CompiledFlow flow = sound(file(undoable("one"), split(rule, 1), last(), write("out", "$t/key")));
        Ran ran = ran(flow, record("a", "x", "y", "z"));
        assertEquals(sent, expected);
        assertEquals(ran.line(1).end(), rule == WhenSomeFail.GO_ON ? End.DONE : End.REJECTED);
        long undone = ran.line(1).passages().stream()
                .filter(p -> p.outcome() == Passage.Outcome.UNDONE)
                .count();
        assertEquals(undone, rule == WhenSomeFail.UNDO ? 3 : 0);
        addsUp(ran);
    }

    @DataProvider
    public Object[][] flows() {
        Lane saves = Lane.of(Lane.Rule.run("r", ANY, Lane.Then.GO_ON));
        Stage odd = reads("odd", "concat('odd ', $t/key)").failing(saves);
        return new Object[][] {
            {"one after the other", List.of(undoable("one"), odd, undoable("two"), last()), "last a"},
            {"its gather asks", List.of(undoable("one"), split(WhenSomeFail.UNDO, 1), last()), "seal y"},
            {"rejected behind its gather", List.of(split(WhenSomeFail.GO_ON, 1), undoable("one"), last()), "last a"},
        };
    }

    /** Killed at every moment: what changes data is sent once, and all of it is taken back, or the record is in doubt. */
    @Test(dataProvider = "flows")
    public void anUndoThatIsInterruptedGoesOn(String name, List<Stage> stages, String failing) throws Exception {
        failingWith(failing, "odd a");
        List<Stage> all = new ArrayList<>(stages);
        all.add(write("out", "$t/key"));
        CompiledFlow flow = sound(file(all.toArray(Stage[]::new)));
        Node record = record("a", "x", "y", "z");
        Ran whole = ran(flow, record);
        assertEquals(whole.line(1).end(), End.REJECTED, name);
        List<String> changed = changing(sent);
        for (int claims = 1; claims <= whole.claims.size(); claims++) {
            for (int known = claims - 1; known <= claims; known++) {
                Ran killed = new Ran();
                killed.claims.addAll(whole.claims.subList(0, claims));
                killed.known.addAll(whole.known.subList(0, known));
                killed.totals = Totals.NONE.reading(1);
                sent.clear();
                // whatever was asked before is answered otherwise now
                failingWith();
                Ran resumed = new Ran()
                        .prepared(flow, doors(flow), Ran.source(List.of(record)), killed.past(), FlowRun.Extent.ALL)
                        .go();
                String at = name + ", killed at claim " + claims + " with " + known + " known: " + sent;
                List<String> after = changing(sent);
                List<String> before = changed.subList(0, claims);
                Set<String> both = new TreeSet<>(before);
                both.addAll(after);
                assertEquals(both.size(), before.size() + after.size(), "nothing twice, " + at);
                boolean undoing = before.stream().anyMatch(each -> each.startsWith("no ") || each.startsWith("cancel"));
                LedgerLine line = resumed.line(1);
                if (known < claims) {
                    assertEquals(line.end(), End.IN_DOUBT, at);
                    assertEquals(after, List.of(), at);
                } else if (undoing) {
                    assertEquals(line.end(), End.REJECTED, at);
                    List<String> together = new ArrayList<>(before);
                    together.addAll(after);
                    assertEquals(together, changed, at);
                }
            }
        }
    }

    /** Sent again, a record that was taken back asks and books everything anew, its items too. */
    @Test
    public void whatWasTakenBackIsMadeAnewWhenItIsSentAgain() throws Exception {
        Stage asks = reads("odd", "concat('odd ', $t/key)");
        CompiledFlow flow = sound(file(
                split(WhenSomeFail.GO_ON, 1),
                asks,
                undoable("one"),
                last(),
                write("out", "string-join($crates/item/book/status, ' ')", "$one/status")));
        failingWith("last a");
        Node record = record("a", "x", "y");
        Ran origin = ran(flow, record);
        assertEquals(origin.line(1).end(), End.REJECTED);
        Past known = origin.past();
        Past.OpenRecord open = known.open(1);
        origin.line(1).passages().stream()
                .filter(p -> p.outcome() == Passage.Outcome.UNDONE)
                .forEach(p -> open.replay().passage(p.effect(), null));
        open.replay().beginAnew();
        sent.clear();
        service = request -> answer(reference(request), "anew");
        Past again = new Past() {
            @Override
            public String ended(long ordinal) {
                return null;
            }

            @Override
            public OpenRecord open(long ordinal) {
                return open;
            }

            @Override
            public Totals totals() {
                return Totals.NONE;
            }
        };
        Ran resent = new Ran()
                .prepared(flow, doors(flow), Ran.source(List.of(record)), again, FlowRun.Extent.ALL)
                .go();
        assertEquals(resent.rows.get("out"), List.of("anew anew|anew"));
        assertEquals(
                sent, List.of("book x", "seal x", "book y", "seal y", "odd a", "one a", "last a"), "all of it anew");
    }

    private static List<String> changing(List<String> sent) {
        return sent.stream()
                .filter(each -> !each.startsWith("last") && !each.startsWith("seal") && !each.startsWith("odd"))
                .toList();
    }

    @DataProvider
    public Object[][] wrong() {
        CallStage asks = reads("c", "$t/key").undoneBy(List.of(changes("u", "$t/key")));
        CallStage nested = changes("c", "$t/key")
                .undoneBy(List.of(changes("u", "$t/key").undoneBy(List.of(write("w", "$t/key")))));
        CallStage answers = changes("c", "$t/key").undoneBy(List.of(AnswerStage.of("an", null, List.of(), List.of())));
        return new Object[][] {
            {asks, "an operation that only reads has nothing to take back"},
            {nested, "what takes something back cannot be taken back itself"},
            {answers, "an Answer cannot stand where TrackTransport is taken back"},
        };
    }

    @Test(dataProvider = "wrong")
    public void whatIsWrongIsToldWhereItIs(Stage stage, String expected) {
        List<String> said = compiled(file(stage)).problems().stream()
                .map(FlowProblem::message)
                .toList();
        assertTrue(said.stream().anyMatch(each -> each.startsWith(expected)), said.toString());
    }
}
