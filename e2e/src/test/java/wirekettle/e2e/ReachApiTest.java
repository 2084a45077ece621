package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.sql.Connection;
import java.sql.ResultSet;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.demo.DemoLogins;
import wirekettle.demo.ProductClient;

/** What the API promises of endpoints, secrets, simulators and operations over plain HTTP. */
public class ReachApiTest extends SeededApi {
    private Path key;

    @BeforeClass
    public void start() throws Exception {
        key = Files.createTempDirectory("key").resolve("secret.key");
        begin("-Xmx256m", Map.of("WIREKETTLE_SECRET_KEY_FILE", key.toString()));
    }

    private long contract(String name) throws IOException {
        for (JsonNode each : client.get("/api/contracts").get("items")) {
            if (each.get("name").asText().equals(name)) {
                return each.get("id").asLong();
            }
        }
        throw new IOException("no contract " + name);
    }

    private JsonNode called(
            long contract, String port, String operation, String endpoint, String environment, String text)
            throws Exception {
        JsonNode call = client.post(
                "/api/bench/calls",
                Map.of(
                        "contract", contract,
                        "port", port,
                        "operation", operation,
                        "endpoint", endpoint,
                        "environment", environment,
                        "text", text));
        return ended("/api/bench/calls/" + call.get("id").asLong(), null);
    }

    @Test
    public void anOperationOverHttpIsUsedInAFlowLikeAnyOther() throws Exception {
        String call = "{\"format\":1,\"name\":\"Rates of loans\",\"stages\":["
                + "{\"verb\":\"Read\",\"id\":\"read\",\"dataset\":\"loans\",\"as\":\"loan\"},"
                + "{\"verb\":\"Call\",\"id\":\"call\",\"contract\":\"Rates\",\"port\":\"Http\",\"operation\":\"findRate\","
                + "\"endpoint\":\"Rates\",\"as\":\"rate\",\"fills\":["
                + "{\"id\":\"a\",\"target\":\"/findRate/from\",\"constant\":\"NOR\"},"
                + "{\"id\":\"b\",\"target\":\"/findRate/to\",\"constant\":\"ISL\"},"
                + "{\"id\":\"c\",\"target\":\"/findRate/kilograms\",\"constant\":\"10\"}],"
                + "\"delivery\":{\"effect\":\"reads\",\"keep\":\"all\"}},"
                + "{\"verb\":\"Write\",\"id\":\"write\",\"dataset\":\"rates\",\"mode\":\"replace\",\"rows\":\"\","
                + "\"columns\":[{\"name\":\"total\",\"label\":\"total\",\"type\":\"decimal\",\"required\":true}],"
                + "\"fills\":[{\"id\":\"w\",\"target\":\"total\",\"wire\":\"$rate/total\"}]}]}";
        client.post("/api/datasets", Map.of("name", "rates", "kind", "csv"));
        JsonNode file = new ObjectMapper().readTree(call);
        JsonNode flow = client.post("/api/flows", Map.of("name", "Rates of loans", "file", file));
        String at = "/api/flows/" + flow.get("id").asLong();
        Map<String, Object> asked = Map.of("file", file, "stage", "call", "record", 1, "environment", "Test");
        String preview = client.post(at + "/preview", asked).toString();
        assertTrue(preview.contains("/rates/NOR/ISL?kilograms=10"), preview);
        assertTrue(client.post(at + "/sample-call", asked).toString().contains("perKilogram"));
        long run = client.post(at + "/runs", Map.of("environment", "Test", "limit", 3))
                .get("id")
                .asLong();
        assertEquals(ended("/api/runs/" + run, "run").get("done").asInt(), 3);
        String results = client.send("GET", "/api/runs/" + run + "/results", null, Map.of())
                .text();
        assertEquals(results.lines().skip(1).toList(), List.of("41", "41", "41"), results);

        // what the bench brought back becomes the sample reply of a record
        JsonNode other =
                called(contract("Rates"), "Http", "findRate", "Rates", "Test", "GET /rates/NOR/VEL?kilograms=100");
        client.post(at + "/kept-replies", Map.of("call", other.get("id").asLong(), "record", 2));
        String second = client.post(
                        at + "/preview", Map.of("file", file, "stage", "write", "record", 2, "environment", "Test"))
                .toString();
        assertTrue(second.contains("235"), second);

        // and what the run kept teaches the simulator, which then answers so
        client.post("/api/simulator-lessons", Map.of("run", run, "record", 1));
        JsonNode simulated =
                called(contract("Rates"), "Http", "findRate", "Rates", "Simulator", "GET /rates/NOR/ISL?kilograms=10");
        assertTrue(simulated.get("reply").asText().contains("\"total\":41"), simulated.toString());
    }

