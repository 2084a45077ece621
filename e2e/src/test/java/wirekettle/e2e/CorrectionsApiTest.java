package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;
import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.sun.net.httpserver.HttpServer;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.CountDownLatch;
import org.testng.annotations.Test;
import wirekettle.demo.ProductClient;

/** In the morning: what is not done is corrected, sent again, discarded or settled, and the sums are right. */
public class CorrectionsApiTest extends DutyRuns {
    private static final String KNOWN = "RG-10696";

    private static String wrongDate(String number) {
        return loan(number, KNOWN).replace("09.12.2026", "31.02.2026");
    }

    private JsonNode run(long id) {
        return get("/api/runs/" + id).get("run");
    }

    private JsonNode correction(long run, long ordinal) {
        for (JsonNode each :
                get("/api/runs/" + run + "/corrections?checked=true&size=100").get("items")) {
            if (each.get("ordinal").asLong() == ordinal) {
                return each;
            }
        }
        throw new AssertionError("record " + ordinal + " does not wait");
    }

    private long failing(String name, String... lines) throws Exception {
        return finished(run(small(name, name.toLowerCase(java.util.Locale.ROOT), loans(lines), file -> {}), 0))
                .get("id")
                .asLong();
    }

    @Test
    public void aCorrectedRecordGoesThroughAndTheOthersStayOpen() throws Exception {
        long id = failing("One by one", wrongDate("K-1"), loan("K-2", KNOWN), wrongDate("K-3"));
        assertEquals(run(id).get("rejected").asInt(), 2);
        JsonNode first = correction(id, 1);
        assertEquals(first.get("blamed").asText(), "collect_on", first.toString());
        assertEquals(first.get("fields").get("collect_on").asText(), "31.02.2026");
        assertEquals(first.get("verdict").get("state").asText(), "wrong");
        String path = "/api/runs/" + id + "/corrections/1";
        JsonNode tried = client.post(path + "/verdict", Map.of("edits", Map.of("collect_on", "28.02.2026")));
        assertEquals(tried.get("state").asText(), "fine", tried.toString());
        JsonNode kept = sent("PUT", path, Map.of("edits", Map.of("collect_on", "28.02.2026")), 0);
        assertEquals(kept.get("version").asInt(), 1);
        ProductClient.Answer late = send("PUT", path, Map.of("edits", Map.of("collect_on", "27.02.2026")), 0);
        assertEquals(late.status(), 409, "two people correct one record");
        assertEquals(late.json().get("theirs").get("edits").get("collect_on").asText(), "28.02.2026");
        assertEquals(
                send("PUT", path, Map.of("edits", Map.of("no_such", "x")), 1).status(), 400);
        JsonNode again = finished(client.post("/api/runs/" + id + "/resend", Map.of("ordinals", List.of(1))));
        assertEquals(again.get("done").asInt(), 1, again.toString());
        assertEquals(get("/api/runs/" + id).get("open").asInt(), 1, "the third waits on");
        assertEquals(send("PUT", path, Map.of("edits", Map.of()), 1).status(), 409, "it was sent again");
        JsonNode way = get("/api/runs/" + id + "/records/1");
        assertEquals(way.get("sentAgainIn").asLong(), again.get("id").asLong());
        assertEquals(way.get("line").get("ended").asText(), "rejected", "a run's ends never change");
        JsonNode found = get("/api/records?key=K-1*").get("items");
        assertEquals(found.size(), 2, found.toString());
        assertEquals(found.get(0).get("ended").asText(), "done");
    }

    @Test
    public void manyAreReplacedTakenFromAFileAndDiscardedWithAReason() throws Exception {
        long id = failing("Many", wrongDate("M-1"), wrongDate("M-2"), wrongDate("M-3"), loan("M-4", KNOWN));
        JsonNode replaced = client.post(
                "/api/runs/" + id + "/corrections/replacement",
                Map.of("field", "collect_on", "find", "31.02.", "replace", "28.02."));
        assertEquals(replaced.get("changed").asInt(), 3);
        String rejects = client.send("GET", "/api/runs/" + id + "/rejects", null, Map.of())
                .text();
        String file = rejects.replace("31.02.2026", "01.03.2026").replaceFirst("(?m)^M-3.*\\R", "")
                + rejects.lines().skip(1).findFirst().orElseThrow().replaceFirst(",1,rejected", ",99,rejected")
                + "\r\n";
        JsonNode taken = client.upload(
                "/api/runs/" + id + "/corrections/file",
                "file",
                Map.of("c.csv", file.getBytes(StandardCharsets.UTF_8)));
        assertEquals(taken.get("changed").asInt(), 2, taken.toString());
        assertEquals(taken.get("missing").asInt(), 1);
        assertEquals(taken.get("unknown").size(), 1);
        assertEquals(correction(id, 1).get("edits").get("collect_on").asText(), "01.03.2026");
        assertEquals(
                send("POST", "/api/runs/" + id + "/settlements", Map.of("what", "discarded", "reason", " "), 0)
                        .status(),
                400);
        client.post(
                "/api/runs/" + id + "/settlements",
                Map.of("what", "discarded", "reason", "the loan was called off", "ordinals", List.of(3)));
        assertEquals(get("/api/runs/" + id).get("open").asInt(), 2);
        assertTrue(get("/api/runs/" + id + "/records/3")
                .get("settlement")
                .toString()
                .contains("called off"));
        JsonNode again = finished(client.post("/api/runs/" + id + "/resend", Map.of()));
        assertEquals(again.get("done").asInt(), 2);
        assertEquals(get("/api/runs/" + id).get("open").asInt(), 0);
        assertEquals(send("POST", "/api/runs/" + id + "/resend", Map.of(), 0).status(), 409);
        JsonNode origin = run(id);
        assertEquals(
                origin.get("rejected").asInt(),
                origin.get("resent").asInt() + origin.get("discarded").asInt(),
                "the sums");
    }

