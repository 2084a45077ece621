package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.ByteArrayInputStream;
import java.io.StringReader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.util.List;
import java.util.Map;
import java.util.stream.StreamSupport;
import javax.xml.transform.stream.StreamSource;
import javax.xml.validation.Schema;
import javax.xml.validation.SchemaFactory;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.soap.ReplyReader;
import wirekettle.core.value.NodeWriter;
import wirekettle.demo.DemoWorld;
import wirekettle.demo.ProductClient;

/** Runs through the started server: counts, ledger, failures, same bytes as the shell. */
public class RunTest extends BorrowerRuns {
    /** Two loans without a number, two of an unknown borrower, bookings that are refused or too slow, and who waits. */
    @Test
    public void theFlowThatChecksAndBooksComesToEveryEndAndItsCountsAddUp() throws Exception {
        JsonNode run = finished(client.post("/api/flows/4/runs", Map.of("environment", "Test")));
        assertEquals(run.get("flowName").asText(), "Check and book");
        assertEquals(run.get("state").asText(), "done");
        assertEquals(run.get("leftOut").asInt(), 2);
        assertEquals(run.get("rejected").asInt(), 2);
        assertEquals(run.get("inDoubt").asInt(), 5);
        assertEquals(run.get("heldBack").asInt(), 9);
        assertEquals(run.get("done").asInt(), 109 - 2 - 2 - 5 - 9);
        assertEquals(run.get("saved").asInt(), 3);
        assertEquals(run.get("read").asInt(), 109);
        assertEquals(run.get("ended").asInt(), 109);
        JsonNode stages = get("/api/runs/" + run.get("id").asLong()).get("stages");
        assertEquals(stages.get("refused").get("entered").asInt(), 3);
        long booked = get("/api/datasets?q=loans%20booked")
                .get("items")
                .get(0)
                .get("id")
                .asLong();
        for (JsonNode row : get("/api/datasets/" + booked + "/rows?size=200").get("items")) {
            assertEquals(row.get(2).asText(), "booked", "only what is booked is written there: " + row);
        }
        JsonNode way = get("/api/runs/" + run.get("id").asLong() + "/records/3");
        assertEquals(
                way.get("stages").toString(),
                "[\"read\",\"note\",\"known\",\"lookup\",\"value\",\"book\",\"outcome\",\"booked\",\"checked\"]",
                way.toString());
        int ended = 0;
        for (JsonNode stage : stages) {
            ended += stage.get("ended").asInt();
        }
        assertEquals(ended, 109 - run.get("done").asInt(), "every record that is not done ended at one stage");
    }

    @Test
    public void theDemoRunHasItsCountsAndCauses() {
        JsonNode run = get("/api/runs/1").get("run");
        assertEquals(run.get("state").asText(), "done");
        assertEquals(run.get("done").asInt(), 230);
        assertEquals(run.get("rejected").asInt(), 10);
        assertEquals(run.get("calls").asInt(), 237);
        StringBuilder causes = new StringBuilder();
        get("/api/runs/1/causes").forEach(c -> causes.append(c.get("count"))
                .append(" ")
                .append(c.get("cause").asText())
                .append("; "));
        assertEquals(
                causes.toString(),
                "4 institution suspended; 3 UnknownInstitution; 2 registrationNumber: is required and the record has no "
                        + "value for it; 1 registrationNumber: … characters, at most 12; ");
    }

    @Test
    public void everyRequestTheServiceReceivedIsValidAndTheirNumberIsTheLedgers() throws Exception {
        JsonNode flow = flow("All kept", f -> delivery(f).put("keep", "all"));
        long before = world.register().received();
        JsonNode run = finished(run(flow, 0));
        long received = world.register().received() - before;
        assertEquals(world.register().invalidRequests(), List.of());
        // an independent look: the schema files as they are, in the JDK's validator, over every request kept
        SchemaFactory factory = SchemaFactory.newDefaultInstance();
        Path folder = Files.createTempDirectory("schemas");
        for (Map.Entry<String, byte[]> file :
                DemoWorld.registerDocuments().files().entrySet()) {
            Files.write(folder.resolve(file.getKey()), file.getValue());
        }
        Schema schema = factory.newSchema(folder.resolve("register-types.xsd").toFile());
        int kept = 0;
        try (Connection admin = product.admin(product.database());
                ResultSet requests = admin.createStatement()
                        .executeQuery("select request from passage_exchange where run_id = "
                                + run.get("id").asLong())) {
            while (requests.next()) {
                String body = NodeWriter.write(
                        ReplyReader.read(requests.getString(1).getBytes(StandardCharsets.UTF_8))
                                .body()
                                .get(0),
                        false);
                schema.newValidator().validate(new StreamSource(new StringReader(body)));
                kept++;
            }
        }
        try (Connection admin = product.admin(product.database());
                ResultSet attempts = admin.createStatement()
                        .executeQuery("select count(*) from passage_attempt where sent and run_id = "
                                + run.get("id").asLong())) {
            attempts.next();
            assertEquals(attempts.getLong(1), received);
        }
        assertEquals(kept, received);
        assertEquals(received, 237);
    }

