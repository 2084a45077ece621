package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.core.flow.file.FlowBundle;

/** Mapping through the server: several outputs, documents inside replies, code tables, secrets. */
public class MappingApiTest extends SeededApi {
    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx512m", Map.of());
    }

    @Test
    public void groupedLoansAreBookedIntoTwoTablesAndWhatFailsIntoAThird() throws Exception {
        JsonNode flow = copy("Book transports", "Booked once");
        ObjectNode file = (ObjectNode) flow.get("file");
        assertEquals(flow.get("records").asInt(), 109);
        // one crate weighs nothing as far as the service is concerned: its booking has to fail
        fill(stage(file, "call"), "grossKilograms").put("when", "$crate/crate_no != 'HC-20481-2'");
        client.send("PUT", "/api/flows/" + flow.get("id"), file, Map.of("If-Match", "\"1\""));
        long run = client.post("/api/flows/" + flow.get("id") + "/runs", Map.of("environment", "Test", "limit", 6))
                .get("id")
                .asLong();
        JsonNode done = ended("/api/runs/" + run, "run");
        assertEquals(done.get("state").asText(), "done");
        assertEquals(done.get("done").asInt(), 5);
        List<List<String>> bookings = rows("bookings");
        List<List<String>> crates = rows("booked crates");
        assertEquals(bookings.size(), 5);
        for (List<String> crate : crates) {
            assertTrue(bookings.stream().anyMatch(b -> b.get(0).equals(crate.get(1))), "the key of " + crate);
            assertTrue(crate.get(0).startsWith(crate.get(1) + "-"), crate.toString());
        }
        assertEquals(crates.stream().map(c -> c.get(0)).distinct().count(), crates.size());
        List<List<String>> refused = rows("refused bookings");
        assertEquals(refused.size(), 1);
        assertEquals(
                refused.get(0).subList(0, 4),
                List.of("HC-20481", "validation", refused.get(0).get(2), "grossKilograms"));
    }

    /** One look-up for each crate of a loan, side by side; those that fail stand in what is gathered. */
    @Test
    public void itemsOfARecordAreCalledSideBySideAndGathered() throws Exception {
        ObjectNode file = flow("Check borrowing institutions").get("file").deepCopy();
        file.put("name", "Crates of loans");
        ObjectNode call = stage(file, "call");
        String field = "/{urn:halewick:register:1}LookUpInstitution/{urn:halewick:register:1}";
        ArrayNode fills = call.putArray("fills");
        fills.addObject()
                .put("id", "q1")
                .put("target", field + "registrationNumber")
                .put("wire", "$line/institution_no");
        fills.addObject().put("id", "q2").put("target", field + "requestedBy").put("constant", "HALEWICK");
        fills.addObject().put("id", "q3").put("target", field + "purpose").put("constant", "loan");
        call.put("as", "answer");
        ((ObjectNode) call.get("delivery")).putArray("failedWhen");
        ObjectNode read = stage(file, "read");
        read.putArray("groupBy").add("loan_no");
        ObjectNode split =
                JSON.createObjectNode().put("verb", "Split").put("id", "crates").put("over", "$loan/line");
        split.put("item", "line").put("atOnce", 3).putArray("stages").add(call);
        split.putObject("gather").put("as", "lines").put("whenSomeFail", "go-on");
        ObjectNode write =
                JSON.createObjectNode().put("verb", "Write").put("id", "write").put("mode", "replace");
        write.put("dataset", "crates of loans").put("rows", "").putArray("keys");
        ArrayNode columns = write.putArray("columns");
        ArrayNode made = write.putArray("fills");
        for (String[] each : new String[][] {
            {"loan_no", "$loan/loan_no"},
            {"crates", "count($lines/item)"},
            {"found", "count($lines/item[end = 'done'])"},
            {"numbers", "string-join($lines/item/answer/registrationNumber, ' ')"}
        }) {
            columns.addObject()
                    .put("name", each[0])
                    .put("label", each[0])
                    .put("type", "string")
                    .put("required", false);
            made.addObject().put("id", "w" + each[0]).put("target", each[0]).put("expression", each[1]);
        }
        file.putArray("stages").add(read).add(split).add(write);
        file.remove("lane");
        client.post("/api/datasets", Map.of("name", "crates of loans", "kind", "csv"));
        JsonNode flow = client.post("/api/flows", Map.of("name", "Crates of loans", "file", file));
        assertEquals(flow.get("problems").size(), 0, flow.get("problems").toString());
        String at = "/api/runs/"
                + client.post("/api/flows/" + flow.get("id") + "/runs", Map.of("environment", "Test"))
                        .get("id");
        JsonNode run = ended(at, "run");
        assertEquals(run.get("state").asText() + run.get("read") + run.get("done"), "done109109", run.toString());
        int crates = 0;
        for (List<String> row : rows("crates of loans")) {
            crates += Integer.parseInt(row.get(1));
            int found = Integer.parseInt(row.get(2));
            assertEquals(row.get(3).isEmpty() ? 0 : row.get(3).split(" ").length, found, row.toString());
        }
        assertEquals(crates, 240);
        JsonNode way = client.get(at + "/records/1");
        List<String> paths = new java.util.ArrayList<>();
        way.get("passages").forEach(passage -> paths.add(passage.get("path").asText()));
        assertEquals(paths.get(0), "crates:1");
        assertEquals(paths.stream().distinct().count(), paths.size(), paths.toString());
        assertEquals(way.get("stages").size(), 4, way.get("stages").toString());
    }

    @Test
    public void xmlInsideAStringIsLearnedMappedAndRejectedWhereItIsNone() throws Exception {
        JsonNode flow = flow("Read the climate");
        long id = flow.get("id").asLong();
        ObjectNode file = flow.get("file").deepCopy();
        String path = "/{urn:halewick:climate}ReadRoomResponse/readings";
        JsonNode learned = client.post(
                "/api/flows/" + id + "/learn",
                Map.of("file", file, "environment", "Test", "message", "reply", "path", path));
        assertEquals(learned.get("from").asInt(), 3);
        ArrayNode documents = stage(file, "call").putArray("documents");
        documents.add(learned.get("document"));
        JsonNode again = client.post(
                "/api/flows/" + id + "/learn",
                Map.of("file", file, "environment", "Test", "message", "reply", "path", path));
        assertEquals(again.get("news").size(), 0, again.get("news").toString());
        JsonNode every = client.post("/api/flows/" + id + "/everything", Map.of("file", file));
        assertEquals(every.at("/rows/rowPath").asText(), "$reply/readings/readings/reading");
        assertEquals(every.get("tables").size(), 2, "a table of the reply, one of its readings");
        ObjectNode write = stage(file, "write");
        write.put("dataset", "climate documents");
        write.put("document", "json");
        write.set("columns", every.at("/nested/columns"));
        write.set("fills", every.at("/nested/fills"));
        write.set("groups", every.at("/nested/groups"));
        client.post("/api/datasets", Map.of("name", "climate documents", "kind", "json"));
        file.put("name", "Climate as documents");
        JsonNode made = client.post("/api/flows", Map.of("name", "Climate as documents", "file", file));
        assertEquals(made.get("problems").size(), 0, made.get("problems").toString());
        long run = client.post("/api/flows/" + made.get("id") + "/runs", Map.of("environment", "Test"))
                .get("id")
                .asLong();
        JsonNode done = ended("/api/runs/" + run, "run");
        assertEquals(done.get("done").asInt(), 10, done.toString());
        String output = client.send("GET", "/api/runs/" + run + "/results", null, Map.of())
                .text();
        JsonNode document = JSON.readTree(output.lines().findFirst().orElseThrow());
        assertEquals(document.at("/readings/readings/reading/0/celsius").asText(), "18.0", output);
        assertEquals(document.at("/readings/readings/reading").size(), 3);
        JsonNode nothing = client.send(
                        "POST",
                        "/api/flows/" + id + "/learn",
                        Map.of("file", file, "environment", "Live", "message", "reply", "path", path),
                        Map.of())
                .json();
        assertEquals(nothing.get("code").asText(), "nothing-kept");
        JsonNode noDocument = client.send(
                        "POST",
                        "/api/flows/" + id + "/learn",
                        Map.of(
                                "file",
                                flow.get("file"),
                                "environment",
                                "Test",
                                "message",
                                "reply",
                                "path",
                                path,
                                "sample",
                                "only words"),
                        Map.of())
                .json();
        assertTrue(noDocument.get("detail").asText().contains("neither XML nor JSON"), noDocument.toString());
    }

    @Test
    public void codeTablesAreKeptOnceLoadedFromFilesAndChangedByOneAtATime() throws Exception {
        JsonNode table = client.post(
                "/api/code-tables",
                Map.of("name", "lands", "entries", List.of(Map.of("code", "Norrland", "value", "NO"))));
        String at = "/api/code-tables/" + table.get("id").asLong();
        assertEquals(client.get("/api/code-tables?q=land").get("total").asInt(), 1);
        JsonNode entries = client.upload(
                "/api/code-tables/entries/file",
                "file",
                Map.of(
                        "lands.csv",
                        "value;code;from\nSE;Sydland;2026-07-01\nDK;Vestland;\n".getBytes(StandardCharsets.UTF_8)));
        assertEquals(entries.size(), 2);
        assertEquals(entries.get(0).get("code").asText(), "Sydland");
        assertEquals(entries.get(0).get("from").asText(), "2026-07-01");
        JsonNode fromData = client.post(
                "/api/code-tables/entries/dataset", Map.of("dataset", "rooms", "code", "room_no", "value", "note"));
        assertEquals(fromData.size(), 10);
        Map<String, Object> change = Map.of("otherwise", "XX", "entries", entries);
        assertEquals(client.send("PUT", at, change, Map.of("If-Match", "\"1\"")).status(), 200);
        JsonNode late =
                client.send("PUT", at, change, Map.of("If-Match", "\"1\"")).json();
        assertEquals(late.get("code").asText(), "changed-meanwhile");
        assertEquals(client.send("PUT", at, change, Map.of()).status(), 428);
        JsonNode bad = client.send(
                        "PUT",
                        at,
                        Map.of("entries", List.of(Map.of("code", "A", "value", "B", "until", "soon"))),
                        Map.of("If-Match", "\"2\""))
                .json();
        assertTrue(bad.get("detail").asText().contains("“soon”"), bad.toString());
        assertEquals(
                client.uploading("/api/code-tables/entries/file", "file", Map.of("x.xlsx", new byte[] {'P', 'K', 3, 4, 9
                        }))
                        .status(),
                422);
        JsonNode taken = client.send("POST", "/api/code-tables", Map.of("name", "lands"), Map.of())
                .json();
        assertEquals(taken.get("code").asText(), "name-taken");

        JsonNode flow = flow("Book transports");
        ObjectNode file = flow.get("file").deepCopy();
        ObjectNode climate = fill(stage(file, "call"), "climate");
        climate.putObject("lookUp").put("table", "lands");
        JsonNode shown = preview(flow.get("id").asLong(), file, "call", 1, "first");
        assertEquals(
                shown.at("/fields")
                        .get(climate.get("target").asText())
                        .get("value")
                        .asText(),
                "XX");
        climate.putObject("lookUp").put("table", "nowhere");
        assertTrue(preview(flow.get("id").asLong(), file, "call", 1, "first")
                .get("attention")
                .toString()
                .contains("“nowhere” is not there"));
        Path bundle = Files.createTempFile("bundle", ".zip");
        Files.write(
                bundle,
                client.send("GET", "/api/flows/" + flow.get("id") + "/bundle?environment=Test", null, Map.of())
                        .body());
        assertEquals(FlowBundle.read(bundle).codeTables().keySet(), java.util.Set.of("climate classes"));
    }

    @Test
    public void aSecretInAHeaderIsSentAndShownNowhere() throws Exception {
        JsonNode flow = copy("Book transports", "Booked with a secret");
        ObjectNode file = (ObjectNode) flow.get("file");
        ObjectNode requestedBy = fill(stage(file, "call"), "requestedBy");
        requestedBy.remove("join");
        requestedBy.put("secret", "vanline password");
        ((ObjectNode) stage(file, "call").get("delivery")).put("keep", "all");
        long id = flow.get("id").asLong();
        JsonNode shown = preview(id, file, "call", 1, "first");
        assertTrue(
                shown.get("sends").asText().contains("requestedBy>•••••<"),
                shown.get("sends").asText());
        assertEquals(shown.get("attention").size(), 0);
        client.send("PUT", "/api/flows/" + id, file, Map.of("If-Match", "\"1\""));
        long run = client.post("/api/flows/" + id + "/runs", Map.of("environment", "Test", "limit", 1))
                .get("id")
                .asLong();
        assertEquals(ended("/api/runs/" + run, "run").get("done").asInt(), 1);
        String way = client.get("/api/runs/" + run + "/records/1").toString();
        assertTrue(way.contains("requestedBy>•••••<"), way);
        requestedBy.put("secret", "nobody wrote this");
        client.send("PUT", "/api/flows/" + id, file, Map.of("If-Match", "\"2\""));
        JsonNode refused = client.send(
                        "POST", "/api/flows/" + id + "/runs", Map.of("environment", "Test", "limit", 1), Map.of())
                .json();
        assertTrue(refused.get("detail").asText().contains("no secret “nobody wrote this”"), refused.toString());
    }

    @Test
    public void aDocumentInsideAFieldOfTheRequestIsGivenByAnExampleOrItsSchema() throws Exception {
        JsonNode flow = flow("Book transports");
        long id = flow.get("id").asLong();
        ObjectNode file = flow.get("file").deepCopy();
        ObjectNode remark = fill(stage(file, "call"), "}remark");
        String path = remark.get("target").asText();
        Map<String, String> samples = Map.of(
                "<packing><by>Ida</by></packing>",
                "xml",
                "{\"by\": \"Ida\"}",
                "json",
                "<xs:schema xmlns:xs='http://www.w3.org/2001/XMLSchema'><xs:element name='packing'><xs:complexType><xs:sequence>"
                        + "<xs:element name='by' type='xs:string'/></xs:sequence></xs:complexType></xs:element></xs:schema>",
                "xml");
        for (Map.Entry<String, String> sample : samples.entrySet()) {
            JsonNode document = client.post(
                            "/api/flows/" + id + "/learn",
                            Map.of(
                                    "file",
                                    file,
                                    "environment",
                                    "Test",
                                    "message",
                                    "request",
                                    "path",
                                    path,
                                    "sample",
                                    sample.getKey()))
                    .get("document");
            assertEquals(document.get("form").asText(), sample.getValue());
            ObjectNode changed = file.deepCopy();
            stage(changed, "call").putArray("documents").add(document);
            ObjectNode by = fill(stage(changed, "call"), "}remark");
            by.put("target", path + "/" + document.get("root").asText() + "/by");
            by.put("wire", "$loan/borrower");
            JsonNode shown = preview(id, changed, "call", 1, "first");
            String sends = shown.get("sends").asText();
            String expected = sample.getValue().equals("json")
                    ? "(?s).*\\{\"by\":\"Lünbrück Gallery of Maps\"}.*"
                    : "(?s).*&lt;packing(>|&gt;)&lt;by(>|&gt;)Lünbrück Gallery of Maps&lt;/by.*";
            assertTrue(sends.matches(expected), sends);
        }
    }
}
