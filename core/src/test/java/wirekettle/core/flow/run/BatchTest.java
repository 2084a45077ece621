package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.file.BatchStage;
import wirekettle.core.flow.file.BatchStage.Said;
import wirekettle.core.flow.file.BatchStage.Verdict;
import wirekettle.core.flow.file.BranchStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.Transport;

/** Records that go together and are answered for one by one. */
public class BatchTest extends OutlineFixture {
    private static final Verdict BY_KEY = verdict("$item/t/key", "$line/key", Said.IN_DOUBT);
    private static final Verdict BY_POSITION = verdict(null, null, Said.IN_DOUBT);

    private static Verdict verdict(String itemKey, String lineKey, Said silent) {
        return new Verdict("verdict", "$c/line", itemKey, lineKey, "$line/end = 'ok'", null, "$line/reason", silent);
    }

    /** The records' keys go in one message. */
    private static Stage all() {
        return together("c", "string-join($batch/item/t/key, ' ')");
    }

    private static CallStage together(String id, String expression) {
        return new CallStage(
                id,
                "Vanline Desk",
                null,
                null,
                "CancelCrate",
                "Vanline Desk",
                id,
                List.of(Fill.expression("f" + id, "/" + V + "CancelCrate/" + V + "label", expression)),
                Delivery.of(Delivery.Effect.CHANGES, 4));
    }

    private static BatchStage batch(int most, Verdict verdict, Stage... stages) {
        return new BatchStage(
                "batch", "batch", most, null, null, 100, List.of(stages), verdict, false, List.of(), null);
    }

    private static BatchStage halving(BatchStage its) {
        return new BatchStage(
                its.id(),
                its.batch(),
                its.most(),
                its.mostBytes(),
                its.by(),
                its.waitMillis(),
                its.stages(),
                its.verdict(),
                true,
                its.undo(),
                its.lane());
    }

    private static BatchStage limited(BatchStage its, Integer mostBytes, String by) {
        return new BatchStage(
                its.id(),
                its.batch(),
                its.most(),
                mostBytes,
                by,
                its.waitMillis(),
                its.stages(),
                its.verdict(),
                its.halve(),
                its.undo(),
                its.lane());
    }

    /** Answers with lines, made of the keys sent. */
    private void answers(Function<List<String>, List<String>> lines) {
        service = request -> {
            List<String> keys = Arrays.asList(reference(request).split(" "));
            return reply(lines.apply(keys));
        };
    }

    private static Transport.Answer reply(List<String> lines) {
        String body = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>"
                + "<CancelCrateResponse xmlns='urn:halewick:vanline:2'>" + String.join("", lines)
                + "</CancelCrateResponse></s:Body></s:Envelope>";
        return new Transport.Answer(200, Map.of(), body.getBytes(StandardCharsets.UTF_8), 1);
    }

    private static String line(String key, String end, String reason) {
        return "<line><key>" + key + "</key><end>" + end + "</end><reason>" + reason + "</reason></line>";
    }

    private static List<String> accepting(List<String> keys) {
        return keys.stream().map(key -> line(key, "ok", "")).toList();
    }

    private static String[] keys(int count) {
        return IntStream.rangeClosed(1, count).mapToObj(i -> "k" + i).toArray(String[]::new);
    }

    private static List<Long> ended(Ran ran, End end) {
        return ran.lines.stream()
                .filter(line -> line.end() == end)
                .map(LedgerLine::ordinal)
                .sorted()
                .toList();
    }

    private List<Integer> sizes() {
        return sent.stream().map(keys -> keys.split(" ").length).sorted().toList();
    }

    @Test
    public void recordsGoTogetherAndEachGoesOnWithItsVerdict() throws Exception {
        answers(BatchTest::accepting);
        Ran ran = run(
                file(batch(4, BY_KEY, all()), write("out", "$t/key", "$verdict/end", "$verdict/line/key")), keys(10));
        assertEquals(ended(ran, End.DONE).size(), 10);
        assertEquals(
                ran.rows.get("out"),
                Arrays.stream(keys(10)).map(key -> key + "|accepted|" + key).toList());
        assertEquals(sent.stream().mapToInt(keys -> keys.split(" ").length).sum(), 10);
        assertTrue(sizes().stream().allMatch(size -> size <= 4), sent.toString());
        assertEquals(ran.totals.calls(), sent.size(), "a call of a batch counts once");
        addsUp(ran);
        for (LedgerLine line : ran.lines) {
            BatchPlace place = line.batches().get(0);
            assertEquals(place.said(), "accepted");
            boolean leads = place.first() == line.ordinal();
            assertEquals(line.passages().size(), leads ? 1 : 0, "the passage is kept once, under the first record");
        }
    }

