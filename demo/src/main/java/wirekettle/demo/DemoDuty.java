package wirekettle.demo;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.util.List;
import java.util.Map;

/** Puts the demo's flows to work: what is in force, what starts it, and who is told. */
final class DemoDuty {
    private static final String NIGHT = "night@halewick.invalid";

    private final ProductClient product;

    DemoDuty(ProductClient product) {
        this.product = product;
    }

    /** Publishes, sets triggers and rules, where there are none yet. */
    void begin() throws IOException {
        if (product.get("/api/triggers").get("total").asInt() > 0) {
            return;
        }
        product.post(
                "/api/working-days",
                Map.of(
                        "name", "Halewick",
                        "weekdaysOff", List.of(6, 7),
                        "datesOff", List.of("2026-12-08", "2026-12-25", "2027-01-01"),
                        "opens", "06:00",
                        "cutOff", "17:30"));
        JsonNode check = flow("Check borrowing institutions");
        JsonNode book = flow("Book loans, whole way");
        JsonNode papers = flow("Clear papers in batches");
        for (JsonNode each : List.of(check, book, papers)) {
            publish(each);
        }
        Map<String, Object> clock =
                Map.of("cron", "30 6 * * mon-fri", "zone", "Europe/Vienna", "days", "Halewick", "missed", true);
        trigger(check, "clock", clock);
        trigger(book, "flow", Map.of("after", check.get("id").asLong(), "onlyDone", false));
        rule(null, "failed", Map.of("mail", List.of(NIGHT)));
        rule(book, "rejected", Map.of("percent", 2, "mail", List.of(NIGHT)));
        rule(
                check,
                "absent",
                Map.of("by", "07:00", "zone", "Europe/Vienna", "days", "Halewick", "mail", List.of(NIGHT)));
    }

    private JsonNode flow(String name) throws IOException {
        for (JsonNode each : product.get("/api/flows?size=100").get("items")) {
            if (each.get("name").asText().equals(name)) {
                return product.get("/api/flows/" + each.get("id").asLong());
            }
        }
        throw new IOException("there is no flow " + name);
    }

    private void publish(JsonNode flow) throws IOException {
        Map<String, Object> wanted = Map.of(
                "environment", "Test", "revision", flow.get("revision").asInt(), "note", "first night", "anyway", true);
        ProductClient.Answer answer = product.send(
                "POST", "/api/flows/" + flow.get("id").asLong() + "/publications", wanted, Map.of("If-Match", "\"0\""));
        if (answer.status() / 100 != 2) {
            throw new IOException("not published: " + answer.text());
        }
    }

    private void trigger(JsonNode flow, String kind, Map<String, Object> spec) throws IOException {
        product.post(
                "/api/flows/" + flow.get("id").asLong() + "/triggers",
                Map.of("environment", "Test", "kind", kind, "spec", spec));
    }

    private void rule(JsonNode flow, String kind, Map<String, Object> spec) throws IOException {
        ObjectNode wanted = new com.fasterxml.jackson.databind.ObjectMapper().createObjectNode();
        if (flow != null) {
            wanted.put("flowId", flow.get("id").asLong());
        }
        wanted.put("environment", "Test").put("kind", kind).putPOJO("spec", spec);
        product.post("/api/alert-rules", wanted);
    }
}
