package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Script;
import wirekettle.core.fill.EmbeddedDocument;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.Surroundings;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.MapStage;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.schema.LearnedShape;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.Transport;
import wirekettle.core.value.Column;
import wirekettle.core.value.DocumentForm;
import wirekettle.core.value.Node;
import wirekettle.core.value.ScalarType;

/** Flows with scripts, several outputs, documents inside replies, grouped rows and a lane for what fails. */
public class FlowStagesTest {
    private static final String V = "{urn:halewick:vanline:2}";
    private static final String REPLY = "/" + V + "TrackTransportResponse";
    private final Contract vanline = World.vanline();

    private static CallStage call(List<EmbeddedDocument> documents, Fill... fills) {
        return new CallStage(
                        "call",
                        "Vanline Desk",
                        null,
                        null,
                        "TrackTransport",
                        "Vanline Desk",
                        "reply",
                        List.of(fills),
                        new Delivery(Delivery.Effect.READS, 1, null, Delivery.Keep.NONE, null, null, null, null, null))
                .documented(documents);
    }

    private static Fill reference(String wire) {
        return Fill.wire("q1", "/" + V + "TrackTransport/" + V + "reference", wire);
    }

    private static WriteStage write(String id, String rows, Fill... fills) {
        List<Column> columns = Arrays.stream(fills)
                .map(f -> new Column(f.target(), f.target(), ScalarType.STRING, null, false))
                .toList();
        return new WriteStage(id, id, WriteStage.Mode.REPLACE, null, rows, columns, List.of(fills));
    }

    private static FlowFile file(Stage... stages) {
        return FlowFile.of("Track", stages);
    }

    private static String reply(String inside) {
        return "<soap:Envelope xmlns:soap='http://schemas.xmlsoap.org/soap/envelope/'><soap:Body>" + inside
                + "</soap:Body></soap:Envelope>";
    }

    private static String tracked(String inside) {
        return reply("<TrackTransportResponse xmlns='urn:halewick:vanline:2'>" + inside + "</TrackTransportResponse>");
    }

    private CompiledFlow compiled(FlowFile file) {
        return CompiledFlow.of(file, Surroundings.of(Map.of("Vanline Desk", vanline), null, new Expressions()));
    }

    private final List<String> sent = new ArrayList<>();

    private Ran run(FlowFile file, Function<String, String> service, List<Node> records) throws Exception {
        CompiledFlow flow = compiled(file);
        assertEquals(flow.problems(), List.of());
        sent.clear();
        Transport transport = request -> {
            String text = new String(request.body(), StandardCharsets.UTF_8);
            sent.add(text);
            String answer = service.apply(text.replaceAll("(?s).*?reference>([^<]*)<.*", "$1"));
            int status = answer.contains("Fault>") ? 500 : 200;
            return new Transport.Answer(status, Map.of(), answer.getBytes(StandardCharsets.UTF_8), 1);
        };
        return Ran.of(flow, doors(flow, transport, EndpointReach.plain("http://vanline.invalid")), records);
    }

    private static Doors doors(CompiledFlow flow, Transport transport, EndpointReach reach) {
        CompiledCall call = flow.all(CompiledCall.class).get(0);
        Caller caller = Caller.of(transport, reach, call.contract(), call.offered(), Transport.Limits.DEFAULT);
        return Doors.of(caller, reach, Clock.fixed(Instant.parse("2026-11-23T09:14:02Z"), ZoneOffset.UTC));
    }

    private static Node record(String... pairs) {
        return World.record("record", pairs);
    }

    private static final Stage READ = new ReadStage("read", "transports", "transport", null);

    @Test
    public void xqueryAndXsltMakeMessagesBeforeAndAfterTheCall() throws Exception {
        Stage query = new MapStage(
                "first",
                Script.Language.XQUERY,
                "declare namespace h = 'urn:x';\n<ask><ref>{upper-case($transport/ref)}</ref></ask>",
                null,
                "ask");
        Stage sheet = new MapStage(
                "second",
                Script.Language.XSLT,
                """
                <xsl:stylesheet version="3.0" xmlns:xsl="http://www.w3.org/1999/XSL/Transform"
                    xpath-default-namespace="urn:halewick:vanline:2">
                  <xsl:param name="transport"/>
                  <xsl:template match="TrackTransportResponse">
                    <told><by><xsl:value-of select="$transport/*:ref"/></by><n><xsl:value-of select="count(*)"/></n></told>
                  </xsl:template>
                </xsl:stylesheet>
                """,
                "reply",
                "told");
        Ran ran = run(
                file(
                        READ,
                        query,
                        call(null, reference("$ask/ref")),
                        sheet,
                        write("out", "", Fill.wire("a", "by", "$told/by"), Fill.wire("b", "n", "$told/n"))),
                ref -> tracked("<reference>" + ref + "</reference>"),
                List.of(record("ref", "vd-1"), record("ref", "vd-2")));
        assertEquals(ran.rows.get("out"), List.of("vd-1|1", "vd-2|1"));
        assertTrue(sent.stream().anyMatch(each -> each.contains("reference>VD-1<")), sent.toString());
    }

