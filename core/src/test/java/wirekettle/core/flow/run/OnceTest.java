package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.file.AfterLast;
import wirekettle.core.flow.file.AfterLast.When;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.BatchStage;
import wirekettle.core.flow.file.FilterStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.NamedValue;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.FailureClass;

/** What is run once: before the first record and after the last. */
public class OnceTest extends OutlineFixture {
    private static FlowFile file(List<Stage> before, List<Stage> each, AfterLast after) {
        List<Stage> stages = new ArrayList<>(List.of(READ));
        stages.addAll(each);
        return new FlowFile(FlowFile.FORMAT, "Once", before, stages, after, null);
    }

    private static AfterLast after(List<When> when, Stage... stages) {
        return new AfterLast(List.of(stages), when, List.of(new NamedValue("n", "$t/n")));
    }

    private static Stage farewell() {
        return changes("close", "concat('close-', $run/done)");
    }

    @Test
    public void whatIsMadeBeforeTheFirstRecordIsInReachOfAllAndWhatBecameOfThemAfterTheLast() throws Exception {
        FlowFile file = file(
                List.of(changes("day", "'open'"), write("opened", "$day/reference")),
                List.of(
                        new FilterStage("f", "small", "$t/n != '4'", null),
                        reads("c", "$t/key"),
                        write("out", "$t/key", "$day/reference")),
                after(
                        null,
                        changes("close", "concat('c', $run/done, $day/reference)"),
                        write("totals", "$run/read", "$run/done", "$run/left-out", "$run/sums/n/done")));
        Ran ran = run(file, "a", "b", "c", "d");
        assertEquals(sent.get(0), "open");
        assertEquals(sent.get(sent.size() - 1), "c3open");
        assertEquals(sent.size(), 5);
        assertEquals(ran.rows.get("opened"), List.of("open"));
        assertEquals(ran.rows.get("out"), List.of("a|open", "b|open", "c|open"));
        assertEquals(ran.rows.get("totals"), List.of("4|3|1|6"));
        assertEquals(ran.totals.read(), 4);
        assertEquals(ran.totals.ended(), 4, "what is run once is no record");
        assertEquals(ran.totals.stages().get("day").entered(), 1);
        assertEquals(ran.line(0).end(), End.DONE);
        assertEquals(ran.line(-1).passages().get(0).effect(), new Effect("after", "close", 1));
        assertEquals(FlowFile.parse(file.text()), file);
    }

    @DataProvider
    public Object[][] ends() {
        return new Object[][] {
            {List.of(When.DONE), new String[0], false},
            {List.of(When.EMPTY), new String[0], true},
            {List.of(When.EMPTY), new String[] {"a"}, false},
            {List.of(When.DONE), new String[] {"a"}, true},
        };
    }

    @Test(dataProvider = "ends")
    public void theFlowSaysAfterWhichRunsItsFarewellIsSent(List<When> when, String[] keys, boolean sends)
            throws Exception {
        run(file(List.of(), List.of(reads("c", "$t/key")), after(when, farewell())), keys);
        assertEquals(sent.contains("close-" + keys.length), sends, sent.toString());
    }

    @Test
    public void aRunThatALaneStopsOrWhoseSourceBreaksSendsItWhereTheFlowSaysSo() throws Exception {
        Lane stop = Lane.of(Lane.Rule.run("r", ANY, Lane.Then.STOP));
        service = request -> reference(request).equals("a") ? fault("no") : answer(reference(request), "fine");
        for (boolean failed : new boolean[] {true, false}) {
            sent.clear();
            FlowFile file = file(
                    List.of(),
                    List.of(((wirekettle.core.flow.file.CallStage) reads("c", "$t/key")).failing(stop)),
                    after(List.of(failed ? When.FAILED : When.DONE), farewell()));
            assertEquals(run(file, "a").ended, FlowRun.Ended.STOPPED);
            assertEquals(sent.contains("close-0"), failed);
        }
        sent.clear();
        CompiledFlow flow =
                sound(file(List.of(), List.of(reads("c", "$t/key")), after(List.of(When.FAILED), farewell())));
        RecordSource broken = new RecordSource() {
            private boolean first = true;

            @Override
            public Item next() throws IOException {
                if (!first) {
                    throw new IOException("the disk is gone");
                }
                first = false;
                return new Item(records("b").get(0), null);
            }

            @Override
            public long size() {
                return 2;
            }

            @Override
            public String name() {
                return "broken";
            }

            @Override
            public void close() {}
        };
        Ran ran = new Ran().prepared(flow, doors(flow), broken, Past.NONE, FlowRun.Extent.ALL);
        assertEquals(expectThrows(IOException.class, ran::go).getMessage(), "the disk is gone");
        assertEquals(sent, List.of("b", "close-1"));
    }

    @Test
    public void withoutADayThereAreNoRecordsAndNoFarewell() {
        service = request -> fault("Closed");
        CompiledFlow flow = sound(file(
                List.of(changes("day", "'open'")),
                List.of(reads("c", "$t/key")),
                after(List.of(When.values()), farewell())));
        Ran ran = new Ran().prepared(flow, doors(flow), Ran.source(records("a")), Past.NONE, FlowRun.Extent.ALL);
        IOException failed = expectThrows(IOException.class, ran::go);
        assertTrue(failed.getMessage().startsWith("before the first record: "), failed.getMessage());
        assertEquals(sent, List.of("open"));
        assertFalse(ran.finished);
    }

