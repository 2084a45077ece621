package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.Test;
import wirekettle.core.expression.Expressions;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.compile.Surroundings;
import wirekettle.core.flow.file.BatchStage;
import wirekettle.core.flow.file.FilterStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.MapStage;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.flow.file.SplitStage.Gather;
import wirekettle.core.flow.file.SplitStage.WhenSomeFail;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.Transport;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.Series;

/** Numbers of series: each used once, or given back. */
public class NumbersTest extends OutlineFixture {
    private static final Series PAPERS = new Series("papers", true, 1, "P-{number:3}", false, null);
    private static final Series TICKETS = new Series("tickets", false, 1, null, false, null);

    private NumbersInMemory numbers;

    @BeforeMethod
    public void noNumberDrawn() {
        numbers = new NumbersInMemory();
    }

    private static MapStage drawing(String series) {
        Fill fill = Fill.number("d1", "no", series);
        return MapStage.byFills("draw", "paper", columns(fill), List.of(fill));
    }

    @Override
    CompiledFlow compiled(FlowFile file) {
        MappingContext context =
                MappingContext.of(new Expressions()).drawing(Map.of("papers", PAPERS, "tickets", TICKETS));
        return CompiledFlow.of(file, new Surroundings(Map.of("Vanline Desk", vanline), null, Map.of(), context));
    }

    /** A run that settles numbers with its ends, as a ledger does. */
    private Ran books() {
        return new Ran() {
            @Override
            public synchronized void keep(Batch batch) throws IOException {
                super.keep(batch);
                batch.ends().forEach(numbers::settle);
            }
        };
    }

    private Ran ran(Ran books, FlowFile file, Past past, List<Node> records) throws IOException {
        CompiledFlow flow = sound(file);
        return books.prepared(flow, doors(flow).with(numbers), Ran.source(records), past, FlowRun.Extent.ALL)
                .go();
    }

    private Ran ran(FlowFile file, String... keys) throws IOException {
        return ran(books(), file, Past.NONE, records(keys));
    }

    private static FlowFile sending(Stage... behind) {
        List<Stage> stages =
                new ArrayList<>(List.of(drawing("papers"), changes("c", "concat($t/key, ' ', $paper/no)")));
        stages.addAll(List.of(behind));
        return file(stages.toArray(Stage[]::new));
    }

    private static Set<Long> upTo(long last) {
        Set<Long> all = new TreeSet<>();
        for (long n = 1; n <= last; n++) {
            all.add(n);
        }
        return all;
    }

    @Test
    public void eachRecordHasANumberOfItsOwn() throws Exception {
        Ran ran = ran(sending(write("out", "$paper/no", "$c/reference")), "a", "b", "c");
        Map<String, String> rows = new TreeMap<>();
        for (String row : ran.rows.get("out")) {
            rows.put(row.split("\\|")[0], row.split("\\|")[1].substring(2));
        }
        assertEquals(rows, Map.of("P-001", "P-001", "P-002", "P-002", "P-003", "P-003"));
        assertEquals(numbers.used, upTo(3));
        assertTrue(numbers.held.isEmpty());
    }

    @Test
    public void aNumberIsGivenBackWhenNothingWasDoneWithItAndDrawnAgain() throws Exception {
        service = request ->
                reference(request).startsWith("bad") ? fault("TooHeavy") : answer(reference(request), "fine");
        Ran first = ran(sending(), "bad");
        assertEquals(first.line(1).end(), End.REJECTED);
        assertEquals(numbers.free, Set.of(1L));
        Ran second = ran(sending(), "good");
        assertEquals(second.line(1).end(), End.DONE);
        assertEquals(numbers.used, Set.of(1L));
        assertEquals(numbers.drawn, List.of(1L, 1L));
    }

    @Test
    public void aNumberThatMayHaveArrivedCounts() throws Exception {
        service = request -> {
            throw new CallFailure(FailureClass.TIMEOUT, "no answer in time", "no answer", true, false, null);
        };
        Ran ran = ran(sending(), "a");
        assertEquals(ran.line(1).end(), End.IN_DOUBT);
        assertEquals(numbers.used, Set.of(1L));
    }