    @Test
    public void aScriptThatCannotWorkOrReachesOutsideIsAProblemWithItsLine() {
        Map<String, String> expected = Map.of(
                "<a>{doc('http://x.invalid/')}</a>", "doc() is not allowed",
                "<a>\n{$nobody/x}</a>", "line 2",
                "<a>{1 +}</a>", "line 1");
        expected.forEach((text, said) -> {
            CompiledFlow flow = compiled(file(
                    READ,
                    new MapStage("m", Script.Language.XQUERY, text, null, "made"),
                    call(null, reference("$made"))));
            assertTrue(
                    flow.problems().stream()
                            .anyMatch(p -> "m".equals(p.stage()) && p.message().contains(said)),
                    said + ": " + flow.problems());
        });
        String include = "<xsl:stylesheet version='3.0' xmlns:xsl='http://www.w3.org/1999/XSL/Transform'>"
                + "<xsl:include href='/etc/passwd'/></xsl:stylesheet>";
        CompiledFlow flow = compiled(file(READ, new MapStage("m", Script.Language.XSLT, include, null, "made")));
        assertTrue(
                flow.problems().toString().contains("xsl:include is not allowed"),
                flow.problems().toString());
    }

    @Test
    public void aScriptThatFailsForOneRecordRejectsThatRecord() throws Exception {
        Stage query = new MapStage(
                "first", Script.Language.XQUERY, "<ask><kg>{xs:decimal($transport/kg) + 1}</kg></ask>", null, "ask");
        Ran ran = run(
                file(
                        READ,
                        query,
                        call(null, reference("$transport/ref")),
                        write("out", "", Fill.wire("a", "kg", "$ask/kg"))),
                ref -> tracked("<reference>" + ref + "</reference>"),
                List.of(record("ref", "A", "kg", "2"), record("ref", "B", "kg", "heavy")));
        assertEquals(ran.rows.get("out"), List.of("3"));
        assertEquals(ran.lines.get(1).failure().failureClass(), FailureClass.MAPPING);
        assertEquals(ran.lines.get(1).failure().cause(), "$ask could not be made");
        assertEquals(ran.lines.get(1).stage(), "first");
    }

    private static String events() {
        return "<reference>VD</reference><event><at>2026-12-04T10:00:00Z</at><kind>loaded</kind></event>"
                + "<event><at>2026-12-05T10:00:00Z</at><kind>delivered</kind></event>";
    }

    @Test
    public void oneReplyGivesRelatedTablesWithAKeyMadeForEach() throws Exception {
        Ran ran = run(
                file(
                        READ,
                        call(null, reference("$transport/ref")),
                        write("header", "", Fill.key("k", "id", "$reply"), Fill.wire("r", "ref", "$transport/ref")),
                        write(
                                "lines",
                                "$reply/event",
                                Fill.key("k", "id", "$reply/event"),
                                Fill.key("h", "header", "$reply"),
                                Fill.wire("w", "kind", "$reply/event/kind"))),
                ref -> tracked(events()),
                List.of(record("ref", "A"), record("ref", "B")));
        assertEquals(ran.rows.get("header"), List.of("9-1|A", "9-2|B"));
        assertEquals(
                ran.rows.get("lines"),
                List.of("9-1-1|9-1|loaded", "9-1-2|9-1|delivered", "9-2-1|9-2|loaded", "9-2-2|9-2|delivered"));
        assertEquals(ran.lines.get(0).rows(), 3);
    }

