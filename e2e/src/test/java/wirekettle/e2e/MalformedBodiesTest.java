package wirekettle.e2e;

import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.demo.StartedProduct;

/** Bodies no screen sends: every path that takes JSON tells what is wrong with it, and none breaks. */
public class MalformedBodiesTest {
    private static final ObjectMapper JSON = new ObjectMapper();

    private StartedProduct product;
    private HttpClient http;
    private String cookie;
    private JsonNode document;

    @BeforeClass
    public void start() throws Exception {
        product = new StartedProduct(Path.of(".."), List.of("-Xmx256m"), Map.of());
        document = JSON.readTree(Path.of("../web/openapi.json").toFile());
        http = HttpClient.newBuilder().version(HttpClient.Version.HTTP_1_1).build();
        HttpResponse<String> in =
                send("POST", "/api/sign-in", "{\"name\":\"ada\",\"password\":\"" + product.password() + "\"}");
        cookie = in.headers().firstValue("set-cookie").orElseThrow().split(";")[0];
    }

    @AfterClass(alwaysRun = true)
    public void stop() throws Exception {
        product.close();
    }

    private HttpResponse<String> send(String verb, String path, String body) throws Exception {
        HttpRequest.Builder request = HttpRequest.newBuilder(URI.create(product.address() + path))
                .header("Content-Type", "application/json")
                .header("X-Wire-Kettle", "1")
                .header("If-Match", "\"1\"")
                .method(verb, HttpRequest.BodyPublishers.ofString(body));
        if (cookie != null) {
            request.header("Cookie", cookie);
        }
        return http.send(request.build(), HttpResponse.BodyHandlers.ofString());
    }

    private JsonNode resolved(JsonNode schema) {
        String ref = schema.path("$ref").asText("");
        return ref.isEmpty() ? schema : document.at(ref.substring(1));
    }

    /** A body as its schema describes it, one of its members spoiled in a way. */
    private List<String> bodies(JsonNode given) {
        JsonNode schema = resolved(given);
        List<String> bodies = new ArrayList<>(List.of(
                "",
                "null",
                "[]",
                "{}",
                "{",
                "7",
                "\"x\"",
                "{\"a\":",
                "[{}]",
                "{\"unknown\":1}",
                "\u0000",
                "<a/>",
                "{\"name\":\"" + "n".repeat(1 << 20) + "\"}"));
        ObjectNode whole = JSON.createObjectNode();
        schema.path("properties")
                .properties()
                .forEach(member -> whole.set(member.getKey(), value(member.getValue(), 0)));
        bodies.add(whole.toString());
        schema.path("properties").fieldNames().forEachRemaining(name -> {
            for (String wrong :
                    List.of("null", "7", "\"\"", "[]", "{}", "[null]", "{\"x\":null}", "-1", "\"\\u0000\"")) {
                try {
                    bodies.add(whole.deepCopy().set(name, JSON.readTree(wrong)).toString());
                } catch (java.io.IOException e) {
                    throw new AssertionError(e);
                }
            }
        });
        return bodies;
    }

    private JsonNode value(JsonNode given, int depth) {
        JsonNode schema = resolved(given);
        String type = schema.path("type").isArray()
                ? schema.path("type").get(0).asText()
                : schema.path("type").asText();
        return switch (type) {
            case "integer", "number" -> JSON.getNodeFactory().numberNode(1);
            case "boolean" -> JSON.getNodeFactory().booleanNode(true);
            case "array" -> depth > 3
                    ? JSON.createArrayNode()
                    : JSON.createArrayNode().add(value(schema.path("items"), depth + 1));
            case "object" -> {
                ObjectNode object = JSON.createObjectNode();
                if (depth < 4) {
                    schema.path("properties")
                            .properties()
                            .forEach(m -> object.set(m.getKey(), value(m.getValue(), depth + 1)));
                }
                yield object;
            }
            default -> schema.has("enum")
                    ? schema.get("enum").get(0)
                    : JSON.getNodeFactory().textNode("x");
        };
    }

    @Test
    public void everyMalformedBodyIsToldAndNoneBreaksTheServer() throws Exception {
        List<String> broken = new ArrayList<>();
        int sent = 0;
        for (var path : document.get("paths").properties()) {
            for (var method : path.getValue().properties()) {
                JsonNode json = method.getValue().at("/requestBody/content/application~1json/schema");
                if (json.isMissingNode() || path.getKey().equals("/api/sign-out")) {
                    continue;
                }
                String verb = method.getKey().toUpperCase(Locale.ROOT);
                String address = path.getKey()
                        .replaceAll("\\{environment}", "Test")
                        .replaceAll("\\{name}", "a-name")
                        .replaceAll("(?<=/people/)\\{id}", "999")
                        .replaceAll("\\{[^}]+}", "1");
                for (String body : bodies(json)) {
                    HttpResponse<String> answer = send(verb, address, body);
                    sent++;
                    if (answer.statusCode() >= 500) {
                        broken.add(verb + " " + address + " " + shortened(body) + ": " + answer.body());
                    }
                    if (answer.statusCode() >= 400) {
                        assertTrue(
                                answer.body().contains("\"detail\"")
                                        && answer.body().length() < 20_000,
                                verb + " " + address + " " + shortened(body) + ": HTTP " + answer.statusCode() + " "
                                        + shortened(answer.body()));
                    }
                }
            }
        }
        assertTrue(broken.isEmpty(), broken.size() + " of " + sent + ": " + String.join("\n", broken));
        assertTrue(sent > 500, "sent " + sent);
    }

    private static String shortened(String text) {
        return text.length() > 300 ? text.substring(0, 300) + "…" : text;
    }

    @Test
    public void whatIsMissingIsToldWithItsPlace() throws Exception {
        HttpResponse<String> missing = send("POST", "/api/flows/1/runs", "{}");
        assertTrue(missing.statusCode() == 400 && missing.body().contains("/environment"), missing.body());
        HttpResponse<String> broken = send("POST", "/api/flows", "{\"name\":\n  {\"a\":1}}");
        assertTrue(broken.statusCode() == 400 && broken.body().contains("line 2"), broken.body());
    }
}
