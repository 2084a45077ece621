package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNotEquals;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.testng.annotations.AfterMethod;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.demo.ProductClient;

/** What is removed, replaced or run twice while something goes on: refused, asked about, or kept. */
public class NothingLostTest extends SeededApi {
    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx512m", Map.of());
    }

    @AfterMethod(alwaysRun = true)
    public void quick() throws Exception {
        latency("register", 0);
        latency("vanline", 0);
    }

    private void latency(String service, int millis) throws Exception {
        HttpClient.newHttpClient()
                .send(
                        HttpRequest.newBuilder(URI.create(world.address(service) + "/knobs?latency=" + millis))
                                .build(),
                        HttpResponse.BodyHandlers.discarding());
    }

    private JsonNode run(long flow, Map<String, Object> how) throws Exception {
        return client.post("/api/flows/" + flow + "/runs", how);
    }

    private void cancel(long run, boolean takeResults) throws Exception {
        client.post("/api/runs/" + run + "/cancel", Map.of("takeResults", takeResults));
        ended("/api/runs/" + run, "run");
    }

    private String result(long run) throws Exception {
        return client.send("GET", "/api/runs/" + run + "/results", null, Map.of())
                .text();
    }

    private long dataset(String name) throws Exception {
        for (JsonNode each : client.get("/api/datasets?size=200").get("items")) {
            if (each.get("name").asText().equals(name)) {
                return each.get("id").asLong();
            }
        }
        throw new AssertionError("no dataset " + name);
    }

    @Test
    public void whatARunUsesCannotBeRemovedUnderItAndAFlowIsArchivedAfterwards() throws Exception {
        long flow =
                copy("Check borrowing institutions", "To be archived").get("id").asLong();
        JsonNode file = client.get("/api/flows/" + flow).get("file");
        String read = stage(file, "read").get("dataset").asText();
        String written = stage(file, "write").get("dataset").asText();
        latency("register", 300);
        long run = run(flow, Map.of("environment", "Test")).get("id").asLong();
        long contract = 0;
        for (JsonNode each : client.get("/api/contracts").get("items")) {
            contract = each.get("name")
                            .asText()
                            .equals(stage(file, "call").get("contract").asText())
                    ? each.get("id").asLong()
                    : contract;
        }
        long endpoint = 0;
        for (JsonNode each : client.get("/api/endpoints")) {
            endpoint = each.get("name")
                            .asText()
                            .equals(stage(file, "call").get("endpoint").asText())
                    ? each.get("id").asLong()
                    : endpoint;
        }
        for (String path : List.of(
                "/api/flows/" + flow,
                "/api/datasets/" + dataset(read),
                "/api/datasets/" + dataset(written),
                "/api/contracts/" + contract,
                "/api/endpoints/" + endpoint)) {
            ProductClient.Answer refused = client.send("DELETE", path, null, Map.of());
            assertEquals(refused.status(), 409, path + " " + refused.text());
            assertTrue(refused.text().contains("is used by run " + run), refused.text());
        }
        cancel(run, false);
        long records = client.get("/api/runs/" + run + "/records").get("total").asLong();
        assertTrue(client.send("DELETE", "/api/flows/" + flow, null, Map.of()).status() < 300);
        assertEquals(client.send("GET", "/api/flows/" + flow, null, Map.of()).status(), 404);
        assertEquals(client.get("/api/runs/" + run + "/records").get("total").asLong(), records);
        assertEquals(client.get("/api/runs/" + run).get("run").get("flowName").asText(), "To be archived");
        // its name is free again
        assertNotEquals(
                copy("Check borrowing institutions", "To be archived").get("id").asLong(), flow);
    }

    @DataProvider
    public Object[][] names() {
        return new Object[][] {{"loans 2024", "loans_2024"}, {"rates", "Rates"}, {"a/b", "a:b"}, {"crates ", "crates."}
        };
    }

    @Test(dataProvider = "names")
    public void namesThatDifferOnlyInASignShareNoFile(String one, String other) throws Exception {
        long first = client.upload("/api/datasets/files", "file", Map.of(one + ".csv", bytes("n\r\n1\r\n")))
                .get("id")
                .asLong();
        long second = client.upload("/api/datasets/files", "file", Map.of(other + ".csv", bytes("n\r\n2\r\n")))
                .get("id")
                .asLong();
        assertEquals(first(first), "1");
        assertEquals(first(second), "2");
        client.send("DELETE", "/api/datasets/" + second, null, Map.of());
        assertEquals(first(first), "1");
        client.send("DELETE", "/api/datasets/" + first, null, Map.of());
    }

    private static byte[] bytes(String text) {
        return text.getBytes(StandardCharsets.UTF_8);
    }

    private String first(long dataset) throws Exception {
        return client.get("/api/datasets/" + dataset + "/rows").at("/items/0/0").asText();
    }

    @Test
    public void foldersOfLikeNamesShareNoFiles() throws Exception {
        long one = client.post("/api/datasets", Map.of("name", "labels 1", "kind", "folder"))
                .get("id")
                .asLong();
        long other = client.post("/api/datasets", Map.of("name", "labels_1", "kind", "folder"))
                .get("id")
                .asLong();
        client.upload("/api/datasets/" + one + "/files", "file", Map.of("a.txt", bytes("one")));
        assertEquals(
                client.get("/api/datasets/" + other + "/files").get("total").asLong(), 0);
        client.send("DELETE", "/api/datasets/" + other, null, Map.of());
        assertEquals(client.get("/api/datasets/" + one + "/files").get("total").asLong(), 1);
    }

    @Test
    public void aCancelledRunKeepsTheEarlierFileUnlessToldOtherwise() throws Exception {
        JsonNode made = copy("Check borrowing institutions", "Cancelled");
        long flow = made.get("id").asLong();
        ObjectNode file = (ObjectNode) made.get("file");
        stage(file, "write").put("dataset", "kept or not").put("mode", "replace");
        client.post("/api/datasets", Map.of("name", "kept or not", "kind", "csv"));
        client.send("PUT", "/api/flows/" + flow, file, Map.of("If-Match", "\"1\""));
        ended(
                "/api/runs/"
                        + run(flow, Map.of("environment", "Test", "limit", 40)).get("id"),
                "run");
        List<List<String>> whole = rows("kept or not");
        assertTrue(whole.size() > 30, "rows " + whole.size());
        latency("register", 150);
        for (boolean take : new boolean[] {false, true}) {
            long run = run(flow, Map.of("environment", "Test")).get("id").asLong();
            while (client.get("/api/runs/" + run).get("run").get("ended").asLong() < 3) {
                Thread.onSpinWait();
            }
            cancel(run, take);
            if (take) {
                assertTrue(rows("kept or not").size() < whole.size(), "what was done took its place");
            } else {
                assertEquals(rows("kept or not"), whole);
            }
            assertTrue(result(run).split("\r\n").length > 1, "what was done can be downloaded");
        }
    }

    @Test
    public void aSecondRunBesideOneThatChangesDataIsAskedAbout() throws Exception {
        long flow = copy("Book transports", "Booked twice").get("id").asLong();
        latency("vanline", 400);
        long first = run(flow, Map.of("environment", "Test")).get("id").asLong();
        ProductClient.Answer asked =
                client.send("POST", "/api/flows/" + flow + "/runs", Map.of("environment", "Test"), Map.of());
        assertEquals(asked.status(), 409, asked.text());
        assertEquals(asked.json().get("code").asText(), "confirm-run");
        long second = run(flow, Map.of("environment", "Test", "confirmed", true, "limit", 1))
                .get("id")
                .asLong();
        assertNotEquals(second, first);
        cancel(first, false);
        ended("/api/runs/" + second, "run");
    }

    @Test
    public void aRunOfARevisionThatIsNotTheNewestIsRefused() throws Exception {
        JsonNode made = copy("Check borrowing institutions", "Saved meanwhile");
        long flow = made.get("id").asLong();
        client.send("PUT", "/api/flows/" + flow, made.get("file"), Map.of("If-Match", "\"1\""));
        ProductClient.Answer old = client.send(
                "POST", "/api/flows/" + flow + "/runs", Map.of("environment", "Test", "revision", 1), Map.of());
        assertEquals(old.status(), 409, old.text());
        ended(
                "/api/runs/"
                        + run(flow, Map.of("environment", "Test", "revision", 2, "limit", 1))
                                .get("id"),
                "run");
    }

    @Test
    public void proofsNobodyAsksForAnyMoreHoldUpNothing() throws Exception {
        JsonNode flow = flow("Book transports");
        Map<String, Object> asked = Map.of("file", flow.get("file"), "samples", "all");
        String path = "/api/flows/" + flow.get("id") + "/proofs";
        for (int i = 0; i < 200; i++) {
            client.post(path, asked);
        }
        JsonNode last = client.post(path, asked);
        JsonNode done = ended("/api/proofs/" + last.get("id"), null);
        assertEquals(done.get("state").asText(), "done", done.toString());
    }

    @Test
    public void aFlowBuiltFromAContractTakesItsAddressInTest() throws Exception {
        String wsdl = Files.readString(Path.of("../demo/src/main/resources/awkward/wrapped.wsdl"));
        JsonNode job = client.post("/api/imports", Map.of("text", wsdl));
        JsonNode read = job;
        while (read.get("state").asText().equals("reading")) {
            read = client.get("/api/imports/" + job.get("id"));
        }
        JsonNode contract = client.get("/api/contracts/" + read.get("contract"));
        JsonNode operation = contract.get("operations").get(0);
        client.post(
                "/api/flows",
                Map.of(
                        "name",
                        "Of the contract",
                        "contract",
                        contract.get("name").asText(),
                        "port",
                        operation.get("port").asText(),
                        "service",
                        operation.get("service").asText(),
                        "operation",
                        operation.get("key").asText()));
        String taken = "";
        for (JsonNode each : client.get("/api/endpoints")) {
            taken = each.get("name").asText().equals(contract.get("name").asText())
                    ? each.at("/environments/Test/address").asText()
                    : taken;
        }
        assertEquals(taken, operation.get("address").asText());
    }
}