    @Test
    public void secretsAreSealedWithAKeyOutsideTheDatabase() throws Exception {
        assertEquals(PosixFilePermissions.toString(Files.getPosixFilePermissions(key)), "rw-------");
        assertEquals(Base64.getDecoder().decode(Files.readString(key).strip()).length, 32);
        List<String> destinations = List.of(world.ports().address("register-token"));
        client.put("/api/secrets/sealed%20one", Map.of("value", DemoLogins.PASSWORD, "destinations", destinations));
        byte[] first = sealed();
        client.put("/api/secrets/sealed%20one", Map.of("value", DemoLogins.PASSWORD));
        assertFalse(java.util.Arrays.equals(first, sealed()), "the same value is never sealed the same way twice");
        assertEquals(first.length, 12 + DemoLogins.PASSWORD.getBytes(StandardCharsets.UTF_8).length + 16);
        long id =
                client.put("/api/endpoints", Map.of("name", "Sealed")).get("id").asLong();
        Map<String, Object> trial = Map.of(
                "address", world.ports().address("register-token"),
                "settings", Map.of("login", Map.of("kind", "bearer", "secret", "sealed one")));
        assertEquals(
                client.send("POST", "/api/endpoints/" + id + "/test", trial, Map.of())
                        .status(),
                200);
        // tampered with, it is told and never used
        try (Connection database = product.admin(product.database());
                var change = database.prepareStatement("update secret set sealed = ? where name = 'sealed one'")) {
            first[20] ^= 1;
            change.setBytes(1, first);
            change.executeUpdate();
        }
        client.put("/api/secrets/another", Map.of("value", "so that it is read again"));
        ProductClient.Answer refused = client.send("POST", "/api/endpoints/" + id + "/test", trial, Map.of());
        assertEquals(refused.status(), 422);
        assertTrue(refused.text().contains("was encrypted with another key"), refused.text());
    }

    private byte[] sealed() throws Exception {
        try (Connection database = product.admin(product.database());
                var select = database.createStatement();
                ResultSet rows = select.executeQuery("select sealed from secret where name = 'sealed one'")) {
            rows.next();
            return rows.getBytes(1);
        }
    }

    @Test
    public void rulesAndSettingsThatCannotWorkAreRefusedWithTheReason() throws Exception {
        JsonNode made =
                client.post("/api/simulators", Map.of("contract", contract("Vanline Desk"), "name", "Wrong rules"));
        String at = "/api/simulators/" + made.get("id").asLong();
        Map<String, Object> rule = Map.of(
                "operation",
                "TrackTransport",
                "matches",
                List.of(Map.of("field", "/nowhere", "value", "x")),
                "fills",
                List.of(Map.of("id", "a", "target", "/nothing", "constant", "y")),
                "delayMillis",
                -1);
        ProductClient.Answer refused = client.send(
                "PUT",
                at,
                Map.of("name", "Wrong rules", "running", true, "rules", List.of(rule, Map.of("operation", "No"))),
                Map.of());
        assertEquals(refused.status(), 422);
        for (String said : List.of(
                "no field “/nowhere”",
                "no field “/nothing”",
                "a delay is 0",
                "Rule 2: the contract has no operation")) {
            assertTrue(refused.text().contains(said), refused.text());
        }
        Map<String, Object> same = Map.of("name", "Wrong rules", "running", false, "rules", List.of());
        assertEquals(client.send("PUT", at, same, Map.of("If-Match", "1")).status(), 200);
        assertEquals(client.send("PUT", at, same, Map.of("If-Match", "1")).status(), 409);
        client.send("DELETE", at, null, Map.of());
        long id = client.put("/api/endpoints", Map.of("name", "Wrong settings"))
                .get("id")
                .asLong();
        Map<String, Object> settings = Map.of(
                "proxy", Map.of("address", "no port"),
                "charset", "klingon",
                "headers", List.of(Map.of("name", "Host", "value", "a")),
                "soapHeaders", List.of("<a>"),
                "login", Map.of("kind", "oauth2"),
                "tls", Map.of("trusted", List.of("junk")),
                "security", Map.of("token", "text", "lifetimeSeconds", 0),
                "limits", Map.of("maxMegabytes", 500));
        ProductClient.Answer wrong = client.send(
                "PUT",
                "/api/endpoints/" + id + "/environments/Test",
                Map.of("address", "", "settings", settings),
                Map.of());
        assertEquals(wrong.status(), 422);
        for (String said : List.of(
                "is no proxy",
                "no charset known here",
                "is set by the connection itself",
                "SOAP header block is no XML",
                "The client's id is missing",
                "tokens come from is missing",
                "no certificate in it",
                "needs a user name",
                "lifetime is 1 to",
                "1 to 16 MB")) {
            assertTrue(wrong.text().contains(said), said + " in " + wrong.text());
        }
        client.put(
                "/api/endpoints/" + id + "/environments/Test",
                Map.of(
                        "address",
                        "http://127.0.0.1:1/x",
                        "settings",
                        Map.of("login", Map.of("kind", "bearer", "secret", "never written"))));
        ProductClient.Answer missing = client.send(
                "POST",
                "/api/endpoints/" + id + "/test",
                Map.of(
                        "address",
                        "http://127.0.0.1:1/x",
                        "settings",
                        Map.of("login", Map.of("kind", "bearer", "secret", "never written"))),
                Map.of());
        assertEquals(missing.status(), 422);
        assertTrue(missing.text().contains("There is no secret “never written”"), missing.text());
    }
}