    @Test
    public void aNumberOfARecordThatIsLeftOutAfterItsChangeCounts() throws Exception {
        Ran ran = ran(sending(new FilterStage("f", "none", "false()", null)), "a");
        assertEquals(ran.line(1).end(), End.LEFT_OUT);
        assertEquals(numbers.used, Set.of(1L));
        assertTrue(numbers.free.isEmpty());
    }

    /** A try again sends the same number. */
    @Test
    public void aTryAgainUsesTheNumberAgain() throws Exception {
        List<String> asked = new ArrayList<>();
        service = request -> {
            asked.add(reference(request));
            return asked.size() == 1 ? fault("Busy") : answer(reference(request), "fine");
        };
        Lane again = Lane.of(Lane.Rule.again("r", List.of(FailureClass.FAULT), 2, 0));
        FlowFile file = file(drawing("papers"), changes("c", "$paper/no").failing(again));
        assertEquals(ran(file, "a").line(1).end(), End.DONE);
        assertEquals(asked, List.of("P-001", "P-001"));
        assertEquals(numbers.drawn, List.of(1L));
    }

    private static FlowFile byCrate(WhenSomeFail rule) {
        return file(new SplitStage(
                "split",
                "$t/crate",
                "crate",
                1,
                List.of(drawing("papers"), changes("c", "concat($crate/no, ' ', $paper/no)")),
                new Gather("crates", rule),
                null));
    }

    private static Node loan(String... crates) {
        Node.Builder record = Node.build(Name.of("record")).add("key", "k");
        for (String each : crates) {
            record.add(Node.build(Name.of("crate")).add("no", each).done());
        }
        return record.done();
    }

    @Test
    public void anItemGivesItsNumberBackThoughItsRecordGoesOn() throws Exception {
        service = request ->
                reference(request).startsWith("bad") ? fault("TooHeavy") : answer(reference(request), "fine");
        Ran ran = ran(books(), byCrate(WhenSomeFail.GO_ON), Past.NONE, List.of(loan("a", "bad", "c")));
        assertEquals(ran.line(1).end(), End.DONE);
        assertEquals(numbers.used, Set.of(1L, 3L));
        assertEquals(numbers.free, Set.of(2L));
        assertEquals(
                ran.line(1).numbers().stream().map(DrawnNumber::path).toList(),
                List.of("split:1", "split:2", "split:3"));
    }

    /** Of a rejected record the items that were done keep their numbers, the others give them back. */
    @Test
    public void whatWasDoneOfARejectedRecordKeepsItsNumbers() throws Exception {
        service = request ->
                reference(request).startsWith("bad") ? fault("TooHeavy") : answer(reference(request), "fine");
        Ran ran = ran(books(), byCrate(WhenSomeFail.REJECT), Past.NONE, List.of(loan("a", "bad", "c")));
        assertEquals(ran.line(1).end(), End.REJECTED);
        assertEquals(numbers.used, Set.of(1L));
        assertEquals(numbers.free, Set.of(2L));
    }

    @Test
    public void aBatchDrawsOneNumberForAllItsRecords() throws Exception {
        BatchStage batch = new BatchStage(
                "batch",
                "batch",
                3,
                null,
                null,
                100,
                List.of(drawing("papers"), changes("c", "concat($paper/no, ' ', count($batch/item))")),
                null,
                false,
                List.of(),
                null);
        Ran ran = ran(file(batch), "a", "b", "c");
        assertEquals(ran.totals.of(End.DONE), 3);
        assertEquals(numbers.used, Set.of(1L));
        assertEquals(sent, List.of("P-001 3"));
    }

    /** A record drawn for and then refused in a batch gives its number back, the accepted ones keep theirs. */
    @Test
    public void theVerdictDecidesAboutTheNumbersOfItsRecords() throws Exception {
        service = request -> refusing(reference(request));
        BatchStage batch = new BatchStage(
                "batch",
                "batch",
                3,
                null,
                null,
                100,
                List.of(changes("c", "string-join($batch/item/t/key, ' ')")),
                new BatchStage.Verdict(
                        "v",
                        "$c/line",
                        "$item/t/key",
                        "$line/key",
                        "$line/end = 'ok'",
                        null,
                        null,
                        BatchStage.Said.IN_DOUBT),
                false,
                List.of(),
                null);
        Ran ran = ran(file(drawing("papers"), batch), "a", "bad", "c");
        assertEquals(ran.totals.of(End.DONE), 2, ran.lines.toString());
        assertEquals(ran.totals.of(End.REJECTED), 1);
        DrawnNumber back = ran.line(2).numbers().get(0);
        assertEquals(back.fate(), DrawnNumber.Fate.GIVEN_BACK);
        assertEquals(numbers.free, Set.of(back.number()));
        assertEquals(numbers.used.size(), 2);
    }

