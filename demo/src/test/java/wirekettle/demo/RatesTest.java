package wirekettle.demo;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNotNull;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.connect.HostRule;
import wirekettle.connect.HttpTransport;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.Surroundings;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.flow.run.Doors;
import wirekettle.core.flow.run.Failure;
import wirekettle.core.request.ByteOut;
import wirekettle.core.request.ConstantFills;
import wirekettle.core.request.FillPlan;
import wirekettle.core.schema.Picks;
import wirekettle.core.simulate.RuleTeacher;
import wirekettle.core.simulate.Simulator;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.ExampleEnvelope;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.HttpText;
import wirekettle.core.soap.MessageText;
import wirekettle.core.soap.Transport;
import wirekettle.core.value.Column;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.ScalarType;

/** A service of HTTP and JSON, described by OpenAPI, used as one of SOAP is. */
public class RatesTest {
    private DemoWorld world;
    private Contract contract;

    @BeforeClass
    public void start() throws Exception {
        world = new DemoWorld(0);
        contract = world.simulator("rates").contract();
    }

    @AfterClass
    public void stop() {
        world.close();
    }

    private Offered offered(String operation) {
        return contract.operation(null, null, operation).orElseThrow();
    }

    private byte[] message(String operation, List<Fill> fills) {
        FillPlan plan = FillPlan.compile(
                contract, offered(operation).operation().input(), null, fills, null, new Expressions());
        assertEquals(plan.designProblems(), List.of());
        ByteOut out = new ByteOut();
        assertEquals(plan.write(Scope.empty(), out), List.of());
        return out.bytes();
    }

    private Caller.Result call(String operation, byte[] message) {
        Simulator rates = world.simulator("rates");
        int before = rates.invalidRequests().size();
        Caller.Result result = Caller.of(
                        new HttpTransport(HostRule.ANY),
                        EndpointReach.plain(world.address("rates")),
                        contract,
                        offered(operation),
                        Transport.Limits.DEFAULT)
                .call(message);
        assertEquals(
                rates.invalidRequests().size(), before, rates.invalidRequests().toString());
        return result;
    }

    private static Fill constant(String path, String value) {
        return Fill.constant(path, path, value);
    }

    @Test
    public void theDescriptionIsReadIntoOperationsAndSheets() {
        assertEquals(contract.name(), "Rates");
        assertEquals(
                contract.operations().stream().map(o -> o.operation().key()).toList(),
                List.of("listZones", "findRate", "quoteLoan", "withdrawQuote"));
        assertEquals(offered("findRate").port().address(), "http://rates.invalid/v4");
        assertEquals(offered("findRate").port().protocol(), "HTTP");
        assertEquals(offered("findRate").operation().proposedEffect().name(), "READS");
        assertEquals(offered("quoteLoan").operation().proposedEffect().name(), "CHANGES");
        assertTrue(offered("findRate").port().advice().get(0).sentence().contains("bearer"));
        assertEquals(contract.findings(), List.of());
        String rows = contract
                .sheet(offered("findRate").operation().input().body().get(0))
                .children()
                .stream()
                .map(f -> f.name().local() + " " + f.min() + ".." + f.max())
                .collect(Collectors.joining(", "));
        assertEquals(rows, "from 1..1, to 1..1, kilograms 1..1, on 0..1, option 0..-1, X-Desk 0..1");
    }

    @Test
    public void fieldsTravelInPathQueryAndHeader() {
        Caller.Result result = call(
                "findRate",
                message(
                        "findRate",
                        List.of(
                                constant("/findRate/from", "NOR"),
                                constant("/findRate/to", "ISL"),
                                constant("/findRate/kilograms", "138.30"),
                                constant("/findRate/option", "night"),
                                constant("/findRate/option#2", "courier"),
                                constant("/findRate/X-Desk", "HC07"))));
        assertNull(result.failure());
        String sent = new String(result.sent(), StandardCharsets.UTF_8);
        assertTrue(sent.contains("/rates/rates/NOR/ISL?kilograms=138.30&option=night&option=courier"), sent);
        assertTrue(sent.contains("X-Desk: HC07"), sent);
        Node rate = result.reply().body().get(0);
        assertEquals(rate.textOf("total"), "567.03");
        assertEquals(rate.textOf("days_x0020_in_x0020_transit"), "5");
        String json = new String(result.received(), StandardCharsets.UTF_8);
        assertTrue(json.contains("\"total\":567.03") && json.contains("\"days in transit\":5"), json);
    }