    @Test
    public void aReplyBecomesANestedDocument() throws Exception {
        List<Column> columns = List.of(
                new Column("loan/ref", "ref", ScalarType.STRING, null, true),
                new Column("events/kind", "kind", ScalarType.STRING, null, false),
                new Column("events/no", "no", ScalarType.INTEGER, null, false));
        for (DocumentForm form : DocumentForm.values()) {
            WriteStage nested = new WriteStage(
                    "out",
                    "tracks",
                    WriteStage.Mode.REPLACE,
                    null,
                    "",
                    columns,
                    List.of(
                            Fill.wire("a", "loan/ref", "$transport/ref"),
                            Fill.wire("b", "events/kind", "$event/kind"),
                            Fill.constant("c", "events/no", "7")),
                    form,
                    List.of(new DocumentPlan.Group("events", "$reply/event", "event")),
                    null,
                    null);
            Ran ran = run(
                    file(READ, call(null, reference("$transport/ref")), nested),
                    ref -> tracked(events()),
                    List.of(record("ref", "A \"&\"")));
            assertEquals(
                    ran.rows.get("out"),
                    List.of(
                            form == DocumentForm.JSON
                                    ? "{\"loan\":{\"ref\":\"A \\\"&\\\"\"},\"events\":[{\"kind\":\"loaded\",\"no\":7},"
                                            + "{\"kind\":\"delivered\",\"no\":7}]}"
                                    : "<record><loan><ref>A \"&amp;\"</ref></loan><events><kind>loaded</kind><no>7</no>"
                                            + "</events><events><kind>delivered</kind><no>7</no></events></record>"));
        }
    }

    @Test
    public void xmlAndJsonInsideAStringAreOpenedAndWhatIsNeitherRejectsTheRecord() throws Exception {
        LearnedShape shape = new LearnedShape();
        shape.learn(World.tree("<seen><crate no='1'><kg>2.5</kg></crate></seen>"));
        shape.learn(World.tree("<seen><crate no='1'><kg>2.5</kg></crate><crate no='2'><kg>3</kg></crate></seen>"));
        String field = REPLY + "/" + V + "reference";
        EmbeddedDocument xml =
                new EmbeddedDocument("reply", field, DocumentForm.XML, null, shape.schemas(), shape.root(), true);
        Stage out = write(
                "out",
                "$reply/reference/seen/crate",
                Fill.wire("a", "no", "$reply/reference/seen/crate/@no"),
                Fill.wire("b", "kg", "$reply/reference/seen/crate/kg"));
        Map<String, String> answers = Map.of(
                "A", "<![CDATA[<?xml version='1.0' encoding='utf-16'?><seen><crate no='7'><kg>1</kg></crate></seen>]]>",
                "B", "sorry, nothing today",
                "C", "&lt;lost/&gt;");
        Ran ran = run(
                file(READ, call(List.of(xml), reference("$transport/ref")), out),
                ref -> tracked("<reference>" + answers.get(ref) + "</reference>"),
                List.of(record("ref", "A"), record("ref", "B"), record("ref", "C")));
        assertEquals(ran.rows.get("out"), List.of("7|1"));
        assertEquals(ran.lines.get(1).failure().failureClass(), FailureClass.MAPPING);
        assertTrue(
                ran.lines
                        .get(1)
                        .failure()
                        .message()
                        .startsWith("reference: “sorry, nothing today” is not the XML it was learned to be"),
                ran.lines.get(1).failure().message());
        assertEquals(ran.lines.get(1).failure().blame(), field);
        assertTrue(ran.lines.get(2).failure().message().contains("it begins with lost, not seen"), "another document");
        LearnedShape json = new LearnedShape();
        json.learn(World.tree("<seen><kg>1</kg></seen>"));
        EmbeddedDocument other = new EmbeddedDocument(
                "reply", field, DocumentForm.JSON, List.of("base64"), json.schemas(), json.root(), true);
        Ran second = run(
                file(
                        READ,
                        call(List.of(other), reference("$transport/ref")),
                        write("out", "", Fill.wire("b", "kg", "$reply/reference/seen/kg"))),
                ref -> tracked("<reference>eyJrZyI6IDQuNX0=</reference>"),
                List.of(record("ref", "A")));
        assertEquals(second.rows.get("out"), List.of("4.5"));
    }