    @Test
    public void eachRecordIsAcceptedRefusedOrInDoubtAsItsLineSays() throws Exception {
        answers(keys -> List.of(
                line("k1", "ok", ""),
                line("k2", "no", "TooHeavy"),
                line("k4", "ok", ""),
                line("k4", "no", "Late"),
                line("nobody", "ok", "")));
        Ran ran = run(file(batch(4, BY_KEY, all()), write("out", "$t/key")), keys(4));
        assertEquals(sent, List.of("k1 k2 k3 k4"));
        assertEquals(ran.rows.get("out"), List.of("k1"));
        assertEquals(ran.line(2).end(), End.REJECTED);
        assertEquals(ran.line(2).failure().cause(), "TooHeavy");
        assertEquals(ran.line(3).end(), End.IN_DOUBT);
        assertEquals(ran.line(3).failure().message(), "the reply has no line for it");
        assertEquals(ran.line(4).end(), End.IN_DOUBT);
        assertTrue(ran.line(4).failure().message().contains("two lines for it that differ"));
        assertTrue(
                ran.line(1).note().endsWith("the reply answers for what was not sent: nobody"),
                ran.line(1).note());
    }

    @Test
    public void linesMayAnswerByTheirPosition() throws Exception {
        answers(keys ->
                List.of(line("", "ok", ""), line("", "no", "TooHeavy"), line("", "ok", ""), line("", "ok", "")));
        Ran ran = run(file(batch(3, BY_POSITION, all()), write("out", "$t/key")), keys(3));
        assertEquals(ran.rows.get("out"), List.of("k1", "k3"));
        assertEquals(ran.line(2).end(), End.REJECTED);
        assertTrue(
                ran.line(1).note().endsWith("the reply has 4 lines for 3 records"),
                ran.line(1).note());
    }

    @DataProvider
    public Object[][] silences() {
        return new Object[][] {{Said.ACCEPTED, End.DONE}, {Said.REFUSED, End.REJECTED}, {Said.IN_DOUBT, End.IN_DOUBT}};
    }

    @Test(dataProvider = "silences")
    public void silenceMeansWhatTheFlowSays(Said silent, End end) throws Exception {
        answers(keys -> List.of());
        Ran ran = run(file(batch(2, verdict("$item/t/key", "$line/key", silent), all())), keys(2));
        assertEquals(ended(ran, end), List.of(1L, 2L));
    }

    @Test
    public void whatIsRefusedGoesAloneIntoTheLaneOfTheBatch() throws Exception {
        answers(keys -> keys.stream()
                .map(key -> line(key, key.equals("k2") ? "no" : "ok", "TooHeavy"))
                .toList());
        Lane lane = Lane.of(Lane.Rule.run("r", ANY, Lane.Then.GO_ON, write("bad", "$t/key", "$failure/cause")));
        Ran ran = run(file(batch(3, BY_KEY, all()).failing(lane), write("out", "$t/key")), keys(3));
        assertEquals(ran.rows.get("out"), List.of("k1", "k2", "k3"));
        assertEquals(ran.rows.get("bad"), List.of("k2|TooHeavy"));
        assertEquals(ran.totals.saved(), 1);
    }

    /** What a record wrote in its way before the batch is dropped with what fails behind it. */
    @Test
    public void aLaneAroundTheBatchTakesTheRecordBackToWhereItWas() throws Exception {
        answers(keys -> keys.stream()
                .map(key -> line(key, key.equals("k2") ? "no" : "ok", "TooHeavy"))
                .toList());
        BranchStage branch = new BranchStage(
                "b",
                List.of(way("w", null, write("early", "$t/key"), batch(3, BY_KEY, all()), write("late", "$t/key"))),
                Lane.of(Lane.Rule.run("r", ANY, Lane.Then.GO_ON, write("bad", "$t/key"))));
        Ran ran = run(file(branch, write("out", "$t/key")), keys(3));
        assertEquals(ran.rows.get("early"), List.of("k1", "k3"));
        assertEquals(ran.rows.get("late"), List.of("k1", "k3"));
        assertEquals(ran.rows.get("bad"), List.of("k2"));
        assertEquals(ran.rows.get("out"), List.of("k1", "k2", "k3"));
        assertEquals(ran.totals.stages().get("b").entered(), 3);
    }

