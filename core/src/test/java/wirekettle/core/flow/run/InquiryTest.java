package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.Stage;

/** A service is asked what became of a change that is in doubt. */
public class InquiryTest extends OutlineFixture {
    private static final Lane.Outcomes OUTCOMES = new Lane.Outcomes(
            "$found/status = ('there', 'odd')", "$found/status = ('unknown', 'odd')", "$found/status = 'broken'");

    private static Lane asking(Lane.Outcomes outcomes, Stage... stages) {
        Fill reference = Fill.expression("v", "reference", "concat('found ', $found/reference)");
        return Lane.of(Lane.Rule.ask("ask", outcomes, columns(reference), List.of(reference), stages));
    }

    private static CallStage book(Lane lane) {
        return (CallStage) changes("book", "concat('book ', $t/key)").failing(lane);
    }

    private CompiledFlow flow() {
        Lane lane = asking(OUTCOMES, reads("found", "concat('find ', $t/key)"));
        return sound(file(book(lane), write("out", "$book/reference")));
    }

    private void found(String status) {
        service = request -> {
            String reference = reference(request);
            if (!reference.startsWith("find")) {
                return answer(reference, "fine");
            }
            return status.equals("fault") ? fault("not today") : answer(reference, status);
        };
    }

    /** What a run is interrupted with after its first request left. */
    private Ran killed(CompiledFlow flow) throws Exception {
        Ran whole = Ran.of(flow, doors(flow), records("a"));
        Ran killed = new Ran();
        killed.claims.addAll(whole.claims);
        killed.totals = Totals.NONE.reading(1);
        sent.clear();
        return killed;
    }

    private Ran resumed(CompiledFlow flow, Past past) throws Exception {
        return new Ran()
                .prepared(flow, doors(flow), Ran.source(records("a")), past, FlowRun.Extent.ALL)
                .go();
    }

    @DataProvider
    public Object[][] answers() {
        return new Object[][] {
            {"there", End.DONE, List.of("find a"), List.of("found find a"), ""},
            {"unknown", End.DONE, List.of("find a", "book a"), List.of("book a"), ""},
            {"odd", End.IN_DOUBT, List.of("find a"), List.of(), "the answer is conflicting: a person has to look"},
            {"broken", End.IN_DOUBT, List.of("find a"), List.of(), "the answer is conflicting: a person has to look"},
            {"other", End.IN_DOUBT, List.of("find a"), List.of(), "the answer tells neither that it is done nor"},
            {"fault", End.IN_DOUBT, List.of("find a"), List.of(), "not today"},
        };
    }

    @Test(dataProvider = "answers")
    public void aRunThatGoesOnAsksBeforeARecordIsInDoubt(
            String status, End end, List<String> asked, List<String> rows, String said) throws Exception {
        CompiledFlow flow = flow();
        Ran killed = killed(flow);
        found(status);
        Ran resumed = resumed(flow, killed.past());
        assertEquals(sent, asked);
        LedgerLine line = resumed.line(1);
        assertEquals(line.end(), end);
        assertEquals(resumed.rows.get("out"), rows);
        String told = line.failure() == null ? "" : line.failure().message();
        assertTrue(told.startsWith(said.isEmpty() ? "" : "asked what became of TrackTransport: "), told);
        assertTrue(told.contains(said), told);
        Passage.Outcome became = line.passages().stream()
                .filter(p -> p.stage().equals("book"))
                .findFirst()
                .orElseThrow()
                .outcome();
        assertEquals(became, end == End.DONE ? Passage.Outcome.DONE : Passage.Outcome.IN_DOUBT);
        addsUp(resumed);
    }

    /** Sent after it was not done, and interrupted again: the answer of before is older than what was sent since. */
    @Test
    public void whoGoesOnTwiceAsksTwice() throws Exception {
        CompiledFlow flow = flow();
        Ran killed = killed(flow);
        found("unknown");
        Ran resumed = resumed(flow, killed.past());
        assertEquals(sent, List.of("find a", "book a"));
        Ran again = new Ran();
        again.claims.addAll(killed.claims);
        again.claims.addAll(resumed.claims);
        again.totals = Totals.NONE.reading(1);
        sent.clear();
        found("there");
        Ran third = resumed(flow, again.past());
        assertEquals(sent, List.of("find a"), "not what was answered before");
        assertEquals(third.rows.get("out"), List.of("found find a"));
    }

    /** What never came back is asked about at the next time the record goes on, not by its lane. */
    @Test
    public void inTheRunItselfDoubtStaysDoubt() throws Exception {
        CompiledFlow flow = flow();
        service = request -> {
            throw new wirekettle.core.soap.CallFailure(
                    wirekettle.core.soap.FailureClass.TIMEOUT, "no answer in time", "nothing came", true, false, null);
        };
        Ran ran = Ran.of(flow, doors(flow), records("a"));
        assertEquals(ran.line(1).end(), End.IN_DOUBT);
        assertEquals(sent, List.of("book a"));
    }

    @Test
    public void itIsWrittenInTheFlowFile() {
        FlowFile file = flow().file();
        assertEquals(FlowFile.parse(file.text()), file);
        assertEquals(file.asking(), List.of("book"));
        assertTrue(file.text().contains("\"then\" : \"ask\""), file.text());
    }

    @DataProvider
    public Object[][] wrong() {
        Stage find = reads("found", "$t/key");
        return new Object[][] {
            {reads("book", "$t/key").failing(asking(OUTCOMES, find)), "only a call that changes data can be in doubt"},
            {book(asking(new Lane.Outcomes(null, null, null), find)), "say by which answer the change is done"},
            {book(asking(new Lane.Outcomes("true()", null, null))), "it asks nobody yet"},
            {book(asking(OUTCOMES, changes("found", "$t/key"))), "what asks about a change must not change anything"},
            {book(asking(OUTCOMES, find, write("w", "$t/key"))), "where it is asked what became of a call, nothing is"},
            {book(asking(new Lane.Outcomes("$nobody/x", null, null), find)), "the condition: "},
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
