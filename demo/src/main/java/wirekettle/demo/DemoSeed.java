package wirekettle.demo;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.net.URI;
import java.util.LinkedHashMap;
import java.util.List;
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
        endpoint("Rates", "rates");
        secured();
        if (product.get("/api/contracts").get("total").asInt() > 0) {
            return;
        }
        contract(DemoWorld.registerDocuments());
        contract(DemoWorld.vanlineDocuments());
        contract(DemoWorld.climateDocuments());
        contract(DemoWorld.clearanceDocuments());
        contract(DemoWorld.ratesDocuments());
        simulator();
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
        mappings();
        outline();
        attachments();
        crates();
        papers();
    }

    /** A flow that hands in papers in batches; the desk answers for each, says nothing of some, or refuses them all. */
    private void papers() throws IOException {
        for (String name : List.of("papers cleared", "papers refused")) {
            product.post("/api/datasets", Map.of("name", name, "kind", "csv"));
        }
        JsonNode file = new ObjectMapper().readTree(DemoWorld.resource("flows/clear-papers.json"));
        long id = product.post("/api/flows", Map.of("name", file.get("name").asText(), "file", file))
                .get("id")
                .asLong();
        sampled(id, file, "submit");
    }

    /** Calls for the first sample, though it changes data. */
    private void sampled(long flow, JsonNode file, String stage) throws IOException {
        product.post(
                "/api/flows/" + flow + "/sample-call",
                Map.of("file", file, "stage", stage, "record", 1, "environment", "Test", "confirmed", true));
    }

    /**
     * A flow that opens a day in a session, books crates one by one, takes back what was booked when one of a loan's is
     * refused, and closes the day.
     */
    private void crates() throws IOException {
        for (String name : List.of("loans booked by crate", "loans not booked")) {
            product.post("/api/datasets", Map.of("name", name, "kind", "csv"));
        }
        product.post(
                "/api/series",
                Map.of(
                        "name",
                        "transport papers",
                        "gapless",
                        true,
                        "start",
                        1,
                        "pattern",
                        "HC-{year}-{number:4}",
                        "yearly",
                        true));
        JsonNode file = new ObjectMapper().readTree(DemoWorld.resource("flows/book-whole-way.json"));
        long id = product.post("/api/flows", Map.of("name", file.get("name").asText(), "file", file))
                .get("id")
                .asLong();
        sampled(id, file, "open");
        sampled(id, file, "book");
    }

    /** A flow with a filter, several calls, ways and lanes, whose records come to every end. */
    private void outline() throws IOException {
        for (String name : List.of(
                "loans checked", "loans booked", "loans to insure", "loans to book by hand", "loans rejected")) {
            product.post("/api/datasets", Map.of("name", name, "kind", "csv"));
        }
        JsonNode file = new ObjectMapper().readTree(DemoWorld.resource("flows/check-and-book.json"));
        long id = product.post("/api/flows", Map.of("name", file.get("name").asText(), "file", file))
                .get("id")
                .asLong();
        for (int record = 1; record <= 3; record++) {
            product.post(
                    "/api/flows/" + id + "/sample-call",
                    Map.of("file", file, "stage", "lookup", "record", record, "environment", "Test"));
        }
    }

    /** Flows that show what mapping can do: rows grouped to a booking with crates, a document inside a reply. */
    private void mappings() throws IOException {
        for (String name : List.of("bookings", "booked crates", "refused bookings", "readings")) {
            product.post("/api/datasets", Map.of("name", name, "kind", "csv"));
        }
        product.upload("/api/datasets/files", "file", Map.of("rooms.csv", DemoWorld.resource("data/rooms.csv")));
        product.post(
                "/api/code-tables",
                Map.of(
                        "name",
                        "climate classes",
                        "entries",
                        List.of(
                                Map.of("code", "A", "value", "A"),
                                Map.of("code", "B1", "value", "B1"),
                                Map.of("code", "B2", "value", "B2"),
                                Map.of("code", "C", "value", "C"),
                                Map.of("code", "cold", "value", "B2", "from", "2026-01-01"))));
        ObjectMapper json = new ObjectMapper();
        JsonNode booking = json.readTree(DemoWorld.resource("flows/book-transports.json"));
        product.post("/api/flows", Map.of("name", booking.get("name").asText(), "file", booking));
        ObjectNode climate = (ObjectNode) json.readTree(DemoWorld.resource("flows/read-climate.json"));
        long id = product.post("/api/flows", Map.of("name", climate.get("name").asText(), "file", climate))
                .get("id")
                .asLong();
        for (int record = 1; record <= 3; record++) {
            product.post(
                    "/api/flows/" + id + "/sample-call",
                    Map.of("file", climate, "stage", "call", "record", record, "environment", "Test"));
        }
    }

    /** A flow that sends photographs of crates as attachments and keeps the labels that come back. */
    private void attachments() throws IOException {
        long photographs = product.post("/api/datasets", Map.of("name", "crate photographs", "kind", "folder"))
                .get("id")
                .asLong();
        product.upload("/api/datasets/" + photographs + "/files", "files", CratePhotographs.all());
        product.post("/api/datasets", Map.of("name", "crate labels", "kind", "folder"));
        product.post("/api/datasets", Map.of("name", "labelled crates", "kind", "csv"));
        JsonNode file = new ObjectMapper().readTree(DemoWorld.resource("flows/label-crates.json"));
        JsonNode flow =
                product.post("/api/flows", Map.of("name", file.get("name").asText(), "file", file));
        product.post(
                "/api/flows/" + flow.get("id").asLong() + "/sample-call",
                Map.of("file", file, "stage", "call", "record", 1, "environment", "Test"));
    }

    /** Endpoints of the ports that ask something of their callers; the one over TLS is left to be trusted by hand. */
    private void secured() throws IOException {
        for (String address : List.of(world.ports().tls(), world.ports().mutualTls())) {
            URI at = URI.create(address);
            product.post("/api/allowed-hosts", Map.of("host", at.getHost() + ":" + at.getPort()));
        }
        List<String> services = List.of(world.address("vanline"), world.ports().address("register-digest"));
        secret("register password", DemoLogins.PASSWORD, services);
        secret("vanline password", DemoLogins.TOKEN_PASSWORD, services);
        secret("token desk", DemoLogins.CLIENT_SECRET, List.of(world.ports().address("token")));
        product.upload(
                "/api/secrets/halewick%20key/key",
                "file",
                Map.of("caller.p12", DemoLogins.keyFile("caller.p12")),
                Map.of("password", DemoLogins.KEY_PASSWORD));
        product.put(
                "/api/secrets/halewick%20key/destinations",
                Map.of(
                        "destinations",
                        List.of(
                                world.ports().tls(),
                                world.ports().mutualTls(),
                                world.ports().address("vanline-signed"))));
        reach("Vanline Desk with attachments", world.address("vanline"), Map.of("mtom", true));
        reach(
                "Register with a login",
                world.ports().address("register-digest"),
                Map.of("login", Map.of("kind", "digest", "user", DemoLogins.USER, "secret", "register password")));
        reach("Vanline Desk over TLS", world.ports().tls(), Map.of("tls", Map.of("clientKey", "halewick key")));
        reach(
                "Vanline Desk signed",
                world.ports().address("vanline-signed"),
                Map.of(
                        "security",
                        Map.of(
                                "lifetimeSeconds",
                                300,
                                "signKey",
                                "halewick key",
                                "verifyReplies",
                                List.of(DemoLogins.authorityPem()))));
        reach("Vanline Desk in a session", world.ports().address("vanline-session"), DemoLogins.session());
        reach(
                "Vanline Desk with a name",
                world.ports().address("vanline-digest"),
                Map.of(
                        "security",
                        Map.of(
                                "token",
                                "digest",
                                "user",
                                DemoLogins.USER,
                                "secret",
                                "vanline password",
                                "lifetimeSeconds",
                                300)));
    }

    private void secret(String name, String value, List<String> destinations) throws IOException {
        product.put("/api/secrets/" + name.replace(" ", "%20"), Map.of("value", value, "destinations", destinations));
    }

    private void reach(String name, String address, Map<String, Object> settings) throws IOException {
        long id = product.put("/api/endpoints", Map.of("name", name)).get("id").asLong();
        product.put("/api/endpoints/" + id + "/environments/Test", Map.of("address", address, "settings", settings));
    }

    /** A simulator of Vanline Desk with two rules. */
    private void simulator() throws IOException {
        long contract = 0;
        for (JsonNode each : product.get("/api/contracts").get("items")) {
            contract = each.get("name").asText().equals("Vanline Desk")
                    ? each.get("id").asLong()
                    : contract;
        }
        JsonNode made = product.post("/api/simulators", Map.of("contract", contract));
        String v = "{urn:halewick:vanline:2}";
        String track = "/" + v + "TrackTransport/" + v + "reference";
        String reply = "/" + v + "TrackTransportResponse/" + v;
        Map<String, Object> lost = Map.of(
                "operation",
                "TrackTransport",
                "matches",
                List.of(Map.of("field", track, "value", "VD-000000")),
                "fault",
                "UnknownTransport",
                "reason",
                "no such transport",
                "example",
                true);
        Map<String, Object> slow = Map.of(
                "operation",
                "TrackTransport",
                "matches",
                List.of(Map.of("field", track, "value", "VD-700100")),
                "fills",
                List.of(Map.of("id", "v1", "target", reply + "status", "constant", "delayed")),
                "delayMillis",
                400,
                "example",
                true);
        product.put(
                "/api/simulators/" + made.get("id").asLong(),
                Map.of("name", "Vanline Desk", "running", true, "rules", List.of(lost, slow)));
    }

    private void endpoint(String name, String service) throws IOException {
        product.put("/api/endpoints", Map.of("name", name, "addresses", Map.of("Test", world.address(service))));
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
