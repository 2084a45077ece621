package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import com.sun.net.httpserver.HttpServer;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CopyOnWriteArrayList;
import org.testng.annotations.Test;
import wirekettle.demo.ProductClient;

/** Environments as data, what a flow needs there, and what is in force. */
public class GoingLiveApiTest extends DutyRuns {
    private static ObjectNode delivery(JsonNode file, String member, int value) {
        return ((ObjectNode) file.get("stages").get(1).get("delivery")).put(member, value);
    }

    @Test
    public void anEnvironmentIsAddedChangedAndRemoved() throws Exception {
        JsonNode made = client.post("/api/environments", Map.of("name", "Rehearsal", "colour", "plum"));
        assertEquals(made.get("live").asBoolean(), false);
        assertEquals(
                send("POST", "/api/environments", Map.of("name", "rehearsal"), 0)
                        .status(),
                409);
        assertEquals(send("POST", "/api/environments", Map.of("name", "a,b"), 0).status(), 400);
        assertEquals(
                send("POST", "/api/environments", Map.of("name", "X", "values", Map.of("1st", "x")), 0)
                        .status(),
                400);
        sent("PUT", "/api/environments/Rehearsal", Map.of("position", 1, "live", true), 1);
        assertEquals(
                send("PUT", "/api/environments/Rehearsal", Map.of("live", false), 1)
                        .status(),
                409);
        assertEquals(get("/api/environments").get(0).get("name").asText(), "Rehearsal");
        assertEquals(
                send("PUT", "/api/environments/Simulator", Map.of("live", true), 1)
                        .status(),
                400);
        assertEquals(send("DELETE", "/api/environments/Simulator", null, 0).status(), 409);
        assertEquals(
                send("POST", "/api/flows/1/runs", Map.of("environment", "Rehearsal"), 0)
                        .status(),
                403,
                "the right to run there is nobody's yet");
        assertEquals(send("DELETE", "/api/environments/Rehearsal", null, 0).status(), 204);
    }

    @Test
    public void aNamedValueReachesTheMessageAndItsLackIsSaidBeforeAnythingBegins() throws Exception {
        JsonNode flow = flow("With a value", file -> {
            ObjectNode fill =
                    (ObjectNode) file.get("stages").get(1).get("fills").get(1);
            fill.remove("constant");
            fill.put("wire", "$env/desk_no");
        });
        client.post("/api/environments", Map.of("name", "Elsewhere", "values", Map.of("desk_no", "0")));
        long id = flow.get("id").asLong();
        String problems = get("/api/flows/" + id).get("problems").toString();
        assertEquals(problems, "[]", "the name is known, some environment has it");
        var refused = send("POST", "/api/flows/" + id + "/runs", Map.of("environment", "Test"), 0);
        assertEquals(refused.status(), 422);
        assertEquals(refused.json().get("code").asText(), "value-missing");
        assertTrue(get("/api/flows/" + id + "/readiness?environment=Test")
                .toString()
                .contains("has no value"));
        JsonNode test = get("/api/environments").get(0);
        sent(
                "PUT",
                "/api/environments/Test",
                Map.of("values", Map.of("desk_no", "HC-77")),
                test.get("version").asLong());
        JsonNode run = finished(client.post("/api/flows/" + id + "/runs", Map.of("environment", "Test", "limit", 2)));
        JsonNode way = get("/api/runs/" + run.get("id").asLong() + "/records/1");
        assertTrue(way.get("exchanges").toString().contains("HC-77"), way.toString());
    }

    @Test
    public void aPublishedFlowWhoseDatasetIsGoneSaysSoAndRunsAgainOnceItIsBack() throws Exception {
        JsonNode flow = small("Renamed", "once called", loans(loan("R-1", "RG-10696")), file -> {});
        publish(flow, "Test");
        long dataset = get("/api/datasets?q=once%20called")
                .get("items")
                .get(0)
                .get("id")
                .asLong();
        assertEquals(send("DELETE", "/api/datasets/" + dataset, null, 0).status(), 204);
        String runs = "/api/flows/" + flow.get("id").asLong() + "/runs";
        Map<String, Object> published = Map.of("environment", "Test", "published", true);
        var refused = send("POST", runs, published, 0);
        assertEquals(refused.status() / 100, 4, refused.text());
        assertTrue(refused.text().contains("once called"), refused.text());
        JsonNode needs = get("/api/flows/" + flow.get("id").asLong() + "/readiness?environment=Test&revision=1");
        assertTrue(needs.toString().contains("There is no dataset of this name"), needs.toString());
        client.upload(
                "/api/datasets/files",
                "file",
                Map.of("once called.csv", loans(loan("R-2", "RG-10696")).getBytes("UTF-8")));
        assertEquals(finished(client.post(runs, published)).get("done").asInt(), 1);
    }

