package wirekettle.server.flows;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.io.IOException;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.core.assist.MessageSuggestions;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.BranchStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.MakesRecord;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Column;
import wirekettle.core.value.DocumentForm;
import wirekettle.core.value.ScalarType;

/** What is proposed to fill requests, records and documents from, wherever they stand in a flow. */
public class SuggestionsTest extends PreviewFixture {
    private Suggestions suggestions;

    @BeforeClass(dependsOnMethods = "open")
    public void propose() {
        suggestions = new Suggestions();
        suggestions.context = context;
        suggestions.flowRecords = records;
        suggestions.previewer = previewer;
        suggestions.accepted = new AcceptedWires();
        suggestions.accepted.store = database.mapper(AcceptedWires.Store.class);
    }

    private static List<String> told(List<MessageSuggestions.Proposed> proposed) {
        return proposed.stream()
                .map(its -> its.fill().target() + " " + its.fill().wire())
                .toList();
    }

    private static List<Column> columns(String... names) {
        return Arrays.stream(names)
                .map(name -> new Column(name, name, ScalarType.STRING, null, false))
                .toList();
    }

    private List<String> ofRecord(FlowFile file, String id) throws IOException {
        MakesRecord made = MadeRecord.of(context.compile(file), id).made();
        return told(suggestions.ofRecord(
                flow,
                context.compile(file),
                made,
                new SampleResource.SampleRequest(file, id, 1L, "Test", null, null, null, null)));
    }

    /** A call is proposed its fills at the top, in a way, for an item of a record, and in a lane no sample comes to. */
    @Test
    public void requestsAreProposedTheirFillsInWaysAndLanesAndForItemsToo() throws Exception {
        CallStage bare = call().filled(List.of());
        BranchStage way = new BranchStage("b", List.of(new BranchStage.Way("all", "all", null, List.of(bare))), null);
        SplitStage items = new SplitStage("lines", "$loan/line", "line", 2, List.of(bare), null, null);
        WriteStage lane = write("out", Fill.wire("w1", "no", "$loan/loan_no"))
                .failing(Lane.of(Lane.Rule.run("rule", List.of(), Lane.Then.REJECT, bare)));
        for (Stage each : List.of(bare, way, items, lane)) {
            FlowFile file = FlowFile.of("Check", read(), each);
            CompiledFlow compiled = context.compile(file);
            CompiledCall call = (CompiledCall) compiled.stage("call");
            List<String> proposed = told(suggestions.ofRequest(flow, compiled, call, "Test"));
            String from = each == items ? "$line" : "$loan";
            for (String expected : List.of("}loanReference %s/loan_no", "}registrationNumber %s/institution_no")) {
                String wanted = expected.formatted(from);
                assertTrue(proposed.stream().anyMatch(its -> its.endsWith(wanted)), each.id() + ": " + proposed);
            }
        }
    }

    /** A call behind another is proposed fields of a reply nobody has got yet. */
    @Test
    public void whatNoSampleHasYetIsProposedByItsShape() throws Exception {
        database.execute("delete from kept_reply");
        FlowFile file = FlowFile.of(
                "Check",
                read(),
                call(),
                new WriteStage("out", "out", null, null, null, columns("status", "registrationNumber"), List.of()));
        List<String> proposed = ofRecord(file, "out");
        assertTrue(proposed.contains("status $reply/status"), proposed.toString());
        CallStage again = new CallStage(
                "again",
                "Institution Register",
                null,
                "RegisterPort",
                "LookUpInstitution",
                "Institution Register",
                "second",
                List.of(),
                Delivery.of(Delivery.Effect.READS, 4));
        CompiledFlow two = context.compile(FlowFile.of("Check", read(), call(), again));
        proposed = told(suggestions.ofRequest(flow, two, (CompiledCall) two.stage("again"), "Test"));
        assertTrue(
                proposed.stream().anyMatch(its -> its.endsWith("}registrationNumber $reply/registrationNumber")),
                proposed.toString());
    }

    @Test
    public void valuesThatALanesRuleUsesAreProposedAndShown() throws Exception {
        List<Column> columns = columns("loan_no", "cause");
        Lane lane =
                Lane.of(Lane.Rule.use("use", List.of(), columns, List.of(Fill.wire("w1", "loan_no", "$loan/loan_no"))));
        FlowFile file = FlowFile.of("Check", read(), call().failing(lane));
        assertEquals(ofRecord(file, "use"), List.of("cause $failure/cause"));
        Preview supposed = at(file, "use", 2, Map.of("call", FailureClass.FAULT));
        assertEquals(supposed.fields().get("loan_no").value(), "L-2");
        assertTrue(wires(supposed).contains("$failure/cause=a supposed fault"), wires(supposed));
        assertEquals(at(file, "use", 2, null).fields().get("loan_no").value(), "", "it does not come there");
    }

    /** What is gathered of items is a place of its own: the items are in reach there, with their values. */
    @Test
    public void theShapeOfWhatIsGatheredIsProposedAndShown() throws Exception {
        SplitStage.Gather gather = new SplitStage.Gather(
                "lines",
                null,
                columns("count", "loan_no"),
                List.of(Fill.expression("g1", "count", "count($lines/item)")),
                null);
        SplitStage split = new SplitStage(
                "split",
                "$loan/line",
                "line",
                2,
                List.of(write("each", Fill.wire("w1", "no", "$line/weight"))),
                gather,
                null);
        FlowFile file = FlowFile.of("Check", read(), split, write("out", Fill.wire("w1", "a", "$lines/count")));
        String place = SplitStage.gathering("split");
        assertEquals(ofRecord(file, place), List.of("loan_no $loan/loan_no"));
        Preview preview = at(file, place, 1, null);
        assertEquals(preview.fields().get("count").value(), "2");
        assertTrue(wires(preview).contains("$lines/item/end=done"), wires(preview));
        assertEquals(at(file, "out", 1, null).rows(), List.of(List.of("2")));
    }

    @Test
    public void aNestedDocumentIsProposedWhatStandsOnceAndWhatRepeats() throws Exception {
        WriteStage nested = new WriteStage(
                "out",
                "out",
                null,
                null,
                null,
                columns("loan_no", "crates/weight", "crates/code"),
                List.of(Fill.wire("w1", "crates/code", "$line/loan_no")),
                DocumentForm.JSON,
                List.of(new DocumentPlan.Group("crates", "$loan/line", "line")),
                null,
                null);
        FlowFile file = FlowFile.of("Check", read(), nested);
        assertEquals(Set.copyOf(ofRecord(file, "out")), Set.of("loan_no $loan/loan_no", "crates/weight $line/weight"));
        assertEquals(at(file, "out", 1, null).fields().get("crates/code").value(), "L-1");
    }
}