    @Test
    public void anErrorAnswerIsAFaultWithItsFields() {
        Caller.Result result = call(
                "findRate",
                message(
                        "findRate",
                        List.of(
                                constant("/findRate/from", "ISL"),
                                constant("/findRate/to", "VEL"),
                                constant("/findRate/kilograms", "1"))));
        assertEquals(result.failure().failureClass(), FailureClass.FAULT);
        assertEquals(result.failure().causeLabel(), "HTTP 404");
        assertEquals(result.failure().fault().detail().get(0).textOf("detail"), "There is no rate from ISL to VEL");
    }

    @Test
    public void nestedArraysAreWrittenAndReadAsTheyAreDescribed() {
        String body = "/quoteLoan/body";
        Caller.Result result = call(
                "quoteLoan",
                message(
                        "quoteLoan",
                        List.of(
                                constant(body + "/loan", "HC-20481"),
                                constant(body + "/from", "NOR"),
                                constant(body + "/to", "VEL"),
                                constant(body + "/insured", "true"),
                                constant(body + "/crates/number", "HC-20481-1"),
                                constant(body + "/crates/kilograms", "0100.50"),
                                constant(body + "/crates/contains/number", "0007"),
                                constant(body + "/crates/contains/kilograms", "2"),
                                constant(body + "/crates#2/number", "HC-20481-2"),
                                constant(body + "/crates#2/kilograms", "20"))));
        assertNull(result.failure());
        String sent = new String(result.sent(), StandardCharsets.UTF_8);
        assertTrue(
                sent.contains("\"insured\":true,\"crates\":[{\"number\":\"HC-20481-1\",\"kilograms\":100.50,"
                        + "\"contains\":[{\"number\":\"0007\",\"kilograms\":2}]},{"),
                sent);
        Node quote = result.reply().body().get(0);
        assertEquals(quote.textOf("total"), "385.6");
        assertEquals(
                quote.children().stream()
                        .filter(c -> c.name().local().equals("lines"))
                        .count(),
                2);
    }

    @Test
    public void anArrayAtTheTopIsReadAsItems() {
        Node zones = call("listZones", message("listZones", List.of()))
                .reply()
                .body()
                .get(0);
        assertEquals(zones.children().size(), 3);
        assertEquals(zones.children().get(2).textOf("customs"), "true");
    }

    @Test
    public void anAnswerWithoutContentIsEnoughWhereNoneIsDescribed() {
        Caller.Result result =
                call("withdrawQuote", message("withdrawQuote", List.of(constant("/withdrawQuote/id", "Q/7 ä"))));
        assertNull(result.failure());
        assertTrue(new String(result.sent(), StandardCharsets.UTF_8).contains("DELETE"), "by its method");
    }

    @DataProvider
    public Object[][] operations() {
        return contract.operations().stream()
                .map(o -> new Object[] {o.operation().key()})
                .toArray(Object[][]::new);
    }

    @Test(dataProvider = "operations")
    public void anExampleIsValidAndItsTextIsReadBackUnchanged(String operation) throws Exception {
        Offered offered = offered(operation);
        ExampleEnvelope example =
                ExampleEnvelope.of(contract, offered.operation().input(), true, Picks.NONE);
        assertEquals(example.wrong(contract), List.of());
        String text = MessageText.of(
                contract, offered, offered.operation().input(), example.body().get(0));
        Node back = HttpText.parse(text).message(contract, offered);
        String again = MessageText.of(contract, offered, offered.operation().input(), back);
        assertEquals(again, text);
        List<Fill> fills =
                ConstantFills.of(contract, offered.operation().input(), back).fills();
        assertEquals(
                HttpText.of(
                                contract,
                                offered,
                                MessageText.node(new String(message(operation, fills), StandardCharsets.UTF_8)),
                                true)
                        .text(),
                text);
    }

    @Test
    public void aTextIsSentAsItWasTyped() {
        Caller.Result result = Caller.of(
                        new HttpTransport(HostRule.ANY),
                        EndpointReach.plain(world.address("rates")),
                        contract,
                        offered("quoteLoan"),
                        Transport.Limits.DEFAULT)
                .call("POST /quotes\nContent-Type: application/json\n\n{\"loan\": oops"
                        .getBytes(StandardCharsets.UTF_8));
        assertTrue(new String(result.sent(), StandardCharsets.UTF_8).endsWith("{\"loan\": oops"));
        assertEquals(result.failure().causeLabel(), "HTTP 400");
    }