    @Test
    public void aRunThatGoesOnUsesTheDayItHadAndOpensNone() throws Exception {
        CompiledFlow flow = sound(file(
                List.of(reads("rates", "'rates'"), changes("day", "'open'")),
                List.of(changes("c", "$t/key"), write("out", "$t/key", "$rates/status", "$day/reference")),
                after(null, farewell())));
        Ran whole = Ran.of(flow, doors(flow), records("a", "b"));
        service = request -> answer(reference(request), "other");
        Ran killed = new Ran();
        killed.claims.addAll(
                whole.claims.stream().filter(each -> each.ordinal() == 0).toList());
        killed.known.addAll(
                whole.known.stream().filter(each -> each.ordinal() == 0).toList());
        for (boolean ended : new boolean[] {false, true}) {
            if (ended) {
                killed.lines.add(whole.line(0));
            }
            sent.clear();
            Ran resumed = new Ran()
                    .prepared(flow, doors(flow), Ran.source(records("a", "b")), killed.past(), FlowRun.Extent.ALL)
                    .go();
            assertEquals(resumed.rows.get("out"), List.of("a|fine|open", "b|fine|open"));
            assertFalse(sent.contains("open") || sent.contains("rates"), sent.toString());
        }
    }

    @Test
    public void aFarewellThatFailsIsTriedAgainAlone() throws Exception {
        CompiledFlow flow = sound(
                file(List.of(), List.of(changes("c", "$t/key"), write("out", "$t/key")), after(null, farewell())));
        service = request -> reference(request).startsWith("close") ? fault("later") : answer(reference(request), "x");
        Ran first = new Ran().prepared(flow, doors(flow), Ran.source(records("a", "b")), Past.NONE, FlowRun.Extent.ALL);
        String message = expectThrows(AfterFailed.class, first::go).getMessage();
        assertTrue(message.startsWith("after the last record: "), message);
        assertFalse(first.finished, "outputs take their place after it");
        assertEquals(first.totals.of(End.DONE), 2);

        service = request -> answer(reference(request), "fine");
        sent.clear();
        Ran again = new Ran()
                .prepared(flow, doors(flow), Ran.source(records("a", "b")), first.past(), FlowRun.Extent.ALL)
                .go();
        assertEquals(sent, List.of("close-2"));
        assertTrue(again.finished);
        assertNull(again.run.note());
    }

    @Test
    public void aFarewellInDoubtIsToldAndNeverSentAgain() throws Exception {
        CompiledFlow flow = sound(file(List.of(), List.of(reads("c", "$t/key")), after(null, farewell())));
        service = request -> {
            if (reference(request).startsWith("close")) {
                throw new CallFailure(FailureClass.TIMEOUT, "no answer", "no answer in time", true, false, null);
            }
            return answer(reference(request), "fine");
        };
        Ran ran = Ran.of(flow, doors(flow), records("a"));
        assertEquals(ran.ended, FlowRun.Ended.DONE);
        assertTrue(ran.run.note().contains("no answer"), ran.run.note());
        assertEquals(ran.line(-1).end(), End.IN_DOUBT);
    }

    @Test
    public void theDayIsInReachOfABatchToo() throws Exception {
        BatchStage batch = new BatchStage(
                "batch",
                "batch",
                9,
                null,
                null,
                50,
                List.of(changes("c", "concat($day/reference, count($batch/item))")),
                null,
                false,
                List.of(),
                null);
        run(file(List.of(changes("day", "'open'")), List.of(batch), null), "a", "b");
        assertEquals(sent, List.of("open", "open2"));
    }

    @DataProvider
    public Object[][] wrong() {
        Stage answer = AnswerStage.of("a", "200", List.of(), List.of());
        Stage call = reads("c", "$t/key");
        return new Object[][] {
            {file(List.of(answer), List.of(call), null), "an Answer cannot stand before the first record"},
            {file(List.of(), List.of(call), after(null, answer)), "an Answer cannot stand after the last record"},
            {file(List.of(READ), List.of(call), null), "a Read stands at the beginning of a flow"},
            {file(List.of(), List.of(call), after(null, write("w", "$t/key"))), "c0 $t is not known here"},
            {
                file(List.of(), List.of(call), new AfterLast(List.of(), null, List.of(new NamedValue("a b", "1")))),
                "a sum has no name"
            },
            {
                file(List.of(), List.of(call), new AfterLast(List.of(), null, List.of(new NamedValue("a", "$x")))),
                "the sum a: "
            },
        };
    }

    @Test(dataProvider = "wrong")
    public void whatIsWrongIsToldWhereItIs(FlowFile file, String expected) {
        List<String> said =
                compiled(file).problems().stream().map(FlowProblem::message).toList();
        assertTrue(said.stream().anyMatch(each -> each.startsWith(expected)), said.toString());
    }
}
