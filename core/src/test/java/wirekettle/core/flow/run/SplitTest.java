package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.concurrent.CyclicBarrier;
import java.util.concurrent.TimeUnit;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.file.FilterStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.flow.file.SplitStage.Gather;
import wirekettle.core.flow.file.SplitStage.WhenSomeFail;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/** Items of a record: side by side, gathered in their order, failing alone or together. */
public class SplitTest extends OutlineFixture {
    private static final Gather GO_ON = new Gather("crates", WhenSomeFail.GO_ON);
    private static final Gather REJECT = new Gather("crates", WhenSomeFail.REJECT);

    private static SplitStage split(Gather gather, int atOnce, Stage... stages) {
        return new SplitStage("split", "$t/crate", "crate", atOnce, List.of(stages), gather, null);
    }

    /** A record whose key is the crates' names together. */
    private static Node record(String... crates) {
        Node.Builder record = Node.build(Name.of("record"))
                .add("key", String.join("+", crates))
                .add("n", "1");
        for (String each : crates) {
            record.add(Node.build(Name.of("crate")).add("no", each).done());
        }
        return record.done();
    }

    private Ran ran(CompiledFlow flow, Node... records) throws Exception {
        return Ran.of(flow, doors(flow), List.of(records));
    }

    @DataProvider
    public Object[][] widths() {
        return new Object[][] {{1}, {3}, {64}};
    }

    @Test(dataProvider = "widths")
    public void itemsAreGatheredInTheirOrder(int atOnce) throws Exception {
        CompiledFlow flow = sound(file(
                split(REJECT, atOnce, reads("c", "$crate/no")),
                write(
                        "out",
                        "count($crates/item)",
                        "string-join($crates/item/c/reference, ' ')",
                        "$crates/item[2]/end")));
        Ran ran = ran(flow, record("a", "b", "c", "d", "e"), record(), record("x"));
        assertEquals(ran.rows.get("out"), List.of("5|a b c d e|done", "0||", "1|x|"));
        assertEquals(
                ran.line(1).passages().stream().map(p -> p.effect().path()).toList(),
                List.of("split:1", "split:2", "split:3", "split:4", "split:5"));
        assertEquals(ran.totals.calls(), 6);
        assertEquals(ran.totals.stages().get("c").entered(), 6);
    }

    @Test
    public void itemsGoSideBySide() throws Exception {
        CyclicBarrier together = new CyclicBarrier(3);
        service = request -> {
            try {
                together.await(20, TimeUnit.SECONDS);
            } catch (Exception e) {
                throw new IllegalStateException(e);
            }
            return answer(reference(request), "fine");
        };
        CompiledFlow flow = sound(file(split(REJECT, 3, reads("c", "$crate/no"))));
        assertEquals(ran(flow, record("a", "b", "c")).totals.of(End.DONE), 1);
    }

    @Test
    public void aRecordIsRejectedWithTheFirstItemThatFailed() throws Exception {
        service = request -> reference(request).equals("bad") ? fault("TooHeavy") : answer(reference(request), "fine");
        CompiledFlow flow = sound(file(split(REJECT, 1, reads("c", "$crate/no")), write("out", "$t/key")));
        Ran ran = ran(flow, record("a", "bad", "c"), record("d"));
        assertEquals(ran.line(1).end(), End.REJECTED);
        String message = ran.line(1).failure().message();
        assertTrue(message.startsWith("$crate 2 of 3: ") && message.endsWith("; 1 item was done"), message);
        assertEquals(ran.line(1).failure().stage(), "c");
        assertEquals(ran.rows.get("out"), List.of("d"));
        assertFalse(sent.contains("c"), "no further item starts");
    }

    @Test
    public void whatFailedAndWhatWasLeftOutStandInWhatIsGathered() throws Exception {
        service = request -> reference(request).equals("bad") ? fault("TooHeavy") : answer(reference(request), "fine");
        CompiledFlow flow = sound(file(
                split(GO_ON, 2, new FilterStage("f", "small", "$crate/no != 'small'", null), reads("c", "$crate/no")),
                write(
                        "out",
                        "string-join($crates/item/end, ' ')",
                        "$crates/item[3]/failure/class",
                        "string-join($crates/item/crate/no, ' ')")));
        Ran ran = ran(flow, record("a", "small", "bad"));
        assertEquals(ran.rows.get("out"), List.of("done left-out rejected|fault|a small bad"));
        assertEquals(ran.totals.of(End.DONE), 1);
        assertEquals(
                ran.line(1).items(),
                List.of(
                        new ItemEnd("split:2", End.LEFT_OUT, "f", null),
                        new ItemEnd("split:3", End.REJECTED, "c", "Server: TooHeavy")));
    }