    /** Who may not run any more can neither stop nor begin anything; what goes on comes to its end. */
    @Test
    public void rightsTakenAwayInTheMiddleOfARunStopThePersonNotTheRun() throws Exception {
        String password = "crates-go-by-van-7731";
        JsonNode bram = client.post(
                "/api/people", Map.of("name", "bram", "password", password, "rights", Map.of("run", List.of("Test"))));
        String[] lines = new String[30];
        for (int i = 0; i < lines.length; i++) {
            lines[i] = loan("W-" + i, "RG-10696");
        }
        JsonNode flow = small("Rights", "rights in", loans(lines), file -> delivery(file, "atOnce", 1));
        world.registerKnobs().latencyMillis = 100;
        ProductClient his = new ProductClient(product.address());
        his.signIn("bram", password);
        JsonNode run = his.post("/api/flows/" + flow.get("id").asLong() + "/runs", Map.of("environment", "Test"));
        sent("PUT", "/api/people/" + bram.get("id").asLong() + "/rights", Map.of("run", List.of()), 0);
        String path = "/api/runs/" + run.get("id").asLong();
        assertEquals(his.send("POST", path + "/pause", Map.of(), Map.of()).status(), 403);
        assertEquals(his.send("POST", path + "/cancel", Map.of(), Map.of()).status(), 403);
        assertEquals(finished(run).get("done").asInt(), 30);
        assertEquals(his.send("POST", path + "/resend", Map.of(), Map.of()).status(), 403);
    }

    private void standsIn(String what, Map<String, String> standIns, int expected) throws Exception {
        for (JsonNode each : get("/api/environments")) {
            if (each.get("name").asText().equals("Test")) {
                var answer = send(
                        "PUT",
                        "/api/environments/Test",
                        Map.of(what, standIns),
                        each.get("version").asLong());
                assertEquals(answer.status(), expected, answer.text());
            }
        }
    }

    private long rows(String dataset) {
        return get("/api/datasets?q=" + dataset.replace(" ", "%20"))
                .get("items")
                .get(0)
                .get("rows")
                .asLong();
    }

    @Test
    public void anotherDatasetStandsForOneInAnEnvironment() throws Exception {
        JsonNode flow = small("Stands", "stand of", loans(loan("S-1", "RG-10696")), file -> {});
        long id = flow.get("id").asLong();
        Map<String, String> files = Map.of(
                "stand real.csv",
                loans(loan("S-2", "RG-10696"), loan("S-3", "RG-10696")),
                "stand poor.csv",
                "loan_no;crate_no\nS-4;S-4-1\n");
        for (Map.Entry<String, String> each : files.entrySet()) {
            client.upload(
                    "/api/datasets/files",
                    "file",
                    Map.of(each.getKey(), each.getValue().getBytes("UTF-8")));
        }
        client.post("/api/datasets", Map.of("name", "real seen", "kind", "csv"));
        client.post("/api/datasets", Map.of("name", "stand folder", "kind", "folder"));
        standsIn("datasets", Map.of("stand of", "nobody"), 400);
        standsIn("datasets", Map.of("stand of", "stand folder"), 400);
        standsIn("datasets", Map.of("stand of", "stand poor"), 200);
        assertTrue(get("/api/flows/" + id + "/readiness?environment=Test")
                .toString()
                .contains("What stands for a dataset of it in Test differs: "));
        var poor = send("POST", "/api/flows/" + id + "/runs", Map.of("environment", "Test"), 0);
        assertEquals(poor.status(), 422);
        assertTrue(poor.text().contains("is not a field of the dataset any more"), poor.text());
        standsIn("datasets", Map.of("stand of", "stand real", "stand of seen", "real seen"), 200);
        assertTrue(get("/api/flows/" + id + "/readiness?environment=Test")
                .toString()
                .contains("stand real"));
        JsonNode looked = client.post(
                "/api/flows/" + id + "/preview",
                Map.of(
                        "file",
                        flow.get("file"),
                        "stage",
                        "call",
                        "record",
                        1,
                        "environment",
                        "Test",
                        "samples",
                        "first"));
        assertEquals(looked.get("records").asInt(), 2, "samples are of what stands there");
        assertTrue(looked.toString().contains("S-2"), looked.toString());
        JsonNode run = finished(run(flow, 0));
        assertEquals(run.get("done").asInt(), 2, run.toString());
        assertEquals(rows("real seen"), 2);
        assertEquals(rows("stand of seen"), 0);
        // and without them it is as it is written
        standsIn("datasets", Map.of(), 200);
        assertEquals(finished(run(flow, 0)).get("done").asInt(), 1);
        assertEquals(rows("stand of seen"), 1);
    }

