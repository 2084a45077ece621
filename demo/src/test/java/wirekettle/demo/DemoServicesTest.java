package wirekettle.demo;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.io.IOException;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.connect.HostRule;
import wirekettle.connect.HttpTransport;
import wirekettle.core.contract.Contract;
import wirekettle.core.expression.Expressions;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.MessageStyle;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.Surroundings;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.flow.run.Doors;
import wirekettle.core.simulate.Simulator;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.value.Column;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.ScalarType;

/** Every service of the demo called in each of its styles through the flow engine, over real HTTP. */
public class DemoServicesTest {
    private static final String V = "{urn:halewick:vanline:2}";
    private static final String C = "{urn:halewick:clearance}";
    private static final String P = "{urn:halewick:clearance:papers}";
    private static final String H = "{urn:halewick:climate:house}";
    private static final String R = "{urn:halewick:climate}";
    private DemoWorld world;

    @BeforeClass
    public void start() throws IOException {
        world = new DemoWorld(0);
    }

    @AfterClass
    public void stop() {
        world.close();
    }

    private record Call(String service, String port, String operation, String rows, Map<String, String> columns) {}

    /** What a run left behind: its rows, and for what failed the class, cause and message. */
    private RunInMemory run(Call call, List<Fill> fills, MessageStyle style, Delivery.Condition... failedWhen)
            throws Exception {
        Simulator simulator = world.simulator(call.service());
        Contract contract = simulator.contract();
        List<Fill> columnFills = new ArrayList<>();
        List<Column> columns = new ArrayList<>();
        call.columns().forEach((name, from) -> {
            columns.add(new Column(name, name, ScalarType.STRING, null, false));
            columnFills.add(
                    from.startsWith("$") && !from.contains("(")
                            ? Fill.wire(name, name, from)
                            : Fill.expression(name, name, from));
        });
        Delivery delivery =
                new Delivery(Delivery.Effect.READS, 1, true, null, null, null, null, List.of(failedWhen), null);
        FlowFile file = FlowFile.of(
                "Every style",
                new ReadStage("read", "loans", "loan", null),
                new CallStage("call", "it", null, call.port(), call.operation(), "there", "reply", fills, delivery),
                new WriteStage("write", "out", null, null, call.rows(), columns, columnFills));
        CompiledFlow flow = CompiledFlow.of(
                file,
                new Surroundings(
                        Map.of("it", contract), null, Map.of("there", style), MappingContext.of(new Expressions())));
        assertEquals(flow.problems(), List.of());
        String address = world.address(call.service());
        Clock clock = Clock.fixed(Instant.parse("2026-11-23T09:14:02Z"), ZoneOffset.UTC);
        Caller caller = Caller.of(
                new HttpTransport(HostRule.ANY),
                EndpointReach.plain(address),
                contract,
                flow.all(CompiledCall.class).get(0).offered(),
                delivery.limits());
        Node record = Node.build(Name.of("loan"))
                .add("no", "HC-20481")
                .add("crate", "HC-20481-1")
                .add("kg", "138.3")
                .add("value", "707735.5")
                .add("small", "1200")
                .add("day", "2026-12-11")
                .add("room", "G1")
                .done();
        long before = simulator.received();
        RunInMemory kept = RunInMemory.of(flow, Doors.of(caller, EndpointReach.plain(address), clock), record);
        assertEquals(simulator.received(), before + 1, "one call for one record: " + kept.failures);
        assertEquals(simulator.invalidRequests(), List.of());
        return kept;
    }

    private static String path(String namespace, String... steps) {
        StringBuilder path = new StringBuilder();
        for (String step : steps) {
            path.append('/').append(step.startsWith("@") ? step : namespace + step);
        }
        return path.toString();
    }