    /** Totals over the items and one level that repeats: later stages see only that. */
    @Test
    public void whatIsGatheredMayHaveAShapeOfItsOwn() throws Exception {
        service = request -> reference(request).equals("bad") ? fault("TooHeavy") : answer(reference(request), "fine");
        Fill total = Fill.expression("g1", "total", "count($crates/item[end = 'done'])");
        Fill refs = Fill.wire("g2", "booked/ref", "$each/c/reference");
        Gather shaped = new Gather(
                "crates",
                WhenSomeFail.GO_ON,
                columns(total, refs),
                List.of(total, refs),
                List.of(new DocumentPlan.Group("booked", "$crates/item", "each")));
        FlowFile file = file(
                split(shaped, 2, reads("c", "$crate/no")),
                write("out", "$crates/total", "string-join($crates/booked/ref, ' ')", "count($crates/item)"));
        assertEquals(FlowFile.parse(file.text()), file);
        assertEquals(file.fillsById().get("split"), List.of(total, refs));
        Ran ran = ran(sound(file), record("a", "bad", "c"));
        assertEquals(ran.rows.get("out"), List.of("2|a  c|0"));
        Fill other = Fill.constant("g1", "total", "none");
        FlowFile changed = file.filled(SplitStage.gathering("split"), List.of(other));
        assertEquals(ran(sound(changed), record("a")).rows.get("out"), List.of("none||0"));

        Fill wrong = Fill.wire("g1", "total", "$nobody/x");
        List<String> said = compiled(file.filled("split", List.of(wrong))).problems().stream()
                .map(FlowProblem::stage)
                .toList();
        assertEquals(said.get(0), "split/gather");
    }

    @Test
    public void rowsOfItemsLeaveInTheirOrderAndThoseOfOneThatFailedDoNot() throws Exception {
        service = request -> reference(request).equals("bad") ? fault("TooHeavy") : answer(reference(request), "fine");
        Lane told = Lane.of(Lane.Rule.run("r", ANY, Lane.Then.REJECT, write("refused", "$crate/no")));
        CompiledFlow flow = sound(file(split(
                GO_ON, 4, write("begun", "$crate/no"), reads("c", "$crate/no").failing(told))));
        Ran ran = ran(flow, record("a", "bad", "c"));
        assertEquals(ran.rows.get("begun"), List.of("a", "c"));
        assertEquals(ran.rows.get("refused"), List.of("bad"));
    }

    @Test
    public void anItemInDoubtStopsItsRecord() throws Exception {
        service = request -> {
            if (reference(request).equals("lost")) {
                throw new CallFailure(FailureClass.TIMEOUT, "no answer in time", "nothing came", true, false, null);
            }
            return answer(reference(request), "fine");
        };
        CompiledFlow flow = sound(file(split(GO_ON, 1, changes("c", "$crate/no")), write("out", "$t/key")));
        Ran ran = ran(flow, record("a", "lost", "c"));
        assertEquals(ran.line(1).end(), End.IN_DOUBT);
        assertEquals(ran.rows.getOrDefault("out", List.of()), List.of());
        assertFalse(sent.contains("c"));
    }

    @Test
    public void splitsStandInSplits() throws Exception {
        SplitStage inner = new SplitStage(
                "papers", "$crate/paper", "paper", 2, List.of(reads("c", "$paper")), new Gather("papers", null), null);
        CompiledFlow flow = sound(
                file(split(REJECT, 2, inner), write("out", "string-join($crates/item/papers/item/c/reference, ' ')")));
        Node record = Node.build(Name.of("record"))
                .add("key", "k")
                .add(Node.build(Name.of("crate"))
                        .add("paper", "a1")
                        .add("paper", "a2")
                        .done())
                .add(Node.build(Name.of("crate")).add("paper", "b1").done())
                .done();
        Ran ran = ran(flow, record);
        assertEquals(ran.rows.get("out"), List.of("a1 a2 b1"));
        List<String> paths = new ArrayList<>();
        ran.line(1).passages().forEach(passage -> paths.add(passage.effect().path()));
        assertEquals(paths, List.of("split:1/papers:1", "split:1/papers:2", "split:2/papers:1"));
    }

    /** Of three items one was done and one was being sent when the run was killed. */
    @Test
    public void aRunThatGoesOnSendsNoItemTwice() throws Exception {
        CompiledFlow flow = sound(file(
                split(REJECT, 1, changes("c", "$crate/no")), write("out", "string-join($crates/item/c/status, ' ')")));
        service = request -> answer(reference(request), "first");
        Ran whole = ran(flow, record("a", "b", "c"));
        Ran killed = new Ran();
        killed.claims.add(whole.claims.get(0));
        killed.known.add(whole.known.get(0));
        killed.totals = Totals.NONE.reading(1);
        sent.clear();
        service = request -> answer(reference(request), "second");
        Ran resumed = new Ran()
                .prepared(
                        flow,
                        doors(flow),
                        Ran.source(List.of(record("a", "b", "c"))),
                        killed.past(),
                        FlowRun.Extent.ALL)
                .go();
        assertEquals(sent, List.of("b", "c"));
        assertEquals(resumed.rows.get("out"), List.of("first second second"));

        killed.claims.add(whole.claims.get(1));
        sent.clear();
        Ran doubtful = new Ran()
                .prepared(
                        flow,
                        doors(flow),
                        Ran.source(List.of(record("a", "b", "c"))),
                        killed.past(),
                        FlowRun.Extent.ALL)
                .go();
        assertEquals(doubtful.line(1).end(), End.IN_DOUBT);
        assertEquals(sent, List.of());
    }

