package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import com.sun.net.httpserver.HttpServer;
import java.net.InetSocketAddress;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.Queue;
import java.util.concurrent.ConcurrentLinkedQueue;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.demo.DemoLogins;
import wirekettle.demo.ProductClient;

/** Ways somebody without the right to it tried to get at a secret, and what became of them. */
public class SecretsTest extends SeededApi {
    private static final String SECRET = "straw and twine 91";
    private static final String LATER = "wax and paper 17 too";

    private HttpServer listener;
    private final Queue<String> heard = new ConcurrentLinkedQueue<>();

    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx512m", Map.of());
        listener = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        listener.createContext("/", exchange -> {
            StringBuilder all = new StringBuilder();
            exchange.getRequestHeaders()
                    .forEach((name, values) -> all.append(name).append(values));
            all.append(new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8));
            heard.add(all.toString());
            // everything that came, in an institution's name
            byte[] reply = ("<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>"
                            + "<LookUpInstitutionResponse xmlns='urn:halewick:register:1'>"
                            + "<registrationNumber>RG-10400</registrationNumber><name>"
                            + all.toString().replace("&", "&amp;").replace("<", "&lt;")
                            + "</name><status>active</status><address><street>a</street><city>b</city>"
                            + "<country>NV</country></address><insuredLimit>5</insuredLimit>"
                            + "</LookUpInstitutionResponse></s:Body></s:Envelope>")
                    .getBytes(StandardCharsets.UTF_8);
            exchange.getResponseHeaders().set("Content-Type", "text/xml");
            exchange.sendResponseHeaders(200, reply.length);
            exchange.getResponseBody().write(reply);
            exchange.close();
        });
        listener.start();
        client.post("/api/allowed-hosts", Map.of("host", "127.0.0.1:" + port()));
    }

    @AfterClass(alwaysRun = true)
    public void stopListening() {
        listener.stop(0);
    }

    private int port() {
        return listener.getAddress().getPort();
    }

    private void secret(String name, String value, String... destinations) throws Exception {
        client.put(
                "/api/secrets/"
                        + URLEncoder.encode(name, StandardCharsets.UTF_8).replace("+", "%20"),
                Map.of("value", value, "destinations", List.of(destinations)));
    }

    private String heard() {
        return String.join("\n", heard);
    }

    @Test
    public void aTestOfAnEndpointSendsASecretOnlyWhereItMayGo() throws Exception {
        secret("only for vanline", "reeds and rope 33", world.address("vanline"));
        long id = client.put("/api/endpoints", Map.of("name", "A listener"))
                .get("id")
                .asLong();
        Map<String, Object> trial = Map.of(
                "address",
                "http://127.0.0.1:" + port() + "/",
                "settings",
                Map.of("login", Map.of("kind", "bearer", "secret", "only for vanline")));
        for (ProductClient.Answer answer : List.of(
                client.send("POST", "/api/endpoints/" + id + "/test", trial, Map.of()),
                client.send("PUT", "/api/endpoints/" + id + "/environments/Test", trial, Map.of()))) {
            assertEquals(answer.status(), 409, answer.text());
            assertEquals(answer.json().get("code").asText(), "secret-elsewhere");
            assertEquals(answer.json().get("destination").asText(), "127.0.0.1:" + port());
        }
        Map<String, Object> proxied = Map.of(
                "address", world.address("vanline"),
                "settings",
                        Map.of(
                                "proxy",
                                Map.of("address", "127.0.0.1:" + port(), "user", "x", "secret", "only for vanline")));
        assertEquals(
                client.send("POST", "/api/endpoints/" + id + "/test", proxied, Map.of())
                        .status(),
                409);
        assertFalse(heard().contains("reeds and rope"), "the listener heard it");
    }

    @Test
    public void aTestReachesOnlyAllowedHostsItsProxyIncluded() throws Exception {
        long id = client.put("/api/endpoints", Map.of("name", "Elsewhere"))
                .get("id")
                .asLong();
        int before = heard.size();
        for (Map<String, Object> trial : List.of(
                Map.<String, Object>of("address", "http://localhost:" + port() + "/", "settings", Map.of()),
                Map.<String, Object>of(
                        "address",
                        world.address("vanline"),
                        "settings",
                        Map.of("proxy", Map.of("address", "localhost:" + port()))))) {
            JsonNode tested = client.post("/api/endpoints/" + id + "/test", trial);
            assertFalse(tested.get("works").asBoolean(), tested.toString());
            assertTrue(tested.toString().contains("not among the allowed hosts"), tested.toString());
        }
        assertEquals(heard.size(), before);
    }

    @Test
    public void aSimulatorGetsAStandInWhateverItsRulesSpellOut() throws Exception {
        secret("spelled out", "cork and canvas 58", world.address("vanline"));
        JsonNode flow = copy("Book transports", "Spelled out");
        ObjectNode file = (ObjectNode) flow.get("file");
        ObjectNode requestedBy = fill(stage(file, "call"), "requestedBy");
        requestedBy.remove("join");
        requestedBy.put("secret", "spelled out");
        ((ObjectNode) stage(file, "call").get("delivery")).put("keep", "all");
        client.send("PUT", "/api/flows/" + flow.get("id"), file, Map.of("If-Match", "\"1\""));
        JsonNode run =
                client.post("/api/flows/" + flow.get("id") + "/runs", Map.of("environment", "Simulator", "limit", 3));
        ended("/api/runs/" + run.get("id"), "run");
        JsonNode simulators = client.get("/api/simulators").get("items");
        String received = "";
        for (JsonNode each : simulators) {
            received += client.get("/api/simulators/" + each.get("id") + "/requests?size=100");
        }
        assertTrue(received.contains("BookTransport"), received);
        assertFalse(received.contains("cork and canvas"), "the simulator received the secret");
    }

    @Test
    public void whatAServiceEchoesIsMaskedBeforeItIsMapped() throws Exception {
        secret("echoed", SECRET, "127.0.0.1:" + port());
        JsonNode flow = copy("Check borrowing institutions", "Echoed");
        long id = echoing(flow, "Echoing register", "echoed");
        JsonNode run = client.post("/api/flows/" + id + "/runs", Map.of("environment", "Test", "limit", 5));
        JsonNode ended = ended("/api/runs/" + run.get("id"), "run");
        String results = client.send("GET", "/api/runs/" + run.get("id") + "/results", null, Map.of())
                .text();
        assertTrue(heard().contains(SECRET), "the service got it");
        assertFalse(results.contains(SECRET), results);
        assertTrue(results.contains("•••••"), ended + " " + results);
    }

    /** Points the first call of a flow at the listener, with a header that carries a secret. */
    private long echoing(JsonNode flow, String endpoint, String secret) throws Exception {
        long endpointId =
                client.put("/api/endpoints", Map.of("name", endpoint)).get("id").asLong();
        client.put(
                "/api/endpoints/" + endpointId + "/environments/Test",
                Map.of(
                        "address",
                        "http://127.0.0.1:" + port() + "/",
                        "settings",
                        Map.of("headers", List.of(Map.of("name", "X-Pass", "secret", secret)))));
        ObjectNode file = (ObjectNode) flow.get("file");
        ObjectNode call = stage(file, "call");
        call.put("endpoint", endpoint);
        ((ObjectNode) call.get("delivery")).put("keep", "all");
        client.send("PUT", "/api/flows/" + flow.get("id"), file, Map.of("If-Match", "\"1\""));
        return flow.get("id").asLong();
    }

    @Test
    public void aSecretChangedDuringARunIsHiddenInBothForms() throws Exception {
        secret("changing", SECRET, "127.0.0.1:" + port());
        JsonNode flow = copy("Check borrowing institutions", "Changing");
        long id = echoing(flow, "Changing register", "changing");
        int before = heard.size();
        JsonNode run = client.post("/api/flows/" + id + "/runs", Map.of("environment", "Test"));
        while (heard.size() < before + 5) {
            Thread.onSpinWait();
        }
        secret("changing", LATER, "127.0.0.1:" + port());
        JsonNode ended = ended("/api/runs/" + run.get("id"), "run");
        for (int record = 1; record <= ended.get("ended").asInt(); record++) {
            String way = client.send("GET", "/api/runs/" + run.get("id") + "/records/" + record, null, Map.of())
                    .text();
            assertFalse(way.contains(SECRET) || way.contains(LATER), way);
        }
        String results = client.send("GET", "/api/runs/" + run.get("id") + "/results", null, Map.of())
                .text();
        assertFalse(results.contains(SECRET) || results.contains(LATER), results);
    }

    @Test
    public void aSecretHasAPlaceToGoAndALeastLength() throws Exception {
        assertEquals(
                client.send("PUT", "/api/secrets/short", Map.of("value", "1234567"), Map.of())
                        .status(),
                400);
        ProductClient.Answer bad = client.send(
                "PUT",
                "/api/secrets/placed",
                Map.of("value", "long enough now", "destinations", List.of("no place")),
                Map.of());
        assertEquals(bad.status(), 400, bad.text());
        JsonNode placed = client.put(
                "/api/secrets/placed",
                Map.of("value", "long enough now", "destinations", List.of("https://Register.invalid/x")));
        assertEquals(placed.get("destinations").get(0).asText(), "register.invalid:443");
        client.upload(
                "/api/secrets/a%20key/key",
                "file",
                Map.of("caller.p12", DemoLogins.keyFile("caller.p12")),
                Map.of("password", DemoLogins.KEY_PASSWORD));
        assertTrue(client.get("/api/secrets").toString().contains("\"a key\""));
    }
}