    private static List<Fill> booking(boolean header) {
        List<Fill> fills = new ArrayList<>();
        if (header) {
            fills.add(Fill.constant("h", path(V, "BookingHeader", "desk"), "HC07"));
        }
        String[][] values = {
            {"loanReference", "$loan/no"},
            {"collectFrom/name", "=Halewick Crating"},
            {"collectFrom/city", "=Öderstad"},
            {"collectFrom/street", "=Dock 4"},
            {"collectFrom/street#2", "=Gate B"},
            {"deliverTo/name", "=Lünbrück Gallery of Maps"},
            {"deliverTo/city", "=Lünbrück"},
            {"collectOn", "$loan/day"},
            {"deliverWithinDays", "=5"},
            {"crate/number", "$loan/crate"},
            {"crate/grossKilograms", "$loan/kg"},
            {"crate/size/@length", "=177"},
            {"crate/insured", "$loan/value"},
            {"crate/crate/number", "=INNER"},
            {"crate/crate/grossKilograms", "=12.5"},
            {"crate/crate/content/object", "=Glass orrery"},
            {"crate#2/number", "=HC-SPARE"},
            {"crate#2/grossKilograms", "=20"},
        };
        for (String[] value : values) {
            String target = path(V, "BookTransport") + path(V, value[0].split("/"));
            String id = "q" + fills.size();
            fills.add(
                    value[1].startsWith("=")
                            ? Fill.constant(id, target, value[1].substring(1))
                            : Fill.wire(id, target, value[1]));
        }
        return fills;
    }

    private static final Call BOOK =
            new Call("vanline", null, "BookTransport", "$reply/crate", Map.of("label", "$reply/crate/label"));

    @Test
    public void aBookingCarriesItsHeaderAndItsNestedAndRepeatedCrates() throws Exception {
        RunInMemory kept = run(BOOK, booking(true), MessageStyle.PLAIN);
        assertEquals(kept.failures, List.of());
        assertEquals(kept.rows, List.of("VL/HC-20481-1", "VL/HC-SPARE"));
    }

    @Test
    public void aMissingHeaderIsAFaultReadByItsHeader() throws Exception {
        RunInMemory kept = run(BOOK, booking(false), MessageStyle.PLAIN);
        assertEquals(kept.rows, List.of());
        assertEquals(
                kept.failures,
                List.of("fault: BookingRefused: Client: the booking header is missing (reason “no BookingHeader”)"));
    }

    @DataProvider
    public static Object[][] styles() {
        return new Object[][] {
            {
                new MessageStyle(MessageStyle.Prefixes.NONE, false, false, false),
                "<BookTransport xmlns=\"urn:halewick:vanline:2\"><loan"
            },
            {new MessageStyle(MessageStyle.Prefixes.CONTRACT, false, false, false), "<v:BookTransport><v:loan"},
            {new MessageStyle(MessageStyle.Prefixes.NUMBERED, false, true, false), "<n1:crate xsi:type=\"n1:Crate\">"},
        };
    }

    @Test(dataProvider = "styles")
    public void theServiceTakesTheMessageInEveryStyleAnEndpointMayWant(MessageStyle style, String written)
            throws Exception {
        RunInMemory kept = run(BOOK, booking(true), style);
        assertEquals(kept.rows.size(), 2, kept.failures.toString());
        String sent = new String(
                kept.lines.get(0).passages().get(0).exchange().request(), java.nio.charset.StandardCharsets.UTF_8);
        assertTrue(sent.contains(written), sent);
    }

    @Test
    public void theOlderOperationTakesOneCrateACall() throws Exception {
        RunInMemory kept = run(
                new Call("vanline", null, "BookCrate", "", Map.of("label", "$reply/label")),
                List.of(
                        Fill.constant("h", path(V, "BookingHeader", "desk"), "HC07"),
                        Fill.wire("a", path(V, "BookCrate", "loanReference"), "$loan/no"),
                        Fill.wire("b", path(V, "BookCrate", "crate", "number"), "$loan/crate"),
                        Fill.wire("c", path(V, "BookCrate", "crate", "grossKilograms"), "$loan/kg")),
                MessageStyle.PLAIN);
        assertEquals(kept.rows, List.of("VL/HC-20481-1"));
    }