    @Test
    public void theShellWritesTheSameBytesAsTheServer() throws Exception {
        JsonNode flow = flow("Same bytes", f -> {});
        JsonNode run = finished(run(flow, 0));
        ProductClient.Answer results =
                client.send("GET", "/api/runs/" + run.get("id").asLong() + "/results", null, Map.of());
        Path bundle = Files.createTempFile("bundle", ".zip");
        Files.write(
                bundle,
                client.send("GET", "/api/flows/" + flow.get("id").asLong() + "/bundle?environment=Test", null, Map.of())
                        .body());
        Path loans = Files.createTempFile("loans", ".csv");
        Files.write(loans, DemoWorld.resource("data/loans.csv"));
        Path out = Files.createTempFile("borrowers", ".csv");
        Process shell = new ProcessBuilder(
                        System.getProperty("java.home") + "/bin/java",
                        "-cp",
                        ROOT.resolve("cli/target/cli-0.1.0.jar") + ":" + ROOT.resolve("cli/target/lib") + "/*",
                        "wirekettle.cli.Kettle",
                        "run",
                        bundle.toString(),
                        "--in",
                        "loans=" + loans,
                        "--out",
                        "borrowers=" + out,
                        "--at",
                        CLOCK,
                        "--json")
                .redirectError(ProcessBuilder.Redirect.INHERIT)
                .start();
        JsonNode counts = new ObjectMapper().readTree(shell.getInputStream().readAllBytes());
        assertEquals(shell.waitFor(), 1);
        assertEquals(counts.get("done").asInt(), 230);
        assertEquals(counts.get("causes").get("fault: UnknownInstitution").asInt(), 3);
        assertEquals(Files.readString(out), results.text());
        assertTrue(
                results.text().startsWith("crate_no,loan_no,institution_no"),
                results.text().substring(0, 60));
        assertTrue(results.text().contains(CLOCK.replace("Z", "")), "the fixed start is mapped");
    }

    @DataProvider
    public Object[][] outages() {
        return new Object[][] {
            {"page", "reads", "http-status", "HTTP 502", "rejected"},
            {"hang", "reads", "timeout", "no answer in time", "rejected"},
            {"hang", "changes", "timeout", "no answer in time", "in-doubt"},
            {"drip", "reads", "timeout", "no whole answer in time", "rejected"},
            {"close", "changes", "connection", "connection lost", "in-doubt"},
        };
    }

    @Test(dataProvider = "outages")
    public void aServiceThatFailsRejectsTheRecordAndTheRunGoesOn(
            String outage, String effect, String failureClass, String cause, String outcome) throws Exception {
        JsonNode flow = flow("Outage " + outage + " " + effect, f -> {
            ((ObjectNode) f.get("stages").get(1)).remove("lane");
            delivery(f).put("firstByteMillis", 600).put("wholeMillis", 1500).put("effect", effect);
        });
        world.registerKnobs().outage = outage;
        JsonNode run = finished(run(flow, 6));
        assertEquals(run.get("state").asText(), "done");
        assertEquals(run.get("ended").asInt(), 6);
        JsonNode line = get("/api/runs/" + run.get("id").asLong() + "/records")
                .get("items")
                .get(0);
        assertEquals(line.get("failureClass").asText(), failureClass);
        assertEquals(line.get("cause").asText(), cause);
        assertEquals(line.get("ended").asText(), outcome);
        JsonNode way = get("/api/runs/" + run.get("id").asLong() + "/records/1");
        assertTrue(way.get("exchanges").get(0).get("request").asText().contains("registrationNumber>"), way.toString());
        assertEquals(way.get("attempts").size(), 1);
    }