    @Test
    public void aRevisionIsPublishedByComparingAndTakenBack() throws Exception {
        JsonNode flow = flow("To be published", file -> {});
        long id = flow.get("id").asLong();
        JsonNode first = publish(flow, "Test");
        ObjectNode file = flow.get("file").deepCopy();
        delivery(file, "atOnce", 3);
        ((ObjectNode) file.get("stages").get(1).get("fills").get(1)).put("constant", "NIGHT");
        JsonNode second = sent("PUT", "/api/flows/" + id, file, 1);
        JsonNode comparison = get("/api/flows/" + id + "/publications/Test/comparison");
        assertEquals(comparison.get("inForce").get("revision").asInt(), 1);
        assertEquals(
                comparison.get("stages").findValuesAsText("what").toString().replaceAll("\\{[^}]*}", ""),
                "[fill /LookUpInstitution/requestedBy, delivery/atOnce]");
        JsonNode before = finished(client.post(
                "/api/flows/" + id + "/runs", Map.of("environment", "Test", "limit", 1, "published", true)));
        assertEquals(before.get("flowRevision").asInt(), 1, "what is in force runs, not what is newest");
        var late = send("POST", "/api/flows/" + id + "/publications", Map.of("environment", "Test", "revision", 2), 0);
        assertEquals(late.status(), 409, "somebody published meanwhile");
        publish(second, "Test");
        assertEquals(inForceRevision(id), 2);
        long now = inForce(id, "Test");
        JsonNode back = sent("POST", "/api/flows/" + id + "/publications/Test/take-back", Map.of("note", "no"), now);
        assertEquals(back.get("revision").asInt(), 1);
        assertEquals(back.get("contracts"), first.get("contracts"));
        sent(
                "POST",
                "/api/flows/" + id + "/publications/Test/take-back",
                Map.of(),
                back.get("id").asLong());
        assertEquals(get("/api/flows/" + id + "/publications").size(), 0);
        assertEquals(
                send("POST", "/api/flows/" + id + "/runs", Map.of("environment", "Test", "published", true), 0)
                        .status(),
                409);
        assertEquals(
                get("/api/flows/" + id + "/publications/history").get("total").asInt(), 4);
    }

    private int inForceRevision(long flow) {
        return get("/api/flows/" + flow + "/publications")
                .get(0)
                .get("revision")
                .asInt();
    }

    @Test
    public void whatAnEnvironmentLacksIsSaidAndKeepsAFlowFromGoingThereUnlessOneWants() throws Exception {
        long id = flow("Not ready", file -> {}).get("id").asLong();
        String needs = get("/api/flows/" + id + "/readiness?environment=Live&tried=true")
                .toString();
        assertTrue(needs.contains("has no address in Live"), needs);
        String here = get("/api/flows/" + id + "/readiness?environment=Test&tried=true")
                .toString();
        assertTrue(here.contains("answers.") && !here.contains("missing"), here);
        Map<String, Object> wanted = Map.of("environment", "Live", "revision", 1);
        assertEquals(
                send("POST", "/api/flows/" + id + "/publications", wanted, 0).status(), 422);
        Map<String, Object> anyway = Map.of("environment", "Live", "revision", 1, "anyway", true);
        assertEquals(
                send("POST", "/api/flows/" + id + "/publications", anyway, 0).status(), 200);
    }

    @Test
    public void aSecretChangesAtItsTime() throws Exception {
        sent("PUT", "/api/secrets/night-key", Map.of("value", "before-midnight", "destinations", List.of()), 0);
        assertEquals(
                send("PUT", "/api/secrets/other-key", Map.of("value", "x-y-z-1-2-3", "from", "2999-01-01T00:00:00Z"), 0)
                        .status(),
                409,
                "there is nothing until then");
        String from = Instant.now().plusSeconds(2).toString();
        JsonNode waits = sent("PUT", "/api/secrets/night-key", Map.of("value", "after-midnight", "from", from), 0);
        assertTrue(waits.hasNonNull("nextFrom"), waits.toString());
        until("the secret has changed", () -> {
            for (JsonNode each : get("/api/secrets")) {
                if (each.get("name").asText().equals("night-key")) {
                    return !each.hasNonNull("nextFrom");
                }
            }
            return false;
        });
    }