    @Test
    public void aOneWayOperationIsDoneWhenItIsTaken() throws Exception {
        RunInMemory kept = run(
                new Call("vanline", null, "ReportPosition", "", Map.of("told", "$loan/no")),
                List.of(
                        Fill.wire("a", path(V, "ReportPosition", "reference"), "$loan/no"),
                        Fill.constant("b", path(V, "ReportPosition", "place"), "Brackholt"),
                        Fill.expression("c", path(V, "ReportPosition", "at"), "concat($loan/day, 'T08:00:00Z')")),
                MessageStyle.PLAIN);
        assertEquals(kept.rows, List.of("HC-20481"), kept.failures.toString());
    }

    @Test
    public void rpcLiteralBringsAnXmlDocumentInAString() throws Exception {
        RunInMemory kept = run(
                new Call("climate", "ReadingsPort", "ReadRoom", "", Map.of("readings", "$reply/readings")),
                List.of(
                        Fill.wire("a", "/" + R + "ReadRoom/room", "$loan/room"),
                        Fill.wire("b", "/" + R + "ReadRoom/day", "$loan/day")),
                MessageStyle.PLAIN);
        assertTrue(
                kept.rows
                        .get(0)
                        .startsWith(
                                "<readings room=\"G1\" day=\"2026-12-11\"><reading at=\"06:00\"><celsius>18.0</celsius>"),
                kept.rows + " " + kept.failures);
    }

    @Test
    public void rpcEncodedArraysWithMultiReferencesAreReadBack() throws Exception {
        Map<String, String> columns = new java.util.LinkedHashMap<>();
        columns.put("number", "$reply/rooms/item/number");
        columns.put("highest", "$reply/rooms/item/limits/highest");
        RunInMemory kept = run(
                new Call("climate", "HousePort", "ListRooms", "$reply/rooms/item", columns),
                List.of(Fill.constant("a", "/" + H + "ListRooms/house", "Lünbrück")),
                MessageStyle.PLAIN);
        assertEquals(kept.rows, List.of("G1|21", "G2|22", "G3|20.5", "G4|20", "G5|23"), kept.failures.toString());
        String reply = new String(
                kept.lines.get(0).passages().get(0).exchange().reply(), java.nio.charset.StandardCharsets.UTF_8);
        assertTrue(reply.contains("href=\"#id0\"") && reply.contains(" id=\"id4\""), reply);
    }

    @Test
    public void rpcEncodedRequestsTellTheTypeOfEveryPart() throws Exception {
        String limits = "/" + H + "SetLimits/limits";
        RunInMemory kept = run(
                new Call("climate", "HousePort", "SetLimits", "", Map.of("ok", "$reply/accepted")),
                List.of(
                        Fill.wire("a", "/" + H + "SetLimits/room", "$loan/room"),
                        Fill.constant("b", limits + "/lowest", "17"),
                        Fill.constant("c", limits + "/highest", "21.5"),
                        Fill.constant("d", limits + "/humidity", "48")),
                MessageStyle.PLAIN);
        assertEquals(kept.rows, List.of("true"), kept.failures.toString());
        String sent = new String(
                kept.lines.get(0).passages().get(0).exchange().request(), java.nio.charset.StandardCharsets.UTF_8);
        assertTrue(sent.contains("<limits xsi:type=\"n4:Limits\"><lowest xsi:type=\"n3:decimal\">17</lowest>"), sent);
    }

    @DataProvider
    public static Object[][] plainPorts() {
        return new Object[][] {{"PlainGetPort"}, {"PlainPostPort"}};
    }