    private static Transport.Answer refusing(String keys) {
        StringBuilder lines = new StringBuilder();
        for (String key : keys.split(" ")) {
            String end = key.equals("bad") ? "no" : "ok";
            lines.append("</status><line><key>" + key + "</key><end>" + end + "</end></line><status>");
        }
        return answer(keys, lines.toString());
    }

    /** What was drawn before a crash and claimed is sent, not another number. */
    @Test
    public void aRecordThatGoesOnAfterACrashHasTheNumberItHad() throws Exception {
        FlowFile file = sending(changes("c2", "$paper/no"));
        List<Claim> kept = new ArrayList<>();
        service = request -> {
            if (reference(request).equals("P-001")) {
                throw new Error("the power goes");
            }
            return answer(reference(request), "fine");
        };
        Ran books = new Ran() {
            @Override
            public synchronized void keep(Batch batch) throws IOException {
                super.keep(batch);
                kept.addAll(batch.claims());
            }
        };
        CompiledFlow flow = sound(file);
        try {
            books.prepared(flow, doors(flow).with(numbers), Ran.source(records("a")), Past.NONE, FlowRun.Extent.ALL)
                    .go();
        } catch (IOException e) {
            // it broke off
        }
        assertEquals(numbers.held.size(), 1);
        Past past = new Past() {
            @Override
            public String ended(long ordinal) {
                return null;
            }

            @Override
            public OpenRecord open(long ordinal) {
                Claim first = kept.get(0);
                OpenRecord known = OpenRecord.claimed(null, first.fingerprint(), first.effect(), first.made());
                known.replay().passage(first.effect(), KeptNode.write(Node.leaf("done", "1")));
                return known;
            }

            @Override
            public Totals totals() {
                return Totals.NONE;
            }
        };
        sent.clear();
        service = request -> answer(reference(request), "fine");
        Ran on = ran(books(), file, past, records("a"));
        assertEquals(on.line(1).end(), End.DONE);
        assertEquals(sent, List.of("P-001"));
        assertEquals(numbers.drawn, List.of(1L));
        assertEquals(numbers.used, Set.of(1L));
    }

    @Test
    public void aSeriesThatMayHaveGapsGivesNothingBack() throws Exception {
        service = request -> fault("TooHeavy");
        ran(file(drawing("tickets"), changes("c", "$paper/no")), "a");
        assertTrue(numbers.free.isEmpty());
        assertEquals(numbers.drawn, List.of(1L));
    }

    @Test
    public void aRecordIsRejectedWhenNoNumberCanBeDrawn() throws Exception {
        numbers.away = new IOException("the database is away");
        Ran ran = ran(sending(), "a");
        assertEquals(ran.line(1).end(), End.REJECTED);
        assertEquals(
                ran.line(1).failure().message(), "no number of the series “papers” can be drawn: the database is away");
        assertTrue(sent.isEmpty());
    }

    @Test
    public void numbersAreDrawnInAMapThatMakesOneRecord() {
        Fill fill = Fill.number("d1", "no", "papers");
        Stage rows = new MapStage("m", null, null, null, "m", "$t", columns(fill), List.of(fill), null, null, null);
        String said = "a number is drawn in a Map that makes one record: draw it there, and wire this field to it";
        assertEquals(compiled(file(rows)).problems().get(0).message(), said);
        Stage call = changes("c", "1")
                .filled(List.of(Fill.number("fc", "/" + V + "TrackTransport/" + V + "reference", "papers")));
        assertTrue(compiled(file(call)).problems().stream()
                .map(FlowProblem::message)
                .anyMatch(said::equals));
        assertTrue(compiled(file(drawing("letters"))).problems().stream()
                .anyMatch(p -> p.message().contains("the series “letters” is not there: pick another")));
    }
}