    /** Two loans without a number, refused crates whose loans are taken back, crates that are too slow, one van that left. */
    @Test
    public void theFlowThatBooksCratesTakesBackWhatOneRefusalMakesUseless() throws Exception {
        JsonNode run = finished(client.post("/api/flows/6/runs", Map.of("environment", "Test", "confirmed", true)));
        assertEquals(run.get("flowName").asText(), "Book loans, whole way");
        assertEquals(run.get("state").asText(), "done", run.toString());
        assertEquals(run.get("leftOut").asInt(), 2);
        assertEquals(run.get("rejected").asInt(), 4);
        assertEquals(run.get("inDoubt").asInt(), 3);
        assertEquals(run.get("done").asInt(), 100);
        String path = "/api/runs/" + run.get("id").asLong();
        JsonNode left = null;
        for (JsonNode line : get(path + "/records?ended=in-doubt").get("items")) {
            left = line.get("key").asText().equals("HC-20567") ? line : left;
        }
        String message = left.get("message").asText();
        assertTrue(message.startsWith("$crate 4 of 4: "), message);
        assertTrue(message.contains("BookCrate of $crate 2 could not be taken back"), message);
        JsonNode whole = get(path + "/records/" + left.get("ordinal").asLong());
        assertEquals(
                StreamSupport.stream(whole.get("passages").spliterator(), false)
                        .filter(p -> p.get("stage").asText().equals("book"))
                        .map(p ->
                                p.get("path").asText() + " " + p.get("outcome").asText())
                        .sorted()
                        .toList(),
                List.of("crates:1 done", "crates:2 done", "crates:3 undone", "crates:4 not-done"));
        assertEquals(whole.get("items").size(), 1, whole.get("items").toString());
        assertEquals(whole.get("items").get(0).get("path").asText(), "crates:4");
        assertEquals(whole.get("items").get(0).get("ended").asText(), "rejected");
    }

    @Test
    public void rejectsComeBackWithTheirFieldsAndTheReason() throws Exception {
        String csv = client.send("GET", "/api/runs/1/rejects", null, Map.of()).text();
        assertEquals(csv.lines().count(), 11);
        assertTrue(csv.lines().findFirst().orElse("").endsWith("remark,_record,_outcome,_class,_message"), csv);
        assertTrue(csv.contains("RG-10437-ALDERSUND-WEST"), csv);
        assertTrue(csv.contains("the reply counts as failed: institution suspended"), csv);
    }

    @Test
    public void rowsGoToATableCreatedOnRequestAndAreUpdatedByKey() throws Exception {
        client.post("/api/datasets", Map.of("name", "booking", "kind", "table", "table", "booking"));
        JsonNode flow = flow("To a table", f -> {
            ObjectNode write = (ObjectNode) f.get("stages").get(2);
            write.put("dataset", "booking")
                    .put("mode", "upsert")
                    .putArray("keys")
                    .add("crate_no");
        });
        for (int i = 0; i < 2; i++) {
            assertEquals(finished(run(flow, 20)).get("done").asInt(), 19);
        }
        try (Connection admin = product.admin(product.database() + "_w");
                ResultSet rows = admin.createStatement()
                        .executeQuery(
                                "select count(*), count(distinct crate_no), bool_or(over_limit), min(checked_at)::text from booking")) {
            rows.next();
            assertEquals(rows.getInt(1), 19);
            assertEquals(rows.getInt(2), 19);
            assertTrue(rows.getBoolean(3));
        }
        JsonNode dataset = client.post(
                "/api/datasets",
                Map.of(
                        "name",
                        "asked",
                        "kind",
                        "query",
                        "query",
                        "select crate_no, city from booking where country = 'GR' order by 1"));
        assertEquals(dataset.get("columns").get(1).get("name").asText(), "city");
        assertTrue(dataset.get("rows").asInt() > 0);
    }

    @Test
    public void appendingKeepsOneHeader() throws Exception {
        client.post("/api/datasets", Map.of("name", "journal", "kind", "csv"));
        JsonNode flow = flow("Appended", f -> ((ObjectNode) f.get("stages").get(2))
                .put("dataset", "journal")
                .put("mode", "append"));
        finished(run(flow, 5));
        finished(run(flow, 5));
        until("the journal is looked at", () -> {
            for (JsonNode d : get("/api/datasets?q=journal").get("items")) {
                return d.get("rows").asInt() == 10;
            }
            return false;
        });
    }

    @Test
    public void liveCountsAreStreamedUntilTheEnd() throws Exception {
        JsonNode flow = flow("Streamed", f -> {});
        world.registerKnobs().latencyMillis = 20;
        JsonNode run = run(flow, 0);
        ProductClient.Answer events =
                client.send("GET", "/api/runs/" + run.get("id").asLong() + "/events", null, Map.of());
        List<String> states =
                events.text().lines().filter(l -> l.startsWith("data:")).toList();
        JsonNode last = new ObjectMapper()
                .readTree(new ByteArrayInputStream(
                        states.get(states.size() - 1).substring(5).getBytes(StandardCharsets.UTF_8)));
        assertEquals(last.get("run").get("state").asText(), "done");
        assertEquals(last.get("run").get("ended").asInt(), 240);
    }
}
