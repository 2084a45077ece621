package wirekettle.e2e;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.util.Map;
import wirekettle.demo.ProductClient;

/** Operations offered as JSON, and callers that ask them. */
abstract class CallersFixture extends SeededApi {
    static final HttpClient HTTP = HttpClient.newHttpClient();
    static final String KNOWN = "{\"registrationNumber\": \"RG-10696\", \"requestedBy\": \"DESK\"}";

    JsonNode get(String path) {
        try {
            return client.get(path);
        } catch (IOException e) {
            throw new AssertionError(e);
        }
    }

    JsonNode offered(String operation, String contract, String name) throws Exception {
        ObjectNode wanted = JSON.createObjectNode()
                .put("contract", contract)
                .put("operation", operation)
                .put("environment", "Test");
        if (name != null) {
            wanted.put("name", name);
        }
        return client.post("/api/offers", wanted);
    }

    HttpRequest.Builder to(JsonNode of) {
        return HttpRequest.newBuilder(
                        URI.create(product.address() + of.get("path").asText()))
                .header("Content-Type", "application/json")
                .header("X-Api-Key", of.get("key").asText());
    }

    static HttpResponse<String> sent(HttpRequest request) throws Exception {
        return HTTP.send(request, HttpResponse.BodyHandlers.ofString());
    }

    HttpResponse<String> post(JsonNode of, String body) throws Exception {
        return sent(to(of).POST(HttpRequest.BodyPublishers.ofString(body)).build());
    }

    static JsonNode json(HttpResponse<String> answer) throws Exception {
        return JSON.readTree(answer.body());
    }

    /** Changes what an offer's trigger says; its path stays unless it is among them. */
    JsonNode changed(JsonNode of, Map<String, Object> members) throws IOException {
        String path = "/api/triggers/" + of.get("trigger").asLong();
        ObjectNode trigger = JSON.createObjectNode();
        long version = 0;
        for (JsonNode each : client.get(
                        "/api/triggers?size=200&flow=" + of.get("flow").asLong())
                .get("items")) {
            version = each.get("version").asLong();
            ObjectNode spec = each.get("spec").deepCopy();
            spec.setAll((ObjectNode) JSON.valueToTree(members));
            trigger.set("spec", spec);
        }
        ProductClient.Answer answer = client.send("PUT", path, trigger, Map.of("If-Match", "\"" + version + "\""));
        if (answer.status() != 200) {
            throw new IOException(answer.text());
        }
        return answer.json();
    }
}
