package wirekettle.server.flows;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNotNull;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import java.io.IOException;
import java.nio.file.Files;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.UnaryOperator;
import java.util.stream.Collectors;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.BranchStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FilterStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.LookUpStage;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.flow.run.End;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.value.Column;
import wirekettle.core.value.ScalarType;
import wirekettle.server.Database;
import wirekettle.server.codes.CodeTableMapper;
import wirekettle.server.codes.Codes;
import wirekettle.server.contracts.Contracts;
import wirekettle.server.datasets.DatasetMapper;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.datasets.Datasets;
import wirekettle.server.settings.EndpointsOf;

/** What the flow page shows of samples, over a real database: their ways, values, coverage and problems. */
public class PreviewerTest {
    private static final String ONE = "{urn:halewick:register:1}";
    private static final String LOANS =
            """
            loan_no;institution_no;weight
            L-1;RG-10400;12,5
            L-1;RG-10400;3
            L-2;RG-10401;heavy
            L-3;;7
            L-4;RG-10402;9
            """;

    private Database database;
    private FlowContext context;
    private Previewer previewer;
    private long flow;

    @BeforeClass
    public void open() throws Exception {
        database = Database.open();
        DatasetStore store = Datasets.over(database, Files.createTempDirectory("previews"));
        Datasets.csv(store, "loans", LOANS);
        Datasets.csv(store, "zones", "zone;name\nRG-10400;north\nRG-10401;south\n");
        Contracts.over(database)
                .add(Contracts.register(UnaryOperator.identity()), "Institution Register", "pasted", "ada");
        database.mapper(CodeTableMapper.class)
                .add("lenders", null, "[{\"code\":\"RG-10400\",\"value\":\"Lünbrück\"}]", "ada");
        context = new FlowContext();
        context.contracts = Contracts.over(database);
        context.datasets = database.mapper(DatasetMapper.class);
        context.datasetStore = store;
        context.endpoints = EndpointsOf.a(database);
        context.fixedClock = Optional.of("2026-11-28T22:00:00Z");
        context.codeTables = Codes.over(database);
        context.folders = Datasets.folders(store);
        previewer = new Previewer();
        previewer.context = context;
        previewer.kept = database.mapper(KeptReplyMapper.class);
        previewer.memory = MemoryBudget.NONE;
        previewer.samples = new Samples();
        previewer.samples.context = context;
        flow = database.mapper(FlowMapper.class).add("Check borrowers", "ada");
    }

    @AfterClass(alwaysRun = true)
    public void close() throws Exception {
        database.close();
    }

    private static ReadStage read() {
        return new ReadStage("read", "loans", "loan", "$loan/institution_no", List.of("loan_no"));
    }

    private static CallStage call() {
        return new CallStage(
                "call",
                "Institution Register",
                null,
                "RegisterPort",
                "LookUpInstitution",
                "Institution Register",
                "reply",
                List.of(
                        Fill.wire(
                                "f1",
                                "/" + ONE + "LookUpInstitution/" + ONE + "registrationNumber",
                                "$loan/institution_no"),
                        Fill.constant("f2", "/" + ONE + "LookUpInstitution/" + ONE + "requestedBy", "HALEWICK")),
                Delivery.of(Delivery.Effect.READS, 4));
    }

    private static WriteStage write(String id, Fill... fills) {
        List<Column> columns = java.util.Arrays.stream(fills)
                .map(fill -> new Column(fill.target(), fill.target(), type(fill.target()), null, false))
                .toList();
        return new WriteStage(id, "out", null, null, "", columns, List.of(fills));
    }

    private static ScalarType type(String column) {
        return column.equals("weight") ? ScalarType.DECIMAL : ScalarType.STRING;
    }

    private Preview at(FlowFile file, String stage, long record, Map<String, FailureClass> suppose) throws IOException {
        return previewer.preview(
                flow, new SampleResource.SampleRequest(file, stage, record, "Test", null, null, suppose, null));
    }

    private void keep(long record, String status) {
        keep(record, "", status);
    }

    private void keep(long record, String path, String status) {
        String reply = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>"
                + "<LookUpInstitutionResponse xmlns='urn:halewick:register:1'><registrationNumber>RG-10400"
                + "</registrationNumber><name>Lünbrück Gallery</name><status>" + status + "</status>"
                + "</LookUpInstitutionResponse></s:Body></s:Envelope>";
        previewer.kept.keep(
                flow, "call", record, path, "Institution Register", "Test", "hash", "<ask/>", 200, reply, null, 4);
    }

    private static String wires(Preview preview) {
        return preview.sources().stream()
                .flatMap(group -> group.fields().stream())
                .map(field -> field.wire() + "=" + field.value())
                .collect(Collectors.joining(" "));
    }

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

    /** A call is proposed its fills at the top, in a way, and for an item of a record. */
    @Test
    public void fillsAreProposedInsideWaysAndForItemsToo() throws Exception {
        Suggestions suggestions = new Suggestions();
        suggestions.context = context;
        suggestions.previewer = previewer;
        suggestions.accepted = new AcceptedWires();
        suggestions.accepted.store = database.mapper(AcceptedWires.Store.class);
        CallStage bare = call().filled(List.of());
        BranchStage way = new BranchStage("b", List.of(new BranchStage.Way("all", "all", null, List.of(bare))), null);
        SplitStage items = new SplitStage("lines", "$loan/line", "line", 2, List.of(bare), null, null);
        for (Stage each : List.of(bare, way, items)) {
            FlowFile file = FlowFile.of("Check", read(), each);
            CompiledFlow compiled = context.compile(file);
            CompiledCall call = (CompiledCall) compiled.stage("call");
            List<String> proposed = suggestions.ofRequest(flow, compiled, call, "Test").stream()
                    .map(its -> its.fill().target() + " " + its.fill().wire())
                    .toList();
            String expected =
                    each == items ? "}loanReference $line/loan_no" : "}registrationNumber $loan/institution_no";
            assertTrue(proposed.stream().anyMatch(its -> its.endsWith(expected)), each.id() + ": " + proposed);
        }
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