    @Test
    public void recordsGoThroughTheRevisionInForceWhereOneWants() throws Exception {
        JsonNode flow = small("Mended", "mended", loans(wrongDate("R-1")), file -> {});
        long id = finished(run(flow, 0)).get("id").asLong();
        var file = flow.get("file").deepCopy();
        var fills = (com.fasterxml.jackson.databind.node.ArrayNode)
                file.get("stages").get(1).get("fills");
        var date = (com.fasterxml.jackson.databind.node.ObjectNode) fills.get(4);
        date.remove("wire");
        date.remove("format");
        date.put("constant", "2027-01-04");
        JsonNode mended = sent("PUT", "/api/flows/" + flow.get("id").asLong(), file, 1);
        assertEquals(
                send("POST", "/api/runs/" + id + "/resend", Map.of("inForce", true), 0)
                        .status(),
                409);
        publish(mended, "Test");
        assertEquals(get("/api/runs/" + id + "/resendable").get("inForce").asInt(), 2);
        JsonNode again = finished(client.post("/api/runs/" + id + "/resend", Map.of("inForce", true)));
        assertEquals(again.get("flowRevision").asInt(), 2);
        assertEquals(again.get("done").asInt(), 1, again.toString());
    }

    /** A service that never answers: the server is killed while four calls wait, which are in doubt then. */
    @Test
    public void whatIsInDoubtIsSettledByHandAndSentOnlyWhenItIsNotDone() throws Exception {
        ConcurrentLinkedQueue<String> asked = new ConcurrentLinkedQueue<>();
        CountDownLatch four = new CountDownLatch(4);
        HttpServer silent = HttpServer.create(new InetSocketAddress(InetAddress.getByName("127.0.0.1"), 0), 0);
        silent.setExecutor(java.util.concurrent.Executors.newCachedThreadPool());
        silent.createContext("/", exchange -> {
            asked.add(new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8));
            four.countDown();
            // no answer: the connection stays open until the test is over
        });
        silent.start();
        String address = "http://127.0.0.1:" + silent.getAddress().getPort() + "/";
        try {
            client.post(
                    "/api/allowed-hosts",
                    Map.of("host", "127.0.0.1:" + silent.getAddress().getPort()));
            client.put("/api/endpoints", Map.of("name", "Silent desk", "addresses", Map.of("Test", address)));
            String[] lines = new String[12];
            for (int i = 0; i < lines.length; i++) {
                lines[i] = loan("Q-" + i, KNOWN);
            }
            JsonNode flow = small("Silent", "silent", loans(lines), file -> {
                var call = (com.fasterxml.jackson.databind.node.ObjectNode)
                        file.get("stages").get(1);
                call.put("endpoint", "Silent desk");
                delivery(file).put("effect", "changes").put("atOnce", 4);
            });
            long id = run(flow, 0).get("id").asLong();
            four.await();
            product.kill();
            product.start();
            client = product.client();
            until("it was interrupted", () -> run(id).get("state").asText().equals("interrupted"));
            client.put(
                    "/api/endpoints",
                    Map.of("name", "Silent desk", "addresses", Map.of("Test", world.address("register"))));
            client.post("/api/runs/" + id + "/resume", Map.of());
            until("it has ended", () -> run(id).get("state").asText().equals("done"));
            int doubt = run(id).get("inDoubt").asInt();
            assertTrue(doubt >= 4, run(id).toString());
            assertEquals(run(id).get("done").asInt(), 12 - doubt);
            assertEquals(
                    send("POST", "/api/runs/" + id + "/resend", Map.of(), 0).status(),
                    409,
                    "what is in doubt is not sent");
            JsonNode first = get("/api/runs/" + id + "/records?ended=in-doubt")
                    .get("items")
                    .get(0);
            client.post(
                    "/api/runs/" + id + "/settlements",
                    Map.of(
                            "what",
                            "done",
                            "reason",
                            "seen in their portal",
                            "ordinals",
                            List.of(first.get("ordinal").asLong())));
            client.post(
                    "/api/runs/" + id + "/settlements", Map.of("what", "not-done", "reason", "their log has nothing"));
            assertEquals(get("/api/runs/" + id).get("doubtful").asInt(), 0);
            JsonNode again = finished(client.post("/api/runs/" + id + "/resend", Map.of()));
            assertEquals(again.get("done").asInt(), doubt - 1, again.toString());
            assertEquals(run(id).get("inDoubt").asInt(), doubt, "a run's ends never change");
            assertFalse(asked.isEmpty());
        } finally {
            silent.stop(0);
        }
    }
}