    @Test
    public void aBatchThatFailsAsAWholeFailsForEachOfIt() throws Exception {
        service = request -> fault("Closed");
        Ran ran = run(file(batch(3, BY_KEY, all()), write("out", "$t/key")), keys(3));
        assertEquals(ended(ran, End.REJECTED), List.of(1L, 2L, 3L));
        assertEquals(sent.size(), 1);
    }

    @Test
    public void aBatchWhoseAnswerNeverCameIsInDoubtAsAWhole() throws Exception {
        service = request -> {
            throw new CallFailure(FailureClass.TIMEOUT, "no answer", "no answer in time", true, false, null);
        };
        Ran ran = run(file(halving(batch(3, BY_KEY, all()))), keys(3));
        assertEquals(ended(ran, End.IN_DOUBT), List.of(1L, 2L, 3L));
        assertEquals(sent.size(), 1, "it is not sent again in parts");
    }

    @Test
    public void aBatchRefusedAsAWholeIsHalvedToTheRecordAtFault() throws Exception {
        service = request -> {
            List<String> keys = Arrays.asList(reference(request).split(" "));
            return keys.contains("k6") ? fault("Malformed") : reply(accepting(keys));
        };
        Ran ran = run(file(halving(batch(8, BY_KEY, all())), write("out", "$t/key")), keys(8));
        assertEquals(ended(ran, End.REJECTED), List.of(6L));
        assertEquals(ran.rows.get("out"), List.of("k1", "k2", "k3", "k4", "k5", "k7", "k8"));
        assertEquals(
                sent, List.of("k1 k2 k3 k4 k5 k6 k7 k8", "k1 k2 k3 k4", "k5 k6 k7 k8", "k5 k6", "k5", "k6", "k7 k8"));
        assertEquals(
                ran.claims.stream()
                        .map(each -> each.ordinal() + each.effect().path())
                        .distinct()
                        .count(),
                7,
                "each part is claimed under a place of its own");
    }

    @Test
    public void aBatchHoldsOnlyOneKey() throws Exception {
        answers(BatchTest::accepting);
        Ran ran = run(file(limited(batch(10, BY_KEY, all()), null, "substring($t/key, 1, 1)")), "a1", "b1", "a2", "b2");
        List<String> both = new ArrayList<>(sent);
        Collections.sort(both);
        assertEquals(both, List.of("a1 a2", "b1 b2"));
        assertEquals(ended(ran, End.DONE).size(), 4);
    }

    @Test
    public void twoRecordsOfOneKeyGoInTwoBatches() throws Exception {
        answers(BatchTest::accepting);
        Ran ran = run(file(batch(10, BY_KEY, all())), "a", "a", "a");
        assertEquals(sent, List.of("a", "a", "a"));
        assertEquals(ended(ran, End.DONE).size(), 3);
    }

    /** The limit is that of the message as it is sent: to the byte. */
    @Test
    public void aBatchNeverSendsMoreBytesThanItsServiceTakes() throws Exception {
        List<Integer> bytes = Collections.synchronizedList(new ArrayList<>());
        service = request -> {
            bytes.add(request.body().length);
            return reply(accepting(Arrays.asList(reference(request).split(" "))));
        };
        run(file(batch(4, BY_KEY, all())), "aaaa", "bbbb", "cccc", "dddd");
        int four = Collections.max(bytes);
        for (int more : new int[] {0, -1}) {
            bytes.clear();
            sent.clear();
            Ran ran = run(file(limited(batch(4, BY_KEY, all()), four + more, null)), "aaaa", "bbbb", "cccc", "dddd");
            assertEquals(ended(ran, End.DONE).size(), 4);
            assertTrue(Collections.max(bytes) <= four + more, bytes.toString());
            assertEquals(sent.size(), more == 0 ? 1 : 2, sent.toString());
        }
        sent.clear();
        Ran ran = run(file(limited(batch(4, BY_KEY, all()), four - 10, null)), "a", "b", "x".repeat(200), "c");
        assertEquals(ended(ran, End.REJECTED), List.of(3L));
        assertEquals(ran.line(3).failure().cause(), "too large for the service");
        assertEquals(ended(ran, End.DONE), List.of(1L, 2L, 4L));
    }