    @Test
    public void fillsSendAnotherSecretInAnEnvironmentWhereOneStandsForIt() throws Exception {
        List<String> got = new CopyOnWriteArrayList<>();
        HttpServer desk = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        desk.createContext("/", exchange -> {
            got.add(exchange.getRequestHeaders().getFirst("X-Desk") + " "
                    + new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8));
            exchange.sendResponseHeaders(503, -1);
            exchange.close();
        });
        desk.start();
        try {
            String place = "127.0.0.1:" + desk.getAddress().getPort();
            client.post("/api/allowed-hosts", Map.of("host", place));
            List<String> there = List.of(place);
            sent("PUT", "/api/secrets/licence", Map.of("value", "licence-of-the-test", "destinations", there), 0);
            sent("PUT", "/api/secrets/licence2", Map.of("value", "licence-of-the-night", "destinations", there), 0);
            Map<String, Object> settings = Map.of("headers", List.of(Map.of("name", "X-Desk", "secret", "licence")));
            long id = client.put("/api/endpoints", Map.of("name", "Licensed", "addresses", Map.of()))
                    .get("id")
                    .asLong();
            client.put(
                    "/api/endpoints/" + id + "/environments/Test",
                    Map.of("address", "http://" + place, "settings", settings));
            JsonNode flow = small("Licensed", "licensed in", loans(loan("S-9", "RG-10696")), file -> {
                ObjectNode call = (ObjectNode) file.get("stages").get(1);
                call.put("endpoint", "Licensed");
                ObjectNode fill = (ObjectNode) call.get("fills").get(1);
                fill.remove("constant");
                fill.put("secret", "licence");
            });
            standsIn("secrets", Map.of("licence", "nobody"), 400);
            standsIn("secrets", Map.of("licence", "licence2"), 200);
            finished(run(flow, 0));
            String last = got.get(got.size() - 1);
            assertTrue(last.contains("licence-of-the-night"), "the fill sends the other one: " + last);
            assertTrue(last.startsWith("licence-of-the-test "), "the endpoint's settings name their own: " + last);
            assertEquals(send("DELETE", "/api/secrets/licence2", null, 0).status(), 409, "it stands for the other one");
            standsIn("secrets", Map.of(), 200);
            finished(run(flow, 0));
            assertTrue(!got.get(got.size() - 1).contains("night"), got.toString());
        } finally {
            desk.stop(0);
        }
    }

    @Test
    public void aBundleGoesToAnotherInstallationWithTheSameComparison() throws Exception {
        JsonNode flow = flow("Carried over", file -> {});
        long id = flow.get("id").asLong();
        byte[] bundle = client.send("GET", "/api/flows/" + id + "/bundle?environment=Test", null, Map.of())
                .body();
        JsonNode same = client.upload("/api/bundles/comparison", "file", Map.of("b.zip", bundle));
        assertEquals(same.get("stages").size() + same.get("uses").size(), 0, same.toString());
        ObjectNode file = flow.get("file").deepCopy();
        delivery(file, "atOnce", 2);
        sent("PUT", "/api/flows/" + id, file, 1);
        JsonNode differs = client.upload("/api/bundles/comparison", "file", Map.of("b.zip", bundle));
        assertEquals(differs.get("stages").get(0).get("what").asText(), "delivery/atOnce");
        assertEquals(differs.get("stages").get(0).get("before").asText(), "2");
        JsonNode taken = client.upload("/api/bundles", "file", Map.of("b.zip", bundle));
        assertEquals(taken.get("revision").asInt(), 3);
        assertEquals(get("/api/flows/" + id).get("file"), flow.get("file"));
        client.send("DELETE", "/api/flows/" + id, null, Map.of());
        JsonNode gone = client.upload("/api/bundles/comparison", "file", Map.of("b.zip", bundle));
        assertEquals(gone.path("flowId").isMissingNode(), true, gone.toString());
        assertTrue(client.upload("/api/bundles", "file", Map.of("b.zip", bundle))
                        .get("flowId")
                        .asLong()
                > id);
        assertEquals(
                client.uploading("/api/bundles", "file", Map.of("b.zip", "no zip".getBytes()))
                        .status(),
                422);
    }
}