    @Test
    public void theSimulatorLearnsFromAnExchange() throws Exception {
        String request = "GET /rates/NOR/ISL?kilograms=7";
        Offered offered = offered("findRate");
        Simulator taught = new Simulator(
                contract,
                List.of(
                        RuleTeacher.of(
                                contract,
                                offered,
                                request,
                                "{\"from\":\"NOR\",\"to\":\"ISL\",\"perKilogram\":9.5,\"currency\":\"SEK\"}",
                                200),
                        RuleTeacher.of(
                                contract, offered, "GET /rates/NOR/VEL?kilograms=7", "{\"title\":\"closed\"}", 404)),
                null);
        Simulator.Answer answer = taught.answer(HttpText.parse(request));
        assertEquals(
                new String(answer.body(), StandardCharsets.UTF_8),
                "{\"from\":\"NOR\",\"to\":\"ISL\",\"perKilogram\":9.5,\"currency\":\"SEK\"}");
        assertEquals(answer.told().rule(), Integer.valueOf(0));
        Simulator.Answer refused = taught.answer(HttpText.parse("GET /rates/NOR/VEL?kilograms=7"));
        assertEquals(refused.status(), 404);
        assertEquals(new String(refused.body(), StandardCharsets.UTF_8), "{\"title\":\"closed\"}");
        Simulator.Answer other = taught.answer(HttpText.parse("GET /rates/NOR/VEL?kilograms=8"));
        assertEquals(other.status(), 200);
        assertNull(other.told().rule(), "an example answers what was not taught");
        assertNotNull(other.body());
    }

    @Test
    public void aFlowCallsItForEveryRecordAndMapsTheReply() throws Exception {
        FlowFile file = FlowFile.of(
                "Rates of loans",
                new ReadStage("read", "loans", "loan", null),
                new CallStage(
                        "call",
                        "Rates",
                        null,
                        "Http",
                        "findRate",
                        "Rates",
                        "rate",
                        List.of(
                                Fill.constant("a", "/findRate/from", "NOR"),
                                Fill.wire("b", "/findRate/to", "$loan/zone"),
                                Fill.wire("c", "/findRate/kilograms", "$loan/kg")),
                        new Delivery(Delivery.Effect.READS, 1, true, Delivery.Keep.ALL, null, null, null, null, null)),
                new WriteStage(
                        "write",
                        "out",
                        null,
                        null,
                        "",
                        List.of(new Column("days", "days", ScalarType.INTEGER, null, true)),
                        List.of(Fill.wire("w", "days", "$rate/days_x0020_in_x0020_transit"))));
        CompiledFlow flow = CompiledFlow.of(file, Surroundings.of(Map.of("Rates", contract), null, new Expressions()));
        assertEquals(flow.problems(), List.of());
        EndpointReach reach = EndpointReach.plain(world.address("rates"));
        Caller caller = Caller.of(
                new HttpTransport(HostRule.ANY),
                reach,
                contract,
                flow.all(CompiledCall.class).get(0).offered(),
                Transport.Limits.DEFAULT);
        Node good =
                Node.build(Name.of("loan")).add("zone", "ISL").add("kg", "12.5").done();
        Node unknown =
                Node.build(Name.of("loan")).add("zone", "XXX").add("kg", "1").done();
        Node wrong =
                Node.build(Name.of("loan")).add("zone", "ISL").add("kg", "much").done();
        RunInMemory run = RunInMemory.of(flow, Doors.of(caller, reach, Clock.systemUTC()), good, unknown, wrong);
        assertEquals(run.rows, List.of("5"));
        String sent = new String(run.lines.get(0).passages().get(0).exchange().request(), StandardCharsets.UTF_8);
        assertTrue(sent.startsWith("GET " + world.address("rates") + "/rates/NOR/ISL?kilograms=12.5"), sent);
        Failure second = run.lines.get(1).failure();
        assertEquals(second.failureClass(), FailureClass.FAULT);
        assertEquals(second.cause(), "HTTP 404");
        assertTrue(second.message().contains("There is no rate from NOR to XXX"), second.message());
        assertEquals(run.lines.get(2).passages(), List.of(), "what is not valid is not sent");
        assertEquals(run.lines.get(2).failure().blame(), "c");
    }

    @Test
    public void yamlIsReadLikeJson() throws Exception {
        String yaml = "openapi: 3.0.3\ninfo: {title: Zones, version: '1'}\npaths:\n  /zones/{code}:\n    get:\n"
                + "      parameters:\n      - {name: code, in: path, required: true, schema: {type: string}}\n"
                + "      responses:\n        '200':\n          description: ok\n          content:\n"
                + "            application/json:\n              schema: {$ref: '#/components/schemas/Zone'}\n"
                + "components:\n  schemas:\n    Zone:\n      type: object\n      properties:\n"
                + "        name: {type: string, nullable: true}\n        parts: {type: array, items: {$ref: '#/components/schemas/Zone'}}\n";
        Contract read = ContractReader.read(
                new GivenDocuments().add("zones.yaml", yaml.getBytes(StandardCharsets.UTF_8)), true);
        assertEquals(read.operations().get(0).operation().key(), "getZonesCode");
        assertTrue(
                read.sheet(read.operations().get(0).operation().output().body().get(0))
                                .children()
                                .get(1)
                                .recursive()
                        || read.findings().isEmpty());
    }
}