    /** More records than a run holds at one time come through batches of any size. */
    @Test
    public void manyRecordsComeThroughSmallAndLargeBatches() throws Exception {
        for (int most : new int[] {1, 7, 1_000}) {
            sent.clear();
            answers(BatchTest::accepting);
            Ran ran = run(file(batch(most, BY_KEY, all()), write("out", "$t/key")), keys(3_000));
            assertEquals(ran.rows.get("out"), List.of(keys(3_000)));
            addsUp(ran);
        }
    }

    @Test
    public void oneBatchBehindAnotherAndOneInAWay() throws Exception {
        answers(BatchTest::accepting);
        BatchStage second = new BatchStage(
                "second",
                "others",
                3,
                null,
                null,
                100,
                List.of(together("d", "string-join($others/item/t/key, ' ')")),
                new Verdict(
                        "then", "$d/line", "$item/t/key", "$line/key", "$line/end = 'ok'", null, null, Said.IN_DOUBT),
                false,
                List.of(),
                null);
        BranchStage branch = new BranchStage(
                "b", List.of(way("w", "$t/n mod 2 = 0", second), way("o", null, write("odd", "$t/key"))), null);
        Ran ran = run(file(batch(4, BY_KEY, all()), branch, write("out", "$t/key", "$then/end")), keys(9));
        assertEquals(ran.rows.get("odd"), List.of("k1", "k3", "k5", "k7", "k9"));
        assertEquals(
                ran.rows.get("out"),
                IntStream.rangeClosed(1, 9)
                        .mapToObj(i -> "k" + i + "|" + (i % 2 == 0 ? "accepted" : ""))
                        .toList());
        assertEquals(ran.line(2).batches().size(), 2);
    }

    @Test
    public void anAcceptedRecordThatIsRejectedLaterIsTakenBackByTheUndoOfTheBatch() throws Exception {
        answers(BatchTest::accepting);
        BatchStage its = batch(3, BY_KEY, all());
        BatchStage undone = new BatchStage(
                its.id(),
                its.batch(),
                3,
                null,
                null,
                100,
                its.stages(),
                its.verdict(),
                false,
                List.of(together("u", "concat('undo-', $t/key, '-', $verdict/line/key)")),
                null);
        Stage fails = write("out", "if ($t/key = 'k2') then error() else $t/key");
        Ran ran = run(file(undone, fails), keys(3));
        assertEquals(sent, List.of("k1 k2 k3", "undo-k2-k2"));
        assertEquals(Replay.verdicts(ran.line(2)), Map.of(), "it is handed in anew when it is sent again");
        assertEquals(Replay.verdicts(ran.line(1)).keySet(), java.util.Set.of("batch"));
        assertEquals(ended(ran, End.REJECTED), List.of(2L));
        assertEquals(ran.rows.get("out"), List.of("k1", "k3"));
    }

    /** A run goes on behind a crash, wherever that was. */
    @Test
    public void aClaimedBatchIsTakenUpAgainExactly() throws Exception {
        answers(keys -> keys.stream()
                .map(key -> line(key, key.equals("k2") ? "no" : "ok", "TooHeavy"))
                .toList());
        CompiledFlow flow = sound(file(batch(3, BY_KEY, all()), write("out", "$t/key", "$verdict/position")));
        Ran whole = Ran.of(flow, doors(flow), records(keys(3)));
        assertEquals(whole.rows.get("out"), List.of("k1|1", "k3|3"));
        assertEquals(whole.claims.size(), 1);

        Ran claimed = new Ran();
        claimed.claims.addAll(whole.claims);
        sent.clear();
        Ran doubtful = resumed(flow, claimed, 3);
        assertEquals(ended(doubtful, End.IN_DOUBT), List.of(1L, 2L, 3L));
        assertEquals(sent, List.of(), "nobody knows whether it arrived");

        claimed.known.addAll(whole.known);
        Ran done = resumed(flow, claimed, 4);
        assertEquals(sent, List.of("k4"), "what was done is not sent again");
        assertEquals(done.rows.get("out"), List.of("k1|1", "k3|3", "k4|1"));
        assertEquals(ended(done, End.REJECTED), List.of(2L));

        sent.clear();
        claimed.lines.add(whole.line(1));
        Ran last = resumed(flow, claimed, 3);
        assertEquals(sent, List.of());
        assertEquals(last.rows.get("out"), List.of("k3|3"), "the others go on though the first has ended");
        assertEquals(ended(last, End.REJECTED), List.of(2L));
    }

