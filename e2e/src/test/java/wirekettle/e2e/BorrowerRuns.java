package wirekettle.e2e;

import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.nio.file.Path;
import java.util.Map;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.BeforeMethod;
import wirekettle.demo.DemoWorld;
import wirekettle.demo.ProductClient;
import wirekettle.demo.StartedProduct;

/** A started server with 256 MB of memory, and runs of the demo's flow that checks borrowers. */
abstract class BorrowerRuns {
    static final Path ROOT = Path.of("..");
    static final String CLOCK = "2026-11-23T09:14:02Z";

    StartedProduct product;
    DemoWorld world;
    ProductClient client;

    @BeforeClass
    public void start() throws Exception {
        world = new DemoWorld(0);
        product = Seeded.product(world, "-Xmx256m", settings());
        client = product.client();
    }

    /** Returns the settings the product is started with. */
    Map<String, String> settings() {
        return Map.of("WIREKETTLE_CLOCK", CLOCK);
    }

    @AfterClass(alwaysRun = true)
    public void stop() throws Exception {
        if (product != null) {
            product.close();
        }
        world.close();
    }

    @BeforeMethod
    public void behave() {
        world.registerKnobs().latencyMillis = 0;
        world.registerKnobs().faultEvery = 0;
        world.registerKnobs().outage = "none";
    }

    JsonNode get(String path) {
        try {
            return client.get(path);
        } catch (java.io.IOException e) {
            throw new AssertionError(e);
        }
    }

    JsonNode finished(JsonNode run) {
        String path = "/api/runs/" + run.get("id").asLong();
        until("run ends", () -> !get(path).get("run").get("state").asText().equals("running"));
        return get(path).get("run");
    }

    JsonNode flow(String name, java.util.function.Consumer<ObjectNode> change) throws Exception {
        ObjectNode file = (ObjectNode) new ObjectMapper().readTree(DemoWorld.resource("flows/check-borrowers.json"));
        file.put("name", name);
        change.accept(file);
        return client.post("/api/flows", Map.of("name", name, "file", file));
    }

    JsonNode run(JsonNode flow, int limit) throws Exception {
        return client.post(
                "/api/flows/" + flow.get("id").asLong() + "/runs", Map.of("environment", "Test", "limit", limit));
    }

    static ObjectNode delivery(ObjectNode file) {
        return (ObjectNode) file.get("stages").get(1).get("delivery");
    }
}