    /** What items made counts against the memory of all records; a record that needs more than all of it is rejected. */
    @Test
    public void aRecordWhoseItemsTakeTooMuchMemoryIsRejectedAndTheRunGoesOn() throws Exception {
        String[] many = new String[20_000];
        java.util.Arrays.fill(many, "crate");
        CompiledFlow flow = sound(file(split(REJECT, 8, reads("c", "$crate/no")), write("out", "count($crates/item)")));
        Doors open = doors(flow);
        Doors bounded = new Doors(
                open.lines(), open.lookUps(), open.folders(), open.clock(), MemoryBudget.of(40 << 20), open.trouble());
        Ran ran = Ran.of(flow, bounded, List.of(record(many), record("a", "b"), record("c")));
        assertEquals(ran.line(1).end(), End.REJECTED);
        assertEquals(ran.line(1).failure().cause(), "record too large");
        assertEquals(ran.rows.get("out"), List.of("2", "1"));
        assertEquals(bounded.memory().used(), 0, "all of it was given back");
    }

    /** What nobody reaches any more is given back as soon as its item is over; beside what is reached, exchanges count. */
    @Test
    public void whatItemsMadeTakesMemoryOnlyWhereItIsReached() throws Exception {
        service = request -> answer(reference(request), "y".repeat(100_000));
        String[] many = new String[200];
        java.util.Arrays.fill(many, "crate");
        for (String expression : List.of("count($crates/item)", "string-length(string($crates))")) {
            CompiledFlow flow = sound(file(split(REJECT, 4, reads("c", "$crate/no")), write("out", expression)));
            Doors open = doors(flow);
            Doors bounded = new Doors(
                    open.lines(),
                    open.lookUps(),
                    open.folders(),
                    open.clock(),
                    MemoryBudget.of(30 << 20),
                    open.trouble());
            Ran ran = Ran.of(flow, bounded, List.of(record(many)));
            boolean counted = expression.startsWith("count");
            assertEquals(ran.line(1).end(), counted ? End.DONE : End.REJECTED, expression);
            assertEquals(bounded.memory().used(), 0, "all of it was given back");
        }
    }

    @Test
    public void manyItemsAreWorkedOnByFewThreads() throws Exception {
        String[] many = new String[100_000];
        for (int i = 0; i < many.length; i++) {
            many[i] = "c" + i;
        }
        CompiledFlow flow = sound(file(split(REJECT, 8, reads("c", "$crate/no")), write("out", "count($crates/item)")));
        Ran ran = ran(flow, record(many));
        assertEquals(ran.rows.get("out"), List.of("100000"));
        List<String> all = new ArrayList<>(sent);
        Collections.sort(all);
        assertEquals(all.size(), 100_000);
    }

    @DataProvider
    public Object[][] wrong() {
        Stage call = reads("c", "$crate/no");
        return new Object[][] {
            {new SplitStage("s", null, "crate", 1, List.of(call), null, null), "it says nothing of its items"},
            {new SplitStage("s", "$t/crate", null, 1, List.of(reads("c", "$t/key")), null, null), "an item has no name"
            },
            {new SplitStage("s", "$t/crate", "t", 1, List.of(reads("c", "$t/no")), null, null), "$t is there already"},
            {new SplitStage("s", "$t/crate", "crate", 1, List.of(), null, null), "nothing happens for its items yet"},
            {new SplitStage("s", "$nobody/crate", "crate", 1, List.of(call), null, null), "its items: "},
        };
    }

    @Test(dataProvider = "wrong")
    public void whatIsWrongIsToldWhereItIs(SplitStage stage, String expected) {
        FlowFile file = file(stage);
        List<String> said =
                compiled(file).problems().stream().map(FlowProblem::message).toList();
        assertTrue(said.stream().anyMatch(each -> each.startsWith(expected)), said.toString());
    }

    @Test
    public void nothingLeavesTheItemsButWhatIsGathered() {
        FlowFile file = file(split(REJECT, 1, reads("c", "$crate/no")), write("out", "$c/status"));
        List<String> said =
                compiled(file).problems().stream().map(FlowProblem::message).toList();
        assertTrue(said.stream().anyMatch(each -> each.contains("$c is not known here")), said.toString());
    }
}
