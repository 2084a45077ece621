package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNotEquals;
import static org.testng.Assert.assertTrue;
import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.URI;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.stream.IntStream;
import org.testng.annotations.AfterMethod;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.demo.ProductClient;

/** The ways callers ask: once more, later, by other documents, from pages, too often. */
public class CallerWaysApiTest extends CallersFixture {
    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx256m", Map.of());
    }

    @AfterMethod(alwaysRun = true)
    public void quick() {
        world.registerKnobs().latencyMillis = 0;
    }

    private JsonNode register(String name) throws Exception {
        return offered("LookUpInstitution", "Institution Register", name);
    }

    private HttpResponse<String> named(JsonNode of, String name, String body) throws Exception {
        return sent(to(of).header("Idempotency-Key", name)
                .POST(HttpRequest.BodyPublishers.ofString(body))
                .build());
    }

    private HttpResponse<String> asked(JsonNode of, String path) throws Exception {
        return sent(HttpRequest.newBuilder(URI.create(product.address() + path))
                .header("X-Api-Key", of.get("key").asText())
                .build());
    }

    private static String header(HttpResponse<String> answer, String name) {
        return answer.headers().firstValue(name).orElse("");
    }

    @Test
    public void theSameKeyAndBodyGetTheSameAnswerAndAnotherBodyIsRefused() throws Exception {
        JsonNode its = register("Asked once more");
        HttpResponse<String> first = named(its, "morning-1", KNOWN);
        assertEquals(first.statusCode(), 200, first.body());
        HttpResponse<String> again = named(its, "morning-1", KNOWN.replace(" ", ""));
        assertEquals(again.statusCode(), 200, again.body());
        assertEquals(again.body(), first.body());
        assertEquals(header(again, "Wire-Kettle-Record"), header(first, "Wire-Kettle-Record"));
        assertEquals(header(again, "Wire-Kettle-Again"), "true");
        HttpResponse<String> other = named(its, "morning-1", KNOWN.replace("DESK", "FRONT"));
        assertEquals(other.statusCode(), 409);
        assertEquals(json(other).get("code").asText(), "another-body");
        assertNotEquals(
                header(named(its, "morning-2", KNOWN), "Wire-Kettle-Record"), header(first, "Wire-Kettle-Record"));
        assertEquals(named(its, "two words", KNOWN).statusCode(), 400);

        // a fault is an answer, too
        String unknown = KNOWN.replace("10696", "99999");
        assertEquals(named(its, "morning-3", unknown).statusCode(), 422);
        assertEquals(header(named(its, "morning-3", unknown), "Wire-Kettle-Again"), "true");

        // two at once: one is worked on
        world.registerKnobs().latencyMillis = 600;
        List<CompletableFuture<HttpResponse<String>>> both = IntStream.range(0, 2)
                .mapToObj(i -> HTTP.sendAsync(
                        to(its).header("Idempotency-Key", "morning-4")
                                .POST(HttpRequest.BodyPublishers.ofString(KNOWN))
                                .build(),
                        HttpResponse.BodyHandlers.ofString()))
                .toList();
        List<Integer> statuses =
                both.stream().map(each -> each.join().statusCode()).sorted().toList();
        assertEquals(statuses, List.of(200, 409));
        assertEquals(named(its, "morning-4", KNOWN).statusCode(), 200);
    }

    @Test
    public void whatCouldNotBeDoneJustNowMayBeSentAgainUnderItsKey() throws Exception {
        JsonNode its = register("Asked while away");
        String gone;
        try (ServerSocket port = new ServerSocket(0, 1, InetAddress.getByName("127.0.0.1"))) {
            gone = "127.0.0.1:" + port.getLocalPort();
        }
        client.post("/api/allowed-hosts", Map.of("host", gone));
        reachedAt("http://" + gone + "/");
        try {
            until("it is away", () -> {
                try {
                    return post(its, KNOWN).statusCode() == 503;
                } catch (Exception e) {
                    throw new AssertionError(e);
                }
            });
            HttpResponse<String> away = named(its, "later-1", KNOWN);
            assertEquals(away.statusCode(), 503, away.body());
            assertEquals(header(away, "Retry-After"), "1");
        } finally {
            reachedAt(world.address("register"));
        }
        until("the endpoint is reached where it is now", () -> {
            try {
                return named(its, "later-1", KNOWN).statusCode() == 200;
            } catch (Exception e) {
                throw new AssertionError(e);
            }
        });
    }

    private void reachedAt(String address) throws Exception {
        client.put("/api/endpoints", Map.of("name", "Institution Register", "addresses", Map.of("Test", address)));
    }

    @Test
    public void whoDoesNotWaitAsksForTheAnswerLater() throws Exception {
        JsonNode its = register("Asked for later");
        world.registerKnobs().latencyMillis = 1_000;
        HttpResponse<String> taken = sent(to(its).header("Prefer", "respond-async, wait=10")
                .POST(HttpRequest.BodyPublishers.ofString(KNOWN))
                .build());
        assertEquals(taken.statusCode(), 202, taken.body());
        String place = header(taken, "Location");
        assertEquals(json(taken).get("answer").asText(), place);
        HttpResponse<String> going = asked(its, place);
        assertEquals(going.statusCode(), 202, going.body());
        assertEquals(header(going, "Retry-After"), "1");
        until("the answer is there", () -> status(its, place) == 200);
        HttpResponse<String> answer = asked(its, place);
        assertEquals(json(answer).get("registrationNumber").asText(), "RG-10696");
        assertEquals(header(answer, "Wire-Kettle-Record"), header(taken, "Wire-Kettle-Record"));

        // it is nobody else's
        JsonNode other =
                client.post("/api/triggers/" + its.get("trigger").asLong() + "/keys", Map.of("name", "another caller"));
        until(
                "another key",
                () -> status(
                                ((ObjectNode) its.deepCopy())
                                        .put("key", other.get("key").asText()),
                                place)
                        == 404);
        assertEquals(asked(its, place + "x").statusCode(), 404);

        world.registerKnobs().latencyMillis = 0;
        changed(its, Map.of("later", true));
        until("nobody waits any more", () -> {
            try {
                return post(its, KNOWN).statusCode() == 202;
            } catch (Exception e) {
                throw new AssertionError(e);
            }
        });
    }

    private int status(JsonNode of, String path) {
        try {
            return asked(of, path).statusCode();
        } catch (Exception e) {
            throw new AssertionError(e);
        }
    }

    @Test
    public void aFieldMayStandInTheAddressOrInAHeaderAndTheDocumentBeXml() throws Exception {
        JsonNode its = register("Asked by address");
        changed(
                its,
                Map.of(
                        "path",
                        "test/institutions/{registrationNumber}",
                        "get",
                        true,
                        "headers",
                        List.of(Map.of("header", "X-Asks", "field", "requestedBy"))));
        String path = "/serve/test/institutions/RG-10696";
        until("the new path", () -> status(its, path) != 404);
        HttpRequest.Builder asks = HttpRequest.newBuilder(URI.create(product.address() + path))
                .header("X-Api-Key", its.get("key").asText())
                .header("X-Asks", "DESK");
        HttpResponse<String> got = sent(asks.build());
        assertEquals(got.statusCode(), 200, got.body());
        assertEquals(json(got).get("registrationNumber").asText(), "RG-10696");
        HttpResponse<String> xml = sent(asks.copy()
                .header("Content-Type", "application/xml")
                .POST(HttpRequest.BodyPublishers.ofString("<ask xmlns='urn:halewick:any'/>"))
                .build());
        assertEquals(xml.statusCode(), 200, xml.body());
        HttpResponse<String> wrong = sent(asks.copy()
                .header("Content-Type", "text/xml; charset=utf-8")
                .POST(HttpRequest.BodyPublishers.ofString("<ask><purpos>x</purpos></ask>"))
                .build());
        assertEquals(wrong.statusCode(), 400);
        assertTrue(wrong.body().contains("/purpos"), wrong.body());
        HttpResponse<String> entity = sent(asks.copy()
                .header("Content-Type", "text/xml")
                .POST(HttpRequest.BodyPublishers.ofString(
                        "<!DOCTYPE a [<!ENTITY x SYSTEM 'file:///etc/hostname'>]><ask>&x;</ask>"))
                .build());
        assertEquals(entity.statusCode(), 400);
        assertEquals(json(entity).get("code").asText(), "not-xml");
        HttpResponse<String> latin = sent(asks.copy()
                .header("Content-Type", "application/json; charset=iso-8859-1")
                .POST(HttpRequest.BodyPublishers.ofString("{}"))
                .build());
        assertEquals(json(latin).get("code").asText(), "bad-charset");

        JsonNode document = json(asked(its, path + "/openapi.json"));
        assertEquals(document.get("openapi").asText(), "3.1.0");
        JsonNode methods = document.get("paths").get("/serve/test/institutions/{registrationNumber}");
        assertTrue(methods.has("get") && methods.has("post"), methods.toString());
        List<String> in = methods.get("get").get("parameters").findValuesAsText("in");
        assertEquals(in.subList(0, 3), List.of("path", "header", "query"));
        JsonNode input = document.at("/components/schemas/Input/properties");
        assertFalse(input.has("registrationNumber") || input.has("requestedBy"), input.toString());
        JsonNode answer = document.at("/components/schemas/Answer/properties");
        assertEquals(answer.at("/insuredLimit/type").asText(), "number", answer.toString());
        assertEquals(client.get("/api/triggers/" + its.get("trigger").asLong() + "/openapi"), document);
        var taken = client.send(
                "POST",
                "/api/flows/" + its.get("flow").asLong() + "/triggers",
                Map.of("environment", "Test", "kind", "http", "spec", Map.of("path", "test/institutions/{another}")),
                Map.of());
        assertEquals(taken.status(), 409, taken.text());
    }

    @Test
    public void anAnswerHasHeadersOfItsOwn() throws Exception {
        JsonNode its = register("Answered with headers");
        long id = its.get("flow").asLong();
        JsonNode flow = client.get("/api/flows/" + id);
        ObjectNode file = flow.get("file").deepCopy();
        stage(file, "answer")
                .putArray("headers")
                .addObject()
                .put("name", "X-Register")
                .put("value", "$input/registrationNumber");
        var saved = client.send("PUT", "/api/flows/" + id, file, Map.of("If-Match", "\"1\""));
        assertEquals(saved.status(), 200, saved.text());
        long inForce = client.get("/api/flows/" + id + "/publications")
                .get(0)
                .get("id")
                .asLong();
        var published = client.send(
                "POST",
                "/api/flows/" + id + "/publications",
                Map.of("environment", "Test", "revision", 2),
                Map.of("If-Match", "\"" + inForce + "\""));
        assertEquals(published.status(), 200, published.text());
        until("the new revision answers", () -> {
            try {
                return header(post(its, KNOWN), "X-Register").equals("RG-10696");
            } catch (Exception e) {
                throw new AssertionError(e);
            }
        });
    }

    @Test
    public void aKeyIsGoodForSoManyRequestsAMinute() throws Exception {
        JsonNode its = register("Asked too often");
        String keys = "/api/triggers/" + its.get("trigger").asLong() + "/keys";
        JsonNode made = client.post(keys, Map.of("name", "the eager", "aMinute", 2));
        ObjectNode eager = its.deepCopy();
        eager.put("key", made.get("key").asText());
        assertEquals(post(eager, "{}").statusCode(), 400, "it counts at once");
        assertEquals(post(eager, "{}").statusCode(), 400);
        HttpResponse<String> much = post(eager, KNOWN);
        assertEquals(much.statusCode(), 429, much.body());
        assertTrue(Integer.parseInt(header(much, "Retry-After")) > 1, header(much, "Retry-After"));
        assertEquals(post(its, KNOWN).statusCode(), 200, "others are not held back");
        assertEquals(
                client.send("POST", keys, Map.of("name", "none", "aMinute", 0), Map.of())
                        .status(),
                400);
        var more = client.send(
                "PUT", keys + "/" + made.get("id").asLong(), Map.of("name", "the eager", "aMinute", 60_000), Map.of());
        assertEquals(more.status() / 100, 2, more.text());
        until("it is good for more", () -> {
            try {
                return post(eager, KNOWN).statusCode() == 200;
            } catch (Exception e) {
                throw new AssertionError(e);
            }
        });
    }

    @Test
    public void anAnswerToGetIsGivenAgainForAWhile() throws Exception {
        JsonNode its = register("Asked from memory");
        String path = its.get("path").asText() + "?registrationNumber=RG-10696&requestedBy=";
        assertEquals(header(asked(its, path + "A"), "Age"), "");
        assertEquals(header(asked(its, path + "A"), "Cache-Control"), "no-store");
        changed(its, Map.of("memorySeconds", 60));
        until("it is remembered", () -> {
            try {
                return header(asked(its, path + "B"), "Cache-Control").contains("max-age=60");
            } catch (Exception e) {
                throw new AssertionError(e);
            }
        });
        HttpResponse<String> first = asked(its, path + "C");
        HttpResponse<String> again = asked(its, path + "C");
        assertEquals(again.body(), first.body());
        assertEquals(header(again, "Wire-Kettle-Record"), header(first, "Wire-Kettle-Record"));
        assertFalse(header(again, "Age").isEmpty());
        assertNotEquals(header(asked(its, path + "D"), "Wire-Kettle-Record"), header(first, "Wire-Kettle-Record"));
    }

    @Test
    public void aPageOfAnotherOriginMayAskOnlyWhereItIsNamed() throws Exception {
        JsonNode its = register("Asked by a page");
        HttpRequest.Builder preflight = HttpRequest.newBuilder(
                        URI.create(product.address() + its.get("path").asText()))
                .method("OPTIONS", HttpRequest.BodyPublishers.noBody())
                .header("Access-Control-Request-Method", "POST")
                .header("Origin", "https://desk.halewick.example");
        assertEquals(header(sent(preflight.build()), "Access-Control-Allow-Origin"), "");
        changed(its, Map.of("origins", List.of("https://desk.halewick.example")));
        until("the origin is known", () -> {
            try {
                return sent(preflight.build())
                        .headers()
                        .firstValue("Access-Control-Allow-Origin")
                        .isPresent();
            } catch (Exception e) {
                throw new AssertionError(e);
            }
        });
        assertTrue(
                header(sent(preflight.build()), "Access-Control-Allow-Headers").contains("X-Api-Key"));
        HttpResponse<String> answer = sent(to(its).header("Origin", "https://desk.halewick.example")
                .POST(HttpRequest.BodyPublishers.ofString(KNOWN))
                .build());
        assertEquals(header(answer, "Access-Control-Allow-Origin"), "https://desk.halewick.example");
        HttpResponse<String> other = sent(to(its).header("Origin", "https://elsewhere.example")
                .POST(HttpRequest.BodyPublishers.ofString(KNOWN))
                .build());
        assertEquals(header(other, "Access-Control-Allow-Origin"), "");
        assertEquals(header(other, "Vary"), "Origin");
    }

    @Test
    public void whatWasAskedIsSeenByMinutesStatusesAndCallers() throws Exception {
        JsonNode its = register("Seen");
        for (int i = 0; i < 5; i++) {
            assertEquals(post(its, KNOWN).statusCode(), 200);
        }
        assertEquals(post(its, "{}").statusCode(), 400);
        ObjectNode stranger = its.deepCopy();
        assertEquals(post(stranger.put("key", "nobody's"), KNOWN).statusCode(), 401);
        String path = "/api/triggers/" + its.get("trigger").asLong() + "/traffic";
        until("all are counted", () -> seen(path).get("requests").asInt() == 7);
        JsonNode seen = seen(path + "?minutes=1440");
        assertEquals(seen.get("failed").asInt(), 2);
        assertEquals(seen.get("statuses").get(0).get("status").asInt(), 200);
        assertEquals(seen.get("statuses").get(0).get("requests").asInt(), 5);
        assertEquals(seen.get("callers").get(0).get("caller").asText(), "first");
        assertEquals(seen.get("callers").get(0).get("requests").asInt(), 6);
        assertEquals(seen.get("callers").get(1).get("caller").asText(), "");
        assertTrue(seen.get("median").asDouble() > 0, seen.toString());
        assertTrue(seen.get("nearlyAll").asDouble() >= seen.get("most").asDouble(), seen.toString());
        assertEquals(client.send("GET", path + "?minutes=0", null, Map.of()).status(), 400);
        JsonNode keys = client.get("/api/triggers/" + its.get("trigger").asLong() + "/keys");
        assertTrue(keys.get(0).hasNonNull("usedAt"), keys.toString());
    }

    @Test
    public void aRunOfCallersIsEndedAndTheNextCallerBeginsAnother() throws Exception {
        JsonNode its = register("Ended by a person");
        String run = header(post(its, KNOWN), "Wire-Kettle-Record").replaceFirst("/.*", "");
        assertEquals(
                client.send("POST", "/api/runs/" + run + "/finish", null, Map.of())
                        .status(),
                200);
        until(
                "it is done",
                () -> seen("/api/runs/" + run).get("run").get("state").asText().equals("done"));
        HttpResponse<String> next = post(its, KNOWN);
        assertEquals(next.statusCode(), 200, next.body());
        assertNotEquals(header(next, "Wire-Kettle-Record").replaceFirst("/.*", ""), run);
        var again = client.send("POST", "/api/runs/" + run + "/finish", null, Map.of());
        assertEquals(again.json().get("code").asText(), "not-running");
        long other = client.get("/api/runs?size=100").get("items").findValues("id").stream()
                .mapToLong(JsonNode::asLong)
                .min()
                .orElseThrow();
        var byHand = client.send("POST", "/api/runs/" + other + "/finish", null, Map.of());
        assertEquals(byHand.json().get("code").asText(), "not-of-callers");
    }

    private JsonNode seen(String path) {
        try {
            return client.get(path);
        } catch (java.io.IOException e) {
            throw new AssertionError(e);
        }
    }

    private int status(String path) {
        try {
            return client.send("GET", path, null, Map.of()).status();
        } catch (IOException e) {
            throw new AssertionError(e);
        }
    }

    private JsonNode page(JsonNode of, Map<String, Object> page) throws Exception {
        changed(of, Map.of("page", page));
        String trigger = "/api/ask-pages/" + of.get("trigger").asLong();
        until("the page is there", () -> status(trigger) == 200);
        return client.get(trigger);
    }

    @Test
    public void peopleAskOnAPageOfTheirOwn() throws Exception {
        JsonNode its = register("Asked on a page");
        List<Map<String, Object>> fields = List.of(
                Map.of(
                        "name",
                        "registrationNumber",
                        "label",
                        "Registration number",
                        "help",
                        "as in RG-10696",
                        "dataset",
                        "loans",
                        "column",
                        "institution_no",
                        "shown",
                        "borrower"),
                Map.of("name", "requestedBy", "preset", "DESK", "hidden", true));
        JsonNode page = page(its, Map.of("title", "Who is it?", "fields", fields));
        assertEquals(page.get("title").asText(), "Who is it?");
        JsonNode first = page.get("fields").get(0);
        assertEquals(first.get("label").asText(), "Registration number");
        assertTrue(first.get("required").asBoolean());
        assertTrue(first.get("picks").toString().contains("RG-10696 – "), first.toString());
        assertTrue(page.get("fields").get(1).get("hidden").asBoolean());
        assertTrue(page.get("answer").toString().contains("address/city"), page.toString());
        assertTrue(get("/api/ask-pages?q=who%20is").get("items").toString().contains("Who is it?"));
        assertEquals(get("/api/ask-pages?q=nobody").get("total").asInt(), 0);

        // who is signed in asks as themselves, and it is a record like any
        String records = "/api/ask-pages/" + its.get("trigger").asLong() + "/records";
        ProductClient.Answer answer = client.send("POST", records, JSON.readTree(KNOWN), Map.of());
        assertEquals(answer.status(), 200, answer.text());
        assertEquals(answer.json().get("registrationNumber").asText(), "RG-10696");
        ProductClient.Answer wrong = client.send("POST", records, Map.of("registrationNumber", 7), Map.of());
        assertEquals(wrong.status(), 400);
        assertTrue(wrong.text().contains("/registrationNumber") && wrong.text().contains("/requestedBy"));
        until("it is counted", () -> get("/api/triggers/" + its.get("trigger").asLong() + "/traffic?minutes=60")
                .toString()
                .contains("\"caller\":\"ada\""));

        // who has a link asks by its key
        assertEquals(
                json(asked(its, its.get("path").asText() + "/page"))
                        .get("title")
                        .asText(),
                "Who is it?");
        HttpResponse<String> stranger = sent(HttpRequest.newBuilder(
                        URI.create(product.address() + its.get("path").asText() + "/page"))
                .build());
        assertEquals(stranger.statusCode(), 401);
        client.post("/api/people", Map.of("name", "looker-on", "password", "only-looks-1", "rights", Map.of()));
        ProductClient onlyLooks = new ProductClient(product.address());
        onlyLooks.signIn("looker-on", "only-looks-1");
        assertEquals(onlyLooks.get("/api/ask-pages").get("total").asInt(), 0);
        assertEquals(
                onlyLooks.send("POST", records, JSON.readTree(KNOWN), Map.of()).status(), 403);
    }

    @Test
    public void aPageThatCannotBeIsRefused() throws Exception {
        JsonNode its = register("No page");
        Object[][] wrong = {
            {Map.of("fields", List.of(Map.of("name", "purpose", "codes", "nowhere"))), 400, "no-codes"},
            {Map.of("fields", List.of(Map.of("name", "purpose", "dataset", "nowhere"))), 422, "no-dataset"},
            {Map.of("fields", List.of(Map.of("name", "purpose", "dataset", "loans", "column", "x"))), 400, "no-column"},
            {Map.of("title", "t".repeat(201)), 400, "too-long"},
        };
        for (Object[] each : wrong) {
            ProductClient.Answer answer = client.send(
                    "PUT",
                    "/api/triggers/" + its.get("trigger").asLong(),
                    Map.of("spec", Map.of("path", "test/no-page", "page", each[0])),
                    Map.of("If-Match", "\"1\""));
            assertEquals(answer.status(), each[1], answer.text());
            assertEquals(answer.json().get("code").asText(), each[2]);
        }
        JsonNode deep = offered("BookTransport", "Vanline Desk", "A page of levels");
        changed(deep, Map.of("page", Map.of("title", "Book")));
        String page = "/api/ask-pages/" + deep.get("trigger").asLong();
        until("it is told", () -> status(page) == 409);
        assertEquals(client.send("GET", page, null, Map.of()).json().get("code").asText(), "not-flat");
        assertEquals(asked(deep, deep.get("path").asText() + "/page").statusCode(), 409);
    }
}