    private Ran resumed(CompiledFlow flow, Ran killed, int records) throws Exception {
        return new Ran()
                .prepared(flow, doors(flow), Ran.source(records(keys(records))), killed.past(), FlowRun.Extent.ALL)
                .go();
    }

    @Test
    public void aRunThatIsCancelledLetsGoOfRecordsThatWait() throws Exception {
        CompiledFlow flow = sound(file(new BatchStage(
                "batch", "batch", 100, null, null, 3_600_000, List.of(all()), BY_KEY, false, List.of(), null)));
        Ran ran = new Ran();
        RecordSource slow = new RecordSource() {
            private int read;

            @Override
            public Item next() {
                if (read++ == 3) {
                    ran.run.cancel(false);
                }
                return read > 3 ? null : new Item(records("k" + read).get(0), null);
            }

            @Override
            public long size() {
                return 3;
            }

            @Override
            public String name() {
                return "transports.csv";
            }

            @Override
            public void close() {}
        };
        ran.prepared(flow, doors(flow), slow, Past.NONE, FlowRun.Extent.ALL).go();
        assertEquals(ran.ended, FlowRun.Ended.CANCELLED);
        assertTrue(sent.size() <= 1, sent.toString());
    }

    @DataProvider
    public Object[][] wrong() {
        BatchStage sound = batch(2, BY_KEY, all());
        return new Object[][] {
            {batch(2, BY_KEY), "nothing happens for the records together yet"},
            {batch(2, null, changes("c", "$t/key")), "reference $t is not known here"},
            {limited(batch(2, null, write("w", "'x'")), 100, null), "it has no call whose message could be measured"},
            {batch(2, verdict("$item/t/key", null, null), all()), "to find a record's line by a key"},
            {
                batch(2, new Verdict("verdict", "$c/line", null, null, null, null, null, null), all()),
                "the verdict does not say when a record is accepted"
            },
            {
                batch(2, new Verdict("verdict", null, null, null, "true()", null, null, null), all()),
                "the verdict has no lines"
            },
            {
                new SplitStage("s", "$t/crate", "crate", 1, List.of(sound), null, null),
                "a Batch stands where a record goes alone"
            },
            {batch(2, BY_KEY, sound), "a Batch stands where a record goes alone"},
        };
    }

    @Test(dataProvider = "wrong")
    public void whatIsWrongIsToldWhereItIs(Stage stage, String expected) {
        FlowFile file = file(stage);
        List<String> said =
                compiled(file).problems().stream().map(FlowProblem::message).toList();
        assertTrue(said.stream().anyMatch(each -> each.startsWith(expected)), said.toString());
    }

    @Test
    public void withoutAVerdictAllGoOnWhenTheBatchIsDone() throws Exception {
        Ran ran = run(file(batch(2, null, all()), write("out", "$t/key")), keys(2));
        assertEquals(ran.rows.get("out"), List.of("k1", "k2"));
        assertNull(ran.line(1).batches().get(0).said());
        assertEquals(sent.stream().collect(Collectors.joining(",")), "k1 k2");
    }

    @Test
    public void theResultsOfAFlowAreWhatNoLaneWrites() {
        Lane lane = Lane.of(Lane.Rule.run("r", ANY, Lane.Then.REJECT, write("bad", "$t/key")));
        FlowFile file = file(batch(2, BY_KEY, all()).failing(lane), write("out", "$t/key"));
        assertEquals(file.results().orElseThrow().id(), "out");
        assertEquals(
                file(batch(2, BY_KEY, all()).failing(lane))
                        .results()
                        .orElseThrow()
                        .id(),
                "bad");
    }

    @Test
    public void aBatchStandsInAFlowFileAsItWasWritten() {
        FlowFile file = file(halving(limited(batch(7, BY_KEY, all()), 900, "$t/key")));
        assertEquals(FlowFile.parse(file.text()), file);
        Fill other = Fill.expression("fc", all().fills().get(0).target(), "'x'");
        assertEquals(file.filled("c", List.of(other)).fillsById().get("c"), List.of(other));
    }
}
