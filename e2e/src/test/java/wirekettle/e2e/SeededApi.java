package wirekettle.e2e;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.util.List;
import java.util.Map;
import org.testng.ITestResult;
import org.testng.annotations.AfterClass;
import org.testng.annotations.AfterMethod;
import wirekettle.demo.DemoWorld;
import wirekettle.demo.ProductClient;
import wirekettle.demo.StartedProduct;

/** A started product with the demo's data, asked through its API. */
abstract class SeededApi {
    static final ObjectMapper JSON = new ObjectMapper();
    DemoWorld world;
    StartedProduct product;
    ProductClient client;

    /** Starts everything; settings are environment variables of the product. */
    void begin(String heap, Map<String, String> settings) throws Exception {
        world = new DemoWorld(0);
        product = Seeded.product(world, heap, settings);
        client = product.client();
    }

    /** What the product logged as an error is the first thing to look at when a test fails. */
    @AfterMethod
    public void troubleOfAFailure(ITestResult result) throws IOException {
        if (!result.isSuccess() && product != null) {
            List<String> lines = product.log().lines().toList();
            for (int i = 0; i < lines.size(); i++) {
                if (lines.get(i).contains("ERROR")) {
                    lines.subList(i, Math.min(lines.size(), i + 12)).forEach(System.out::println);
                }
            }
        }
    }

    @AfterClass(alwaysRun = true)
    public void stop() throws Exception {
        product.close();
        world.close();
    }

    JsonNode flow(String name) throws IOException {
        for (JsonNode each : client.get("/api/flows?size=100").get("items")) {
            if (each.get("name").asText().equals(name)) {
                return client.get("/api/flows/" + each.get("id").asLong());
            }
        }
        throw new IOException("no flow " + name);
    }

    /** Adds a copy of a flow under another name, to be changed. */
    JsonNode copy(String of, String name) throws IOException {
        ObjectNode file = flow(of).get("file").deepCopy();
        file.put("name", name);
        return client.post("/api/flows", Map.of("name", name, "file", file));
    }

    JsonNode ended(String path, String member) throws Exception {
        while (true) {
            JsonNode state = client.get(path);
            JsonNode at = member == null ? state : state.get(member);
            if (!at.get("state").asText().equals("running")) {
                return at;
            }
            Thread.sleep(50);
        }
    }

    List<List<String>> rows(String dataset) throws IOException {
        for (JsonNode each : client.get("/api/datasets?size=200").get("items")) {
            if (each.get("name").asText().equals(dataset)) {
                List<List<String>> rows = new java.util.ArrayList<>();
                for (JsonNode row : client.get("/api/datasets/" + each.get("id").asLong() + "/rows?size=500")
                        .get("items")) {
                    List<String> cells = new java.util.ArrayList<>();
                    row.forEach(cell -> cells.add(cell.asText()));
                    rows.add(cells);
                }
                return rows;
            }
        }
        throw new IOException("no dataset " + dataset);
    }

    static ObjectNode stage(JsonNode file, String id) {
        for (JsonNode each : file.get("stages")) {
            if (each.get("id").asText().equals(id)) {
                return (ObjectNode) each;
            }
        }
        throw new AssertionError("no stage " + id);
    }

    static ObjectNode fill(JsonNode stage, String end) {
        for (JsonNode each : stage.get("fills")) {
            if (each.get("target").asText().endsWith(end)) {
                return (ObjectNode) each;
            }
        }
        throw new AssertionError("no fill of " + end);
    }

    JsonNode preview(long flow, JsonNode file, String stage, long record, String samples) throws IOException {
        return client.post(
                "/api/flows/" + flow + "/preview",
                Map.of("file", file, "stage", stage, "record", record, "environment", "Test", "samples", samples));
    }
}
