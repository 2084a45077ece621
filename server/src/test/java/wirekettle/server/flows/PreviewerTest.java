package wirekettle.server.flows;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNotNull;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import java.io.IOException;
import java.util.List;
import java.util.Map;
import org.testng.annotations.Test;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.file.BranchStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FilterStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.LookUpStage;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.flow.run.End;
import wirekettle.core.soap.FailureClass;

/** What the flow page shows of samples, over a real database: their ways, values, coverage and problems. */
public class PreviewerTest extends PreviewFixture {
    @Test
    public void aSampleWaitsForTheReplyOfACallAndItsSourcesStayInSight() throws Exception {
        database.execute("delete from kept_reply");
        FlowFile file = FlowFile.of("Check", read(), call(), write("out", Fill.wire("w1", "no", "$loan/loan_no")));
        Preview preview = at(file, "out", 1, null);
        assertEquals(preview.way().reached(), List.of("read", "call"));
        assertNull(preview.way().end());
        assertEquals(preview.rows(), List.of());
        String wires = wires(preview);
        assertTrue(wires.contains("$loan/line/weight=12,5"), wires);
        assertTrue(wires.contains("$reply/status="), wires);

        keep(1, "active");
        preview = at(file, "out", 1, null);
        assertEquals(preview.way().end(), End.DONE);
        assertEquals(preview.rows(), List.of(List.of("L-1")));
        assertEquals(preview.keptReplies(), 1);
        assertNotNull(preview.kept());
        assertTrue(preview.kept().stale(), "the request changed since");
        assertTrue(wires(preview).contains("$reply/name=Lünbrück Gallery"), wires(preview));
    }

    @Test
    public void aSampleThatGoesAnotherWayNamesOneThatComesHere() throws Exception {
        BranchStage branch = new BranchStage(
                "which",
                List.of(
                        new BranchStage.Way(
                                "light",
                                "light",
                                "$loan/loan_no = 'L-4'",
                                List.of(write("some", Fill.wire("w", "a", "$loan/loan_no")))),
                        new BranchStage.Way("rest", null, null, List.of())),
                null);
        FlowFile file = FlowFile.of(
                "Check", read(), new FilterStage("known", "unknown", "$loan/institution_no != ''", null), branch);
        Preview here = at(file, "some", 1, null);
        assertEquals(here.way().ways(), Map.of("which", 1));
        assertEquals(here.way().comesHere(), (Long) 4L);
        assertNull(at(file, "some", 4, null).way().comesHere());
        Preview left = at(file, "some", 3, null);
        assertEquals(left.way().end(), End.LEFT_OUT);
        assertEquals(left.way().endedAt(), "known");
    }

    @Test
    public void coverageCountsEverySampleAndWhatDoesNotFitIsAProblem() throws Exception {
        FlowFile file = FlowFile.of(
                "Check",
                read(),
                write("out", Fill.wire("w1", "weight", "$loan/weight"), Fill.wire("w2", "no", "$loan/no")));
        Preview preview = at(file, "out", 2, null);
        Preview.FieldValue weight = preview.fields().get("weight");
        assertEquals(
                weight.fine() + " " + weight.empty() + " " + weight.invalid(),
                "2 0 2",
                preview.fields().toString());
        assertEquals(weight.value(), "heavy");
        List<String> said =
                preview.attention().stream().map(Preview.Attention::message).toList();
        assertTrue(said.contains("weight does not fit for 2 of 4 samples"), said.toString());
        assertTrue(said.stream().anyMatch(each -> each.contains("$loan/no is not a field")), said.toString());
    }

    @Test
    public void aSupposedFaultGoesIntoTheLane() throws Exception {
        keep(1, "active");
        Lane told = Lane.of(Lane.Rule.run(
                "rule",
                List.of(FailureClass.FAULT),
                Lane.Then.GO_ON,
                write("told", Fill.wire("w", "a", "$failure/cause"))));
        FlowFile file = FlowFile.of("Check", read(), call().failing(told));
        Preview rejected = at(FlowFile.of("Check", read(), call()), "call", 1, Map.of("call", FailureClass.FAULT));
        assertEquals(rejected.way().end(), End.REJECTED);
        assertEquals(rejected.way().endedAt(), "call");
        Preview saved = at(file, "told", 1, Map.of("call", FailureClass.FAULT));
        assertEquals(saved.way().end(), End.DONE);
        assertEquals(saved.rows(), List.of(List.of("a supposed fault")));
        assertTrue(saved.way().failures().containsKey("call"));
    }

