package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.Socket;
import java.net.URI;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.stream.Collectors;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.demo.ProductClient;

/** Operations offered as JSON, and what callers get. */
public class CallersApiTest extends CallersFixture {
    private JsonNode offer;

    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx256m", Map.of());
        offer = offered("LookUpInstitution", "Institution Register", null);
    }

    @Test
    public void anOperationIsOfferedInOneActionAndAnswers() throws Exception {
        assertEquals(offer.get("path").asText(), "/serve/test/look-up-institution");
        HttpResponse<String> answer = post(offer, KNOWN);
        assertEquals(answer.statusCode(), 200, answer.body());
        assertEquals(answer.headers().firstValue("Content-Type").orElse(""), "application/json");
        JsonNode body = json(answer);
        assertEquals(body.get("registrationNumber").asText(), "RG-10696");
        assertTrue(body.get("insuredLimit").isNumber(), answer.body());
        assertTrue(body.get("address").get("city").isTextual(), answer.body());

        // it is a record of a run like any other
        String[] record =
                answer.headers().firstValue("Wire-Kettle-Record").orElse("").split("/");
        JsonNode way = client.get("/api/runs/" + record[0] + "/records/" + record[1]);
        assertEquals(way.get("line").get("ended").asText(), "done", way.toString());
        JsonNode run = client.get("/api/runs/" + record[0]).get("run");
        assertEquals(run.get("state").asText(), "running");
        assertEquals(run.get("begunBy").asText(), "http");
    }

    @Test
    public void aFaultIsAnsweredAsProblemDetails() throws Exception {
        HttpResponse<String> answer = post(offer, "{\"registrationNumber\": \"RG-99999\", \"requestedBy\": \"DESK\"}");
        assertEquals(answer.statusCode(), 422, answer.body());
        assertEquals(answer.headers().firstValue("Content-Type").orElse(""), "application/problem+json");
        assertTrue(json(answer).get("cause").asText().contains("UnknownInstitution"), answer.body());
    }

    @Test
    public void everyWrongValueIsNamed() throws Exception {
        HttpResponse<String> answer = post(offer, "{\"registrationNumber\": 7, \"purpos\": \"loan\"}");
        assertEquals(answer.statusCode(), 400);
        String pointers = json(answer).get("problems").findValuesAsText("pointer").stream()
                .sorted()
                .collect(Collectors.joining(" "));
        assertEquals(pointers, "/purpos /registrationNumber /requestedBy", answer.body());
    }

    @Test
    public void whatIsNoRequestIsAnsweredPlainly() throws Exception {
        assertEquals(post(offer, "{\"registrationNumber\": ").statusCode(), 400);
        assertEquals(post(offer, "[".repeat(100_000)).statusCode(), 400);
        assertEquals(post(offer, "").statusCode(), 400);
        assertEquals(post(offer, "{\"a\": 1, \"a\": 2}").statusCode(), 400);
        assertEquals(post(offer, "\"" + "x".repeat(2_000_000) + "\"").statusCode(), 413);
        HttpRequest none = HttpRequest.newBuilder(
                        URI.create(product.address() + offer.get("path").asText()))
                .POST(HttpRequest.BodyPublishers.ofString(KNOWN))
                .build();
        assertEquals(sent(none).statusCode(), 401);
        assertEquals(sent(to(offer).DELETE().build()).statusCode(), 405);
        HttpRequest plain = HttpRequest.newBuilder(
                        URI.create(product.address() + offer.get("path").asText()))
                .header("Content-Type", "text/plain")
                .header("Authorization", "Bearer " + offer.get("key").asText())
                .POST(HttpRequest.BodyPublishers.ofString("<a/>"))
                .build();
        assertEquals(sent(plain).statusCode(), 415);
        HttpRequest nowhere = HttpRequest.newBuilder(URI.create(product.address() + "/serve/test/nowhere"))
                .POST(HttpRequest.BodyPublishers.ofString("{}"))
                .build();
        assertEquals(sent(nowhere).statusCode(), 404);
        assertEquals(post(offer, KNOWN).statusCode(), 200, "and the server is up");
    }

    /** Nothing is read of strangers; whoever has a key sends so much, and who only connects is in nobody's way. */
    @Test
    public void muchIsSentByManyAndTheServerStaysUp() throws Exception {
        HttpRequest.Builder stranger = HttpRequest.newBuilder(
                        URI.create(product.address() + offer.get("path").asText()))
                .header("Content-Type", "application/json");
        byte[] much = new byte[900_000];
        List<CompletableFuture<Integer>> all = new ArrayList<>();
        for (int i = 0; i < 100; i++) {
            all.add(HTTP.sendAsync(
                            stranger.copy()
                                    .POST(HttpRequest.BodyPublishers.ofByteArray(much))
                                    .build(),
                            HttpResponse.BodyHandlers.discarding())
                    .handle((answer, gone) -> gone == null ? answer.statusCode() : 0));
        }
        Map<Integer, Long> told = all.stream()
                .map(CompletableFuture::join)
                .collect(Collectors.groupingBy(status -> status, Collectors.counting()));
        assertTrue(told.getOrDefault(401, 0L) > 50, "they are told: " + told);
        assertTrue(told.keySet().stream().allMatch(status -> status == 401 || status == 0), "or cut off: " + told);
        assertEquals(client.send("GET", "/q/health/ready", null, Map.of()).status(), 200, "it is ready");

        List<Socket> idle = new ArrayList<>();
        try {
            for (int i = 0; i < 1_000; i++) {
                // an address has 200 connections
                Socket socket = new Socket(
                        InetAddress.getByName("127.0.0.1"),
                        URI.create(product.address()).getPort(),
                        InetAddress.getByName("127.0.0." + (2 + i / 150)),
                        0);
                idle.add(socket);
                socket.getOutputStream().write("POST /serve/test HTTP/1.1\r\nHost: 127".getBytes());
            }
            assertEquals(post(offer, KNOWN).statusCode(), 200, "a thousand that send nothing more");
        } finally {
            for (Socket each : idle) {
                each.close();
            }
        }

        // a gigabyte of which nobody says how much it is
        try (Socket socket =
                new Socket("127.0.0.1", URI.create(product.address()).getPort())) {
            socket.setSoTimeout(20_000);
            OutputStream out = socket.getOutputStream();
            out.write(("POST " + offer.get("path").asText() + " HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Api-Key: "
                            + offer.get("key").asText()
                            + "\r\nContent-Type: application/json\r\nTransfer-Encoding: chunked\r\n\r\n")
                    .getBytes());
            long sent = 0;
            try {
                while (sent < 1_000_000_000L) {
                    out.write("10000\r\n".getBytes());
                    out.write(new byte[0x10000]);
                    out.write("\r\n".getBytes());
                    sent += 0x10000;
                }
                throw new AssertionError("it took a gigabyte");
            } catch (IOException e) {
                assertTrue(sent < 900_000_000L, "it was cut off after " + sent);
            }
        }
        assertEquals(post(offer, KNOWN).statusCode(), 200, "and the server is up");
    }

    @Test
    public void flatRequestsOfReadingOperationsAreAskedByGet() throws Exception {
        HttpRequest get = HttpRequest.newBuilder(URI.create(product.address()
                        + offer.get("path").asText() + "?registrationNumber=RG-10696&requestedBy=DESK"))
                .header("X-Api-Key", offer.get("key").asText())
                .build();
        assertEquals(json(sent(get)).get("registrationNumber").asText(), "RG-10696");
        HttpRequest form = HttpRequest.newBuilder(
                        URI.create(product.address() + offer.get("path").asText()))
                .header("X-Api-Key", offer.get("key").asText())
                .header("Content-Type", "application/x-www-form-urlencoded")
                .POST(HttpRequest.BodyPublishers.ofString("registrationNumber=RG-10696&requestedBy=DESK"))
                .build();
        assertEquals(sent(form).statusCode(), 200);
    }

    @Test
    public void listsGoInAndComeOut() throws Exception {
        JsonNode book = offered("BookTransport", "Vanline Desk", "Book a transport");
        String loan =
                """
                {"BookingHeader": {"desk": "HC07"}, "loanReference": "HC-20481",
                 "collectFrom": {"name": "Halewick Crating", "street": ["Quay 4"], "city": "Halewick", "country": "NV"},
                 "deliverTo": {"name": "Fenmoor Lace Archive", "street": ["3 Quay Lane"], "city": "Fenmoor",
                               "country": "NV"},
                 "collectOn": "2026-12-09", "deliverWithinDays": 4,
                 "crate": [{"number": "HC-20481-1", "grossKilograms": 73.5}, {"number": "HC-20481-2", "grossKilograms": 12}]}
                """;
        HttpResponse<String> answer = post(book, loan);
        assertEquals(answer.statusCode(), 200, answer.body());
        assertTrue(json(answer).get("crate").isArray(), answer.body());
    }

    @Test
    public void aKeyThatIsRemovedOrEndedCountsNoMore() throws Exception {
        JsonNode its = offered("LookUpInstitution", "Institution Register", "Looked up by keys");
        String keys = "/api/triggers/" + its.get("trigger").asLong() + "/keys";
        JsonNode ended = client.post(keys, Map.of("name", "ended", "endsAt", "2020-01-01T00:00:00Z"));
        JsonNode other = client.post(keys, Map.of("name", "partner"));
        ObjectNode by = its.deepCopy();
        until("the new key counts", () -> status(by.put("key", other.get("key").asText())) == 200);
        assertEquals(post(by.put("key", ended.get("key").asText()), KNOWN).statusCode(), 401);
        assertTrue(!client.get(keys).toString().contains(other.get("key").asText()), "it is told once");
        client.send("DELETE", keys + "/" + other.get("id").asLong(), null, Map.of());
        until("it counts no more", () -> status(by.put("key", other.get("key").asText())) == 401);
    }

    private int status(JsonNode of) {
        try {
            return post(of, KNOWN).statusCode();
        } catch (Exception e) {
            throw new AssertionError(e);
        }
    }

    @Test
    public void anotherRevisionAnswersOnceItIsInForce() throws Exception {
        JsonNode its = offered("LookUpInstitution", "Institution Register", "Looked up anew");
        long flow = its.get("flow").asLong();
        assertEquals(post(its, KNOWN).statusCode(), 200);
        ObjectNode file = client.get("/api/flows/" + flow).get("file").deepCopy();
        ObjectNode answer = stage(file, "answer");
        answer.put("status", "'201'");
        client.send("PUT", "/api/flows/" + flow, file, Map.of("If-Match", "\"1\""));
        assertEquals(post(its, KNOWN).statusCode(), 200, "what is being edited never answers a caller");
        JsonNode inForce = client.get("/api/flows/" + flow + "/publications").get(0);
        client.send(
                "POST",
                "/api/flows/" + flow + "/publications",
                Map.of("environment", "Test", "revision", 2),
                Map.of("If-Match", "\"" + inForce.get("id").asLong() + "\""));
        until("revision 2 answers", () -> status(its) == 201);
        until("the run of revision 1 is done", () -> {
            JsonNode runs = get("/api/runs?flow=" + flow).get("items");
            return runs.size() == 2 && runs.get(1).get("state").asText().equals("done");
        });
    }

    /** A server that is killed while callers wait: what was taken is in the ledger, with one end each. */
    @Test
    public void whatWasTakenHasAnEndWhereverTheServerIsKilled() throws Exception {
        JsonNode its = offered("LookUpInstitution", "Institution Register", "Looked up and killed");
        assertEquals(post(its, KNOWN).statusCode(), 200);
        world.registerKnobs().latencyMillis = 20;
        List<CompletableFuture<HttpResponse<String>>> all = new ArrayList<>();
        for (int i = 0; i < 150; i++) {
            all.add(HTTP.sendAsync(
                    to(its).POST(HttpRequest.BodyPublishers.ofString(KNOWN)).build(),
                    HttpResponse.BodyHandlers.ofString()));
        }
        all.get(40).join();
        product.kill();
        long answered = all.stream()
                .filter(each -> {
                    try {
                        return each.join().statusCode() == 200;
                    } catch (RuntimeException gone) {
                        return false;
                    }
                })
                .count();
        world.registerKnobs().latencyMillis = 0;
        product.start();
        client = product.client();
        JsonNode row = client.get("/api/runs?flow=" + its.get("flow").asLong())
                .get("items")
                .get(0);
        String path = "/api/runs/" + row.get("id").asLong();
        until(
                "it went on by itself",
                () -> get(path).get("run").get("state").asText().equals("done"));
        JsonNode run = get(path).get("run");
        assertEquals(run.get("ended").asInt(), run.get("read").asInt());
        assertTrue(run.get("done").asInt() >= answered, run + " and answered " + answered);
        assertTrue(run.get("rejected").asInt() > 0, "whose caller is gone and nothing was changed: " + run);
        JsonNode rejected =
                client.get(path + "/records?ended=rejected").get("items").get(0);
        assertTrue(rejected.get("message").asText().contains("the caller is gone"), rejected.toString());
        assertEquals(client.send("POST", path + "/resend", Map.of(), Map.of()).status(), 422, "nobody waits for them");
        assertEquals(client.get(path).get("run").get("resent").asInt(), 0, "and none is picked for it");
        assertEquals(post(its, KNOWN).statusCode(), 200, "and it answers again");
    }

    @Test
    public void callersBeyondTheBoundAreToldToComeLater() throws Exception {
        JsonNode its = offered("LookUpInstitution", "Institution Register", "Looked up by many");
        long trigger = its.get("trigger").asLong();
        ProductClient.Answer changed = client.send(
                "PUT",
                "/api/triggers/" + trigger,
                Map.of(
                        "kind",
                        "http",
                        "spec",
                        Map.of("path", its.get("path").asText().substring(7), "atOnce", 3, "seconds", 1)),
                Map.of("If-Match", "\"1\""));
        assertEquals(changed.status(), 200, changed.text());
        world.registerKnobs().latencyMillis = 1_500;
        List<CompletableFuture<HttpResponse<String>>> all = new ArrayList<>();
        for (int i = 0; i < 8; i++) {
            all.add(HTTP.sendAsync(
                    to(its).POST(HttpRequest.BodyPublishers.ofString(KNOWN)).build(),
                    HttpResponse.BodyHandlers.ofString()));
        }
        Map<Integer, Long> statuses = all.stream()
                .map(CompletableFuture::join)
                .collect(Collectors.groupingBy(HttpResponse::statusCode, Collectors.counting()));
        world.registerKnobs().latencyMillis = 0;
        assertEquals(statuses, Map.of(504, 3L, 503, 5L), "three waited out their time, the others are told at once");
        String runs = "/api/runs?flow=" + its.get("flow").asLong();
        until(
                "the ledger says what became of them",
                () -> get(runs).get("items").get(0).get("done").asInt() == 3);
    }
}