    @Test
    public void whatFailsGoesToItsLaneWithFaultFailureAndRecord() throws Exception {
        WriteStage lane = write(
                "rejects",
                "",
                Fill.wire("r", "ref", "$transport/ref"),
                Fill.wire("c", "class", "$failure/class"),
                Fill.wire("f", "field", "$failure/field"),
                Fill.wire("o", "code", "$fault/code"),
                Fill.expression("d", "detail", "string-join($fault/detail/*/*, ' ')"));
        Function<String, String> service = ref -> {
            if (ref.equals("F")) {
                return reply("<soap:Fault><faultcode>soap:Client</faultcode><faultstring>no</faultstring><detail>"
                        + "<h:unknownReference xmlns:h='urn:halewick:vanline:2'><h:reference>F</h:reference>"
                        + "</h:unknownReference></detail></soap:Fault>");
            }
            return tracked("<reference>" + ref + "</reference>");
        };
        Ran ran = run(
                new FlowFile(
                        FlowFile.FORMAT,
                        "Track",
                        List.of(
                                READ,
                                call(null, reference("$transport/ref")),
                                write("out", "", Fill.wire("a", "ref", "$reply/reference"))),
                        Lane.of(Lane.Rule.run("r", List.of(), Lane.Then.REJECT, lane))),
                service,
                List.of(record("ref", "A"), record("ref", "F"), record("ref", "")));
        assertEquals(ran.rows.get("out"), List.of("A"));
        assertEquals(ran.rows.get("rejects"), List.of("F|fault||Client|F", "|validation|reference||"));
        assertEquals(ran.lines.get(1).end(), End.REJECTED);
    }

    @Test
    public void flatRowsBecomeOneRecordWithLinesAndScatteredOnesAreTold() throws Exception {
        Stage read = new ReadStage("read", "transports", "transport", "$transport/ref", List.of("ref"));
        Ran ran = run(
                file(
                        read,
                        call(null, reference("$transport/ref")),
                        write(
                                "out",
                                "$transport/line",
                                Fill.wire("a", "ref", "$transport/ref"),
                                Fill.wire("b", "crate", "$transport/line/crate"))),
                ref -> tracked("<reference>" + ref + "</reference>"),
                List.of(
                        record("ref", "A", "crate", "1"),
                        record("ref", "A", "crate", "2"),
                        record("ref", "B", "crate", "3"),
                        record("ref", "A", "crate", "4")));
        assertEquals(sent.size(), 2);
        assertEquals(ran.rows.get("out"), List.of("A|1", "A|2", "B|3"));
        assertEquals(
                ran.lines.get(2).failure().message(),
                "the rows of “A” are not together: some stand at row 1, more at row 4; sort the dataset by ref");
    }

    @Test
    public void aReadStandsAtTheBeginningAndNowhereElse() {
        CallStage call = call(null, reference("$transport/ref"));
        Stage out = write("out", "", Fill.wire("a", "ref", "$reply/reference"));
        for (FlowFile wrong : List.of(file(call, READ, out), file(READ, call, out, READ))) {
            CompiledFlow flow = compiled(wrong);
            assertTrue(
                    flow.problems().stream().anyMatch(p -> p.message().startsWith("a Read stands at the beginning")),
                    flow.problems().toString());
        }
    }

    @Test
    public void aSecretAFillSendsIsHiddenInWhatIsKept() throws Exception {
        CallStage call = new CallStage(
                "call",
                "Vanline Desk",
                null,
                null,
                "TrackTransport",
                "Vanline Desk",
                "reply",
                List.of(Fill.secret("s", "/" + V + "TrackTransport/" + V + "reference", "desk key")),
                new Delivery(Delivery.Effect.READS, 1, null, Delivery.Keep.ALL, null, null, null, null, null));
        Stage out = write("out", "", Fill.wire("a", "ref", "$transport/ref"));
        CompiledFlow flow = compiled(file(READ, call, out));
        assertEquals(flow.secrets(), java.util.Set.of("desk key"));
        List<String> sent = new ArrayList<>();
        Transport transport = request -> {
            sent.add(new String(request.body(), StandardCharsets.UTF_8));
            String echo = tracked("<reference>open &amp; shut</reference>");
            return new Transport.Answer(200, Map.of(), echo.getBytes(StandardCharsets.UTF_8), 1);
        };
        EndpointReach reach = EndpointReach.of(
                "http://vanline.invalid", EndpointSettings.PLAIN, name -> "open & shut", Clock.systemUTC());
        LedgerLine line = Ran.of(flow, doors(flow, transport, reach), List.of(record("ref", "A")))
                .line(1);
        assertTrue(sent.get(0).contains("open &amp; shut"), sent.get(0));
        Passage.Exchange exchange = line.passages().get(0).exchange();
        String kept = new String(exchange.request(), StandardCharsets.UTF_8)
                + new String(exchange.reply(), StandardCharsets.UTF_8);
        assertTrue(kept.contains("•••••") && !kept.contains("shut"), kept);
    }
}
