package wirekettle.demo;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.IOException;
import java.util.LinkedHashMap;
import java.util.Map;
import wirekettle.core.contract.GivenDocuments;

/** Fills a fresh product through its public API: contracts, data, one finished flow with its last run. */
public final class DemoSeed {
    private final ProductClient product;
    private final DemoWorld world;

    /** Makes a seed for a product a trusted person is signed in to. */
    public DemoSeed(ProductClient product, DemoWorld world) {
        this.product = product;
        this.world = world;
    }

    /** Points hosts and endpoints at the services of this start; fills in data only when there is none yet. */
    public void sow() throws IOException {
        product.post("/api/allowed-hosts", Map.of("host", "127.0.0.1:" + world.port()));
        endpoint("Institution Register", "register");
        endpoint("Vanline Desk", "vanline");
        endpoint("Gallery Climate", "climate");
        endpoint("Loan Clearance", "clearance");
        if (product.get("/api/contracts").get("total").asInt() > 0) {
            return;
        }
        contract(DemoWorld.registerDocuments());
        contract(DemoWorld.vanlineDocuments());
        contract(DemoWorld.climateDocuments());
        contract(DemoWorld.clearanceDocuments());
        product.upload("/api/datasets/files", "file", Map.of("loans.csv", DemoWorld.resource("data/loans.csv")));
        product.upload(
                "/api/datasets/files", "file", Map.of("transports.csv", DemoWorld.resource("data/transports.csv")));
        product.post("/api/datasets", Map.of("name", "borrowers", "kind", "csv"));
        JsonNode file = new ObjectMapper().readTree(DemoWorld.resource("flows/check-borrowers.json"));
        JsonNode flow =
                product.post("/api/flows", Map.of("name", file.get("name").asText(), "file", file));
        long id = flow.get("id").asLong();
        for (int record = 1; record <= 5; record++) {
            product.post(
                    "/api/flows/" + id + "/sample-call",
                    Map.of("file", file, "stage", "call", "record", record, "environment", "Test"));
        }
        JsonNode run = product.post("/api/flows/" + id + "/runs", Map.of("environment", "Test"));
        await("/api/runs/" + run.get("id").asLong(), "running", "run");
    }

    private void endpoint(String name, String service) throws IOException {
        product.put("/api/endpoints", Map.of("name", name, "testAddress", world.address(service), "liveAddress", ""));
    }

    private void contract(GivenDocuments documents) throws IOException {
        JsonNode job = product.upload("/api/imports/files", "files", new LinkedHashMap<>(documents.files()));
        await("/api/imports/" + job.get("id").asLong(), "reading", null);
    }

    private void await(String path, String going, String member) throws IOException {
        for (int i = 0; i < 600; i++) {
            JsonNode state = product.get(path);
            JsonNode at = member == null ? state : state.get(member);
            if (!at.get("state").asText().equals(going)) {
                return;
            }
            try {
                Thread.sleep(100);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                return;
            }
        }
        throw new IOException(path + " did not end");
    }
}
