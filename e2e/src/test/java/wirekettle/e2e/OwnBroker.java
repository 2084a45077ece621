package wirekettle.e2e;

import com.fasterxml.jackson.databind.JsonNode;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import wirekettle.connect.HostRule;
import wirekettle.connect.queue.Broker;
import wirekettle.connect.queue.QueueMessage;
import wirekettle.connect.queue.QueueReader;
import wirekettle.connect.queue.QueueWriter;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.security.KeyMaterial;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.value.DocumentForm;
import wirekettle.demo.DemoBroker;
import wirekettle.demo.DemoLogins;
import wirekettle.demo.ProductClient;

/** A broker of a test, an endpoint of the product that is it, and a partner who sends and reads. */
final class OwnBroker implements AutoCloseable {
    static final String ENDPOINT = "Halewick broker";
    private final Path folder;
    private final DemoBroker broker;

    OwnBroker() throws IOException {
        folder = Files.createTempDirectory("broker-");
        broker = new DemoBroker(folder, 0);
    }

    DemoBroker broker() {
        return broker;
    }

    /** Makes it an endpoint of a product, with a login. */
    void known(ProductClient client) throws IOException {
        String address = broker.address();
        client.post("/api/allowed-hosts", Map.of("host", EndpointReach.destination(address)));
        client.put(
                "/api/secrets/broker%20password",
                Map.of("value", DemoLogins.PASSWORD, "destinations", List.of(address)));
        JsonNode endpoint = client.put("/api/endpoints", Map.of("name", ENDPOINT));
        client.put(
                "/api/endpoints/" + endpoint.get("id").asLong() + "/environments/Test",
                Map.of(
                        "address",
                        address,
                        "settings",
                        Map.of(
                                "login",
                                Map.of("kind", "basic", "user", DemoLogins.USER, "secret", "broker password"))));
    }

    /** Lets a flow take the messages of a queue, and returns the trigger. */
    static JsonNode taken(ProductClient client, long flow, String queue, Map<String, Object> more) throws IOException {
        Map<String, Object> spec = new HashMap<>(more);
        spec.putIfAbsent("queue", Map.of("endpoint", ENDPOINT, "name", queue));
        return client.post(
                "/api/flows/" + flow + "/triggers", Map.of("environment", "Test", "kind", "queue", "spec", spec));
    }

    private Broker partner() {
        EndpointSettings settings = new EndpointSettings(
                null,
                null,
                null,
                null,
                null,
                new EndpointSettings.Login(EndpointSettings.Login.Kind.BASIC, DemoLogins.USER, "own", null, null),
                null,
                null,
                false,
                false);
        Secrets own = new Secrets() {
            @Override
            public String text(String name) {
                return DemoLogins.PASSWORD;
            }

            @Override
            public KeyMaterial key(String name) {
                throw new IllegalStateException();
            }
        };
        return new Broker(HostRule.ANY, EndpointReach.of(broker.address(), settings, own, Clock.systemUTC()));
    }

    void send(String queue, QueueMessage... messages) throws IOException {
        try (QueueWriter writer = partner().writer()) {
            for (QueueMessage each : messages) {
                writer.send(queue, each);
            }
            writer.commit();
        }
    }

    void send(String queue, String correlation, String json) throws IOException {
        send(queue, QueueMessage.of(DocumentForm.JSON, json, correlation, Map.of()));
    }

    /** Reads so many messages of a queue, waiting for them. */
    List<QueueMessage> read(String queue, int wanted) throws IOException {
        List<QueueMessage> all = new ArrayList<>();
        long end = System.nanoTime() + 60_000_000_000L;
        try (QueueReader reader = partner().reader(queue)) {
            while (all.size() < wanted && System.nanoTime() < end) {
                for (QueueReader.Given each : reader.take(wanted, 500)) {
                    all.add(each.message());
                    each.accepting().accept();
                }
            }
        }
        return all;
    }

    @Override
    public void close() throws IOException {
        broker.close();
    }
}
