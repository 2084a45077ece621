package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import org.testng.annotations.BeforeMethod;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.expression.Expressions;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.Surroundings;
import wirekettle.core.flow.file.BranchStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.soap.Transport;
import wirekettle.core.value.Column;
import wirekettle.core.value.Node;
import wirekettle.core.value.ScalarType;

/** Outlines of a service of transports that is answered here, and their runs in memory. */
abstract class OutlineFixture {
    static final String V = "{urn:halewick:vanline:2}";
    static final Stage READ = new ReadStage("read", "transports", "t", "$t/key");
    static final List<FailureClass> ANY = List.of();

    final Contract vanline = World.vanline();
    final List<String> sent = Collections.synchronizedList(new ArrayList<>());
    volatile Transport service;
    volatile Doors.LookUps table;

    @BeforeMethod
    public void aServiceThatAnswersEverything() {
        sent.clear();
        service = request -> answer(reference(request), "fine");
        table = (stage, key) -> key.equals("two")
                ? List.of(World.record("row", "name", "first"), World.record("row", "name", "second"))
                : key.equals("none") ? List.of() : List.of(World.record("row", "name", "row of " + key));
    }

    static String reference(Transport.Request request) {
        return new String(request.body(), StandardCharsets.UTF_8)
                .replaceAll("(?s).*?[:<](?:reference|label)>([^<]*)<.*", "$1");
    }

    static Transport.Answer answer(String reference, String status) {
        String body = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>"
                + "<TrackTransportResponse xmlns='urn:halewick:vanline:2'><reference>" + reference
                + "</reference><status>" + status + "</status></TrackTransportResponse></s:Body></s:Envelope>";
        return new Transport.Answer(200, Map.of(), body.getBytes(StandardCharsets.UTF_8), 1);
    }

    static Transport.Answer fault(String reason) {
        String body = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body><s:Fault>"
                + "<faultcode>s:Server</faultcode><faultstring>" + reason + "</faultstring></s:Fault></s:Body>"
                + "</s:Envelope>";
        return new Transport.Answer(500, Map.of(), body.getBytes(StandardCharsets.UTF_8), 1);
    }

    static CallStage call(String id, Delivery.Effect effect, String expression) {
        return new CallStage(
                id,
                "Vanline Desk",
                null,
                null,
                "TrackTransport",
                "Vanline Desk",
                id,
                List.of(Fill.expression("f" + id, "/" + V + "TrackTransport/" + V + "reference", expression)),
                Delivery.of(effect, 4));
    }

    static CallStage reads(String id, String expression) {
        return call(id, Delivery.Effect.READS, expression);
    }

    static CallStage changes(String id, String expression) {
        return call(id, Delivery.Effect.CHANGES, expression);
    }

    static List<Column> columns(Fill... fills) {
        return Arrays.stream(fills)
                .map(f -> new Column(f.target(), f.target(), ScalarType.STRING, null, false))
                .toList();
    }

    static WriteStage write(String id, String... expressions) {
        Fill[] fills = new Fill[expressions.length];
        for (int i = 0; i < fills.length; i++) {
            fills[i] = Fill.expression(id + i, "c" + i, expressions[i]);
        }
        return new WriteStage(id, id, null, null, null, columns(fills), List.of(fills));
    }

    static BranchStage.Way way(String id, String when, Stage... stages) {
        return new BranchStage.Way(id, id, when, List.of(stages));
    }

    static FlowFile file(Stage... stages) {
        List<Stage> all = new ArrayList<>(List.of(READ));
        all.addAll(List.of(stages));
        return FlowFile.of("Outline", all.toArray(Stage[]::new));
    }

    CompiledFlow compiled(FlowFile file) {
        return CompiledFlow.of(file, Surroundings.of(Map.of("Vanline Desk", vanline), null, new Expressions()));
    }

    CompiledFlow sound(FlowFile file) {
        CompiledFlow flow = compiled(file);
        assertEquals(flow.problems(), List.of());
        assertTrue(flow.runnable());
        return flow;
    }

    Doors doors(CompiledFlow flow) {
        return doors(flow, EndpointGate.open());
    }

    Doors doors(CompiledFlow flow, EndpointGate gate) {
        return doors(flow, gate, EndpointReach.plain("http://vanline.invalid"));
    }

    Doors doors(CompiledFlow flow, EndpointGate gate, EndpointReach reach) {
        Transport counted = request -> {
            sent.add(reference(request));
            return service.send(request);
        };
        Doors.Lines lines = call -> new Doors.Line(
                Caller.of(counted, reach, call.contract(), call.offered(), Transport.Limits.DEFAULT), reach, gate);
        return new Doors(lines, table, reach.folders(), Clock.systemUTC(), MemoryBudget.NONE, thrown -> {});
    }

    Ran run(FlowFile file, String... keys) throws IOException {
        CompiledFlow flow = sound(file);
        return Ran.of(flow, doors(flow), records(keys));
    }

    static List<Node> records(String... keys) {
        List<Node> records = new ArrayList<>();
        for (int i = 0; i < keys.length; i++) {
            records.add(World.record("record", "key", keys[i], "n", Integer.toString(i + 1)));
        }
        return records;
    }

    static void addsUp(Ran ran) {
        assertEquals(ran.totals.read(), ran.totals.ended() + ran.totals.onTheirWay());
        assertEquals(ran.totals.ended(), ran.lines.size());
        assertEquals(
                ran.lines.stream().map(LedgerLine::ordinal).distinct().count(), ran.lines.size(), "each ends once");
    }
}
