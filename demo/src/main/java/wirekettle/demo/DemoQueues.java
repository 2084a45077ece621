package wirekettle.demo;

import com.fasterxml.jackson.databind.JsonNode;
import java.io.IOException;
import java.net.URI;
import java.util.List;
import java.util.Map;

/** The broker of Halewick Crating in the product: an endpoint, a queue that is written, and a flow that takes messages. */
final class DemoQueues {
    private static final String ENDPOINT = "Halewick broker";
    private static final String FLOW = "Look up by message";

    private final ProductClient product;
    private final DemoBroker broker;

    DemoQueues(ProductClient product, DemoBroker broker) {
        this.product = product;
        this.broker = broker;
    }

    /** Tells the product of the broker; what is there from before stays. */
    void begin() throws IOException {
        URI at = URI.create(broker.address());
        product.post("/api/allowed-hosts", Map.of("host", at.getHost() + ":" + at.getPort()));
        product.put(
                "/api/secrets/broker%20password",
                Map.of("value", DemoLogins.PASSWORD, "destinations", List.of(broker.address())));
        long endpoint = product.put("/api/endpoints", Map.of("name", ENDPOINT))
                .get("id")
                .asLong();
        product.put(
                "/api/endpoints/" + endpoint + "/environments/Test",
                Map.of(
                        "address",
                        broker.address(),
                        "settings",
                        Map.of(
                                "login",
                                Map.of("kind", "basic", "user", DemoLogins.USER, "secret", "broker password"))));
        for (JsonNode flow : product.get("/api/flows?size=200").get("items")) {
            if (flow.get("name").asText().equals(FLOW)) {
                return;
            }
        }
        product.post(
                "/api/datasets",
                Map.of(
                        "name",
                        "loans announced",
                        "kind",
                        "queue",
                        "queue",
                        Map.of("endpoint", ENDPOINT, "name", "loans.announced", "form", "json")));
        JsonNode offer = product.post(
                "/api/offers",
                Map.of(
                        "contract",
                        "Institution Register",
                        "operation",
                        "LookUpInstitution",
                        "environment",
                        "Test",
                        "name",
                        FLOW));
        product.post(
                "/api/flows/" + offer.get("flow").asLong() + "/triggers",
                Map.of(
                        "environment",
                        "Test",
                        "kind",
                        "queue",
                        "spec",
                        Map.of(
                                "queue",
                                Map.of(
                                        "endpoint",
                                        ENDPOINT,
                                        "name",
                                        "institutions.asked",
                                        "answers",
                                        "institutions.found"))));
    }
}
