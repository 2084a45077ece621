package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;

/** Records an operation gives page after page, with a watermark, numbers of a series, and values handed on. */
public class OperationSourceTest extends SeededApi {
    private static final String V = "{urn:halewick:vanline:2}";
    private static final int PAGE = 4;

    private final List<String> asked = Collections.synchronizedList(new ArrayList<>());
    private volatile int events = 10;
    private volatile String broken = "none";
    private HttpServer tracker;

    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx256m", Map.of());
        tracker = HttpServer.create(new InetSocketAddress(InetAddress.getByName("127.0.0.1"), 0), 16);
        tracker.createContext("/", exchange -> {
            try (exchange) {
                String request = new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
                String from = request.replaceAll("(?s).*?reference>([^<]*)<.*", "$1");
                asked.add(from);
                boolean fails = from.equals(broken);
                byte[] body = page(from).getBytes(StandardCharsets.UTF_8);
                exchange.getResponseHeaders().set("Content-Type", "text/xml");
                exchange.sendResponseHeaders(fails ? 503 : 200, fails ? -1 : body.length);
                if (!fails) {
                    exchange.getResponseBody().write(body);
                }
            }
        });
        tracker.start();
        String host = "127.0.0.1:" + tracker.getAddress().getPort();
        client.post("/api/allowed-hosts", Map.of("host", host));
        client.put("/api/endpoints", Map.of("name", "Tracker", "addresses", Map.of("Test", "http://" + host + "/")));
        client.post("/api/datasets", Map.of("name", "events seen", "kind", "csv"));
    }

    @AfterClass(alwaysRun = true)
    public void close() {
        tracker.stop(0);
    }

    /** A page of events from a place on: two vans take turns, and the status is the next place while there is one. */
    private String page(String place) {
        int from = Integer.parseInt(place);
        StringBuilder rows = new StringBuilder();
        for (int i = from; i < Math.min(events, from + PAGE); i++) {
            rows.append("<event><at>2026-11-")
                    .append(10 + i)
                    .append("T06:00:00Z</at><place>")
                    .append(i);
            rows.append("</place><kind>van ").append(i % 2).append("</kind></event>");
        }
        String next = from + PAGE < events ? Integer.toString(from + PAGE) : "";
        return KilledRuns.envelope("<TrackTransportResponse xmlns='urn:halewick:vanline:2'><reference>" + from
                + "</reference><status>" + next + "</status>" + rows + "</TrackTransportResponse>");
    }

    private ObjectNode file(String name, String series) {
        ObjectNode file = JSON.createObjectNode().put("format", 2).put("name", name);
        ObjectNode read = file.putArray("stages").addObject();
        read.put("verb", "Read").put("id", "read").put("as", "event").put("key", "$event/kind");
        read.put("inKeyOrder", true);
        ObjectNode carried = read.putObject("carry").put("as", "previous");
        carried.putArray("values").addObject().put("name", "place").put("of", "$event/place");
        ObjectNode from = read.putObject("from").put("rows", "$reply/event").put("watermark", "$event/place + 1");
        from.put("since", "0");
        ObjectNode call =
                from.putObject("call").put("verb", "Call").put("id", "source").put("as", "reply");
        call.put("contract", "Vanline Desk").put("service", "VanlineDesk").put("port", "VanlinePort");
        call.put("operation", "TrackTransport").put("endpoint", "Tracker");
        call.putArray("fills")
                .addObject()
                .put("id", "f1")
                .put("target", "/" + V + "TrackTransport/" + V + "reference")
                .put("expression", "($page/token, $watermark)[1]");
        call.putObject("pages").put("by", "token").put("next", "$reply/status");
        call.putObject("delivery").put("effect", "reads");
        ObjectNode map = file.withArray("stages").addObject();
        map.put("verb", "Map").put("id", "paper").put("as", "paper");
        map.putArray("columns").addObject().put("name", "no").put("type", "string");
        map.putArray("fills").addObject().put("id", "m1").put("target", "no").put("number", series);
        ObjectNode write = file.withArray("stages").addObject();
        write.put("verb", "Write")
                .put("id", "write")
                .put("dataset", "events seen")
                .put("mode", "replace");
        for (String[] each :
                new String[][] {{"no", "$paper/no"}, {"place", "$event/place"}, {"before", "$previous/place"}}) {
            write.withArray("columns").addObject().put("name", each[0]).put("type", "string");
            write.withArray("fills")
                    .addObject()
                    .put("id", "w" + each[0])
                    .put("target", each[0])
                    .put("wire", each[1]);
        }
        return file;
    }

    private long flow(String name, String series) throws IOException {
        client.post(
                "/api/series",
                Map.of("name", series, "gapless", true, "start", 1, "pattern", "E-{number:3}", "yearly", false));
        JsonNode made = client.post("/api/flows", Map.of("name", name, "file", file(name, series)));
        assertEquals(made.get("problems").size(), 0, made.get("problems").toString());
        return made.get("id").asLong();
    }

    private JsonNode run(long flow) throws Exception {
        JsonNode begun = client.post("/api/flows/" + flow + "/runs", Map.of("environment", "Test"));
        return ended("/api/runs/" + begun.get("id").asLong(), "run");
    }

    @Test
    public void theNextRunReadsOnFromWhereTheLastOneWas() throws Exception {
        events = 10;
        long flow = flow("Events in pages", "event numbers");
        asked.clear();
        JsonNode first = run(flow);
        assertEquals(first.get("state").asText() + first.get("done"), "done10", first.toString());
        assertEquals(asked, List.of("0", "4", "8"));
        assertEquals(numbers(), List.of("E-001", "E-010", "10"));
        for (List<String> row : rows("events seen")) {
            int place = Integer.parseInt(row.get(1));
            assertEquals(row.get(2), place < 2 ? "" : Integer.toString(place - 2), "what the van handed on: " + row);
        }
        assertEquals(
                client.get("/api/flows/" + flow + "/watermarks")
                        .get(0)
                        .get("value")
                        .asText(),
                "10");
        events = 13;
        asked.clear();
        JsonNode second = run(flow);
        assertEquals(second.get("done").asInt(), 3);
        assertEquals(asked, List.of("10"));
        assertEquals(numbers(), List.of("E-011", "E-013", "3"));
        client.put("/api/flows/" + flow + "/watermarks", Map.of("environment", "Test"));
        assertEquals(client.get("/api/flows/" + flow + "/watermarks").size(), 0);
    }

    /** The sample's records are the rows of the reply kept of a call. */
    @Test
    public void aCallForTheSampleGivesTheSampleRecords() throws Exception {
        events = 10;
        long flow = flow("Events looked at", "numbers looked at");
        ObjectNode file = file("Events looked at", "numbers looked at");
        JsonNode before = preview(flow, file, "paper", 1, "first");
        assertEquals(before.get("records").asInt(), 0);
        JsonNode called = client.post(
                "/api/flows/" + flow + "/sample-call",
                Map.of("file", file, "stage", "source", "record", 1, "environment", "Test"));
        assertEquals(called.get("records").asInt(), PAGE);
        assertTrue(
                called.get("sends").asText().contains("reference>0<"),
                called.get("sends").asText());
        JsonNode third = preview(flow, file, "paper", 3, "first");
        assertEquals(third.at("/fields/no/value").asText(), "E-001", "looking draws nothing");
        String sources = third.get("sources").toString();
        assertTrue(sources.contains("$event/place") && sources.contains("$previous/place"), sources);
    }

    /** A run that broke off in the middle of the pages asks for those behind, and draws no number anew. */
    @Test
    public void aRunThatBrokeOffAsksForThePagesBehind() throws Exception {
        events = 12;
        long flow = flow("Events that break off", "numbers that go on");
        broken = "8";
        asked.clear();
        JsonNode begun = client.post("/api/flows/" + flow + "/runs", Map.of("environment", "Test"));
        String path = "/api/runs/" + begun.get("id").asLong();
        JsonNode failed = ended(path, "run");
        broken = "none";
        assertEquals(failed.get("state").asText(), "failed", failed.toString());
        assertTrue(
                failed.get("message").asText().startsWith("the records cannot be read: "),
                failed.get("message").asText());
        assertEquals(failed.get("done").asInt(), 8);
        asked.clear();
        client.post(path + "/resume", Map.of());
        JsonNode on = ended(path, "run");
        assertEquals(on.get("state").asText() + on.get("done"), "done12", on.toString());
        assertEquals(asked, List.of("8"));
        assertEquals(numbers(), List.of("E-001", "E-012", "12"));
    }

    /** The first and the last number written, and how many there are: records draw them in any order. */
    private List<String> numbers() throws IOException {
        List<String> all =
                rows("events seen").stream().map(row -> row.get(0)).sorted().toList();
        long different = all.stream().distinct().count();
        return List.of(all.get(0), all.get(all.size() - 1), Long.toString(different));
    }

    @Test
    public void aSeriesThatCannotWorkIsRefusedWithWhatToChange() throws Exception {
        Exception refused = expectThrows(
                IOException.class,
                () -> client.post(
                        "/api/series",
                        Map.of(
                                "name",
                                "wrong",
                                "gapless",
                                true,
                                "start",
                                1,
                                "pattern",
                                "HC-{month}",
                                "yearly",
                                false)));
        assertTrue(refused.getMessage().contains("{month} means nothing here"), refused.getMessage());
        long id = client.post(
                        "/api/series",
                        Map.of("name", "changed", "gapless", true, "start", 1, "pattern", "{number}", "yearly", false))
                .get("id")
                .asLong();
        JsonNode changed = client.send(
                        "PUT",
                        "/api/series/" + id,
                        Map.of("gapless", false, "start", 7, "yearly", false),
                        Map.of("If-Match", "\"1\""))
                .json();
        assertEquals(changed.get("first").asText(), "7");
        int late = client.send(
                        "PUT",
                        "/api/series/" + id,
                        Map.of("gapless", false, "start", 8, "yearly", false),
                        Map.of("If-Match", "\"1\""))
                .status();
        assertEquals(late, 409);
    }
}