    @Test(dataProvider = "plainPorts")
    public void httpBindingsAreCalledLikeAnyOther(String port) throws Exception {
        RunInMemory kept = run(
                new Call("climate", port, "FindRooms", "$reply/room", Map.of("name", "$reply/room/@name")),
                List.of(Fill.constant("a", "/FindRooms/house", "Lünbrück & Co")),
                MessageStyle.PLAIN);
        assertEquals(
                kept.rows,
                List.of("Maps and Globes", "Clocks", "Glass", "Violas", "Ship Models"),
                kept.failures.toString());
        String sent = new String(
                kept.lines.get(0).passages().get(0).exchange().request(), java.nio.charset.StandardCharsets.UTF_8);
        assertTrue(sent.startsWith(port.contains("Get") ? "GET http" : "POST http"), sent);
        assertTrue(sent.contains("house=L%C3%BCnbr%C3%BCck+%26+Co"), sent);
    }

    private static List<Fill> export(String ticket, String value) {
        String document = path(C, "SubmitDocument", "document") + "~" + P + "ExportDeclaration";
        return List.of(
                Fill.constant("t", path(C, "ClearanceTicket", "ticket"), ticket),
                Fill.wire("a", path(C, "SubmitDocument", "reference"), "$loan/no"),
                Fill.constant("b", path(C, "SubmitDocument", "lender", "name"), "Halewick Crating"),
                Fill.constant("c", path(C, "SubmitDocument", "lender", "registrationNumber"), "RG-10400"),
                Fill.constant("d", path(C, "SubmitDocument", "courier#2", "name"), "Vanline North"),
                Fill.wire("e", document + path(P, "number"), "$loan/crate"),
                Fill.wire("f", document + path(P, "issued"), "$loan/day"),
                Fill.constant("g", document + path(P, "tariffCode"), "9705.10"),
                Fill.wire("h", document + path(P, "value"), value));
    }

    private static final Call SUBMIT =
            new Call("clearance", null, "SubmitDocument", "", Map.of("number", "$reply/clearanceNumber"));
    private static final Delivery.Condition REFUSED =
            new Delivery.Condition("w", "$reply/outcome = 'refused'", "the paper was refused");

    @Test
    public void aDerivedTypeAndSubstitutesAreWrittenAsPicked() throws Exception {
        RunInMemory kept = run(SUBMIT, export("HC-CLEAR", "$loan/small"), MessageStyle.PLAIN, REFUSED);
        assertEquals(kept.rows, List.of("CL-HC-20481"), kept.failures.toString());
        String sent = new String(
                kept.lines.get(0).passages().get(0).exchange().request(), java.nio.charset.StandardCharsets.UTF_8);
        assertTrue(sent.contains("document xsi:type=\"n3:ExportDeclaration\">"), sent);
        assertTrue(sent.contains("<n1:courier><n1:name>Vanline North"), sent);
    }

    @Test
    public void anErrorInsideHttp200CountsAsFailed() throws Exception {
        RunInMemory kept = run(SUBMIT, export("HC-CLEAR", "$loan/value"), MessageStyle.PLAIN, REFUSED);
        assertEquals(
                kept.failures,
                List.of("condition: the paper was refused: the reply counts as failed: the paper was refused"));
    }

    @Test
    public void aHeaderFaultNamesItsFields() throws Exception {
        RunInMemory kept = run(SUBMIT, export("HC-OLD", "$loan/small"), MessageStyle.PLAIN, REFUSED);
        assertEquals(
                kept.failures,
                List.of("fault: TicketRefused: Client: the ticket is not valid (ticket “HC-OLD”, reason “unknown"
                        + " ticket”)"));
    }

    @Test
    public void aDerivedTypeInAReplyIsReadByItsFields() throws Exception {
        RunInMemory kept = run(
                new Call("clearance", null, "GetDocument", "", Map.of("to", "$reply/document/to")),
                List.of(
                        Fill.constant("t", path(C, "ClearanceTicket", "ticket"), "HC-CLEAR"),
                        Fill.wire("a", path(C, "GetDocument", "clearanceNumber"), "$loan/no")),
                MessageStyle.PLAIN);
        assertEquals(kept.rows, List.of("2027-04-30"), kept.failures.toString());
    }
}