    @Test
    public void itemsOfASampleHaveRepliesOfTheirOwn() throws Exception {
        database.execute("delete from kept_reply");
        SplitStage split = new SplitStage(
                "lines", "$loan/line", "line", 2, List.of(call()), new SplitStage.Gather("lines", null), null);
        FlowFile file = FlowFile.of(
                "Check",
                read(),
                split,
                write("out", Fill.expression("w1", "a", "string-join($lines/item/reply/status, ' ')")));
        Preview waiting = at(file, "call", 1, null);
        assertNull(waiting.way().end());
        assertTrue(wires(waiting).contains("$line/weight=12,5"), wires(waiting));
        assertTrue(wires(at(file, "out", 1, null)).contains("$lines/item/reply/status="));
        keep(1, "lines:1", "active");
        assertEquals(at(file, "call", 1, null).kept().status(), (Integer) 200);
        assertNull(at(file, "out", 1, null).way().end());
        keep(1, "lines:2", "closed");
        Preview whole = at(file, "out", 1, null);
        assertEquals(whole.way().end(), End.DONE);
        assertEquals(whole.rows(), List.of(List.of("active closed")));
        assertEquals(whole.keptReplies(), 1, "of one record");
    }

    /** The second of two items is looked at, before the first has a reply; what would take it back is shown. */
    @Test
    public void anotherItemIsShownWithWhatWouldTakeItBack() throws Exception {
        database.execute("delete from kept_reply");
        CallStage undo = new CallStage(
                "back",
                "Institution Register",
                null,
                "RegisterPort",
                "LookUpInstitution",
                "Institution Register",
                "undone",
                List.of(Fill.expression(
                        "u1",
                        "/" + ONE + "LookUpInstitution/" + ONE + "registrationNumber",
                        "concat($line/weight, ' ', $reply/status, ' ', $failure/cause)")),
                Delivery.of(Delivery.Effect.CHANGES, 1));
        CallStage changing = new CallStage(
                "call",
                "Institution Register",
                null,
                "RegisterPort",
                "LookUpInstitution",
                "Institution Register",
                "reply",
                call().fills(),
                Delivery.of(Delivery.Effect.CHANGES, 1));
        SplitStage split =
                new SplitStage("lines", "$loan/line", "line", 2, List.of(changing.undoneBy(List.of(undo))), null, null);
        FlowFile file = FlowFile.of("Check", read(), split, write("out", Fill.wire("w1", "no", "$loan/loan_no")));
        Preview second = item(file, "call", 2);
        assertTrue(wires(second).contains("$line/weight=3"), wires(second));
        assertEquals(second.way().items(), Map.of("lines", 2));
        assertTrue(wires(item(file, "call", 1)).contains("$line/weight=12,5"));
        assertTrue(wires(item(file, "call", 9)).contains("$line/weight=3"), "the last");
        keep(1, "lines:2", "active");
        Preview back = item(file, "back", 2);
        assertEquals(
                back.fields()
                        .get("/" + ONE + "LookUpInstitution/" + ONE + "registrationNumber")
                        .value(),
                "3 active rejected later");
        assertTrue(!back.way().reached().contains("back"), "it is only shown");
    }

    private Preview item(FlowFile file, String stage, int item) throws IOException {
        return previewer.preview(
                flow,
                new SampleResource.SampleRequest(
                        file, stage, 1L, "Test", null, null, null, null, Map.of("lines", item)));
    }

    @Test
    public void rowsAndCodesAreLookedUpForTheSample() throws Exception {
        FlowFile file = FlowFile.of(
                "Check",
                read(),
                new LookUpStage(
                        "l", "zones", null, "zone", "$loan/institution_no", "zone", LookUpStage.None.EMPTY, null, null),
                new LookUpStage(
                        "c",
                        null,
                        "lenders",
                        null,
                        "$loan/institution_no",
                        "lender",
                        LookUpStage.None.EMPTY,
                        null,
                        null),
                write("out", Fill.wire("w1", "zone", "$zone/name"), Fill.wire("w2", "lender", "$lender/value")));
        assertEquals(at(file, "out", 1, null).rows(), List.of(List.of("north", "Lünbrück")));
        assertEquals(at(file, "out", 2, null).rows(), List.of(List.of("south", "")));
        assertEquals(context.mapping(file).tables().keySet(), java.util.Set.of("lenders"));
    }

    @Test
    public void aRecordBeyondTheLastShowsTheLast() throws Exception {
        FlowFile file = FlowFile.of("Check", read(), write("out", Fill.wire("w1", "no", "$loan/loan_no")));
        assertEquals(at(file, "out", 99, null).record(), 4);
        assertEquals(at(file, "out", 99, null).rows(), List.of(List.of("L-4")));
        assertEquals(at(file, "out", 0, null).record(), 1);
    }

    @Test
    public void aFlowWithoutAnythingToReadHasAPreviewToo() throws Exception {
        FlowFile file = FlowFile.of("Check", new ReadStage("read", null, "loan", null));
        Preview preview = at(file, "read", 1, null);
        assertEquals(preview.sources(), List.of());
        assertNull(preview.way());
        assertTrue(preview.problems().stream().anyMatch(each -> each.message().contains("no dataset is read")));
    }
}
