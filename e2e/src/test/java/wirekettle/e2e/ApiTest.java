package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.demo.DemoWorld;
import wirekettle.demo.ProductClient;
import wirekettle.demo.StartedProduct;

/** The API of the started server with 256 MB of memory: sign-in, import, datasets, drafts, and what bad input gets. */
public class ApiTest {
    private StartedProduct product;
    private DemoWorld world;
    private ProductClient client;

    @BeforeClass
    public void start() throws Exception {
        world = new DemoWorld(0);
        product = new StartedProduct(Path.of(".."), List.of("-Xmx256m"), Map.of());
        client = product.client();
    }

    @AfterClass(alwaysRun = true)
    public void stop() throws Exception {
        if (product != null) {
            product.close();
        }
        world.close();
    }

    private JsonNode imported(JsonNode job) {
        JsonNode[] state = {job};
        Until.until("the import ends", () -> {
            try {
                state[0] = client.get("/api/imports/" + job.get("id").asLong());
            } catch (java.io.IOException e) {
                throw new AssertionError(e);
            }
            return !state[0].get("state").asText().equals("reading");
        });
        return state[0];
    }

    @Test
    public void theCommittedApiDescriptionIsTheServers() throws Exception {
        String built = Files.readString(Path.of("../server/target/openapi/openapi.json"));
        ObjectMapper json = new ObjectMapper();
        assertEquals(
                json.readTree(Files.readString(Path.of("../web/openapi.json"))),
                json.readTree(built),
                "the API changed: copy server/target/openapi/openapi.json to web/openapi.json and build again");
    }

    @Test
    public void nothingIsToldToWhoIsNotSignedIn() throws Exception {
        ProductClient stranger = new ProductClient(product.address());
        for (String path :
                List.of("//api/desk", "/api//desk", "/api/./desk", "/%61pi/desk", "/api/desk;x=1", "/api/desk/")) {
            String told = stranger.send("GET", path, null, Map.of()).text();
            assertFalse(told.contains("flowTotal"), path + " tells: " + told);
        }
        for (String path : List.of("/api/desk", "/api/contracts", "/api/runs/1/results", "/api/me", "/api/people")) {
            assertEquals(stranger.send("GET", path, null, Map.of()).status(), 401, path);
        }
        assertEquals(
                stranger.send("POST", "/api/allowed-hosts", Map.of("host", "x.invalid"), Map.of())
                        .status(),
                401);
    }

    @Test
    public void aChangeFromAnotherSitesPageIsRefusedAndTheCookieIsClosedToScripts() throws Exception {
        HttpClient plain = HttpClient.newHttpClient();
        HttpRequest signIn = HttpRequest.newBuilder(URI.create(product.address() + "/api/sign-in"))
                .header("Content-Type", "text/plain")
                .POST(HttpRequest.BodyPublishers.ofString("{\"name\":\"ada\",\"password\":\"x\"}"))
                .build();
        assertEquals(plain.send(signIn, HttpResponse.BodyHandlers.ofString()).statusCode() / 100, 4);
        HttpRequest real = HttpRequest.newBuilder(URI.create(product.address() + "/api/sign-in"))
                .header("Content-Type", "application/json")
                .header("X-Wire-Kettle", "1")
                .POST(HttpRequest.BodyPublishers.ofString(
                        "{\"name\":\"ada\",\"password\":\"" + product.password() + "\"}"))
                .build();
        String cookie = plain.send(real, HttpResponse.BodyHandlers.ofString())
                .headers()
                .firstValue("set-cookie")
                .orElse("");
        assertTrue(cookie.contains("HttpOnly") && cookie.contains("SameSite=Strict"), cookie);
        HttpRequest forged = HttpRequest.newBuilder(URI.create(product.address() + "/api/allowed-hosts"))
                .header("Content-Type", "application/json")
                .header("Cookie", cookie.split(";")[0])
                .POST(HttpRequest.BodyPublishers.ofString("{\"host\":\"evil.invalid\"}"))
                .build();
        assertEquals(plain.send(forged, HttpResponse.BodyHandlers.ofString()).statusCode(), 403);
    }

    @Test
    public void whoMayNotAllowHostsIsRefused() throws Exception {
        client.post("/api/people", Map.of("name", "ellin", "password", "ellins-password"));
        ProductClient ellin = new ProductClient(product.address());
        ellin.signIn("ellin", "ellins-password");
        assertEquals(
                ellin.send("POST", "/api/allowed-hosts", Map.of("host", "x.invalid"), Map.of())
                        .status(),
                403);
        assertEquals(
                ellin.send("POST", "/api/people", Map.of("name", "x", "password", "1234567890"), Map.of())
                        .status(),
                403);
    }

    @Test
    public void anImportByAddressIsBlockedUntilItsHostIsAllowedThenFetchesEveryDocumentOnce() throws Exception {
        String address = world.address("register").replace("127.0.0.1", "localhost") + "?wsdl";
        JsonNode blocked = imported(client.post("/api/imports", Map.of("address", address)));
        assertEquals(blocked.get("state").asText(), "refused");
        JsonNode obstacle = blocked.get("obstacle");
        assertEquals(obstacle.get("kind").asText(), "host");
        assertEquals(obstacle.get("host").asText(), "localhost:" + world.port());
        client.post("/api/allowed-hosts", Map.of("host", obstacle.get("host").asText()));
        JsonNode done = imported(client.post("/api/imports", Map.of("address", address)));
        assertEquals(done.get("state").asText(), "done", done.toString());
        JsonNode contract = client.get("/api/contracts/" + done.get("contract").asLong());
        assertEquals(contract.get("documents").size(), 3);
        assertEquals(contract.get("operations").get(0).get("effect").asText(), "reads");
        assertEquals(contract.get("operations").get(0).get("address").asText(), world.address("register"));
    }

    @Test
    public void aZipIsImportedLikeItsFiles() throws Exception {
        var bytes = new java.io.ByteArrayOutputStream();
        try (var zip = new java.util.zip.ZipOutputStream(bytes)) {
            for (Map.Entry<String, byte[]> file :
                    DemoWorld.registerDocuments().files().entrySet()) {
                zip.putNextEntry(new java.util.zip.ZipEntry("contract/" + file.getKey()));
                zip.write(file.getValue());
            }
        }
        JsonNode job =
                imported(client.upload("/api/imports/files", "files", Map.of("register.zip", bytes.toByteArray())));
        assertEquals(job.get("state").asText(), "done", job.toString());
        assertEquals(job.get("findings").size(), 0, job.toString());
    }

    @DataProvider
    public Object[][] unusable() {
        return new Object[][] {
            {"", 400, "paste the text"},
            {"this is no XML", 422, "pasted.wsdl line 1"},
            {"<!DOCTYPE html><html></html>", 422, "HTML page"},
            {"<!DOCTYPE a [<!ENTITY b 'c'>]><a>&b;</a>", 422, "DOCTYPE"},
            {"<definitions xmlns='http://schemas.xmlsoap.org/wsdl/'>", 422, "line 1 column"},
            {"<a>".repeat(2_000_000), 422, "nested deeper"},
        };
    }

    @Test(dataProvider = "unusable")
    public void whatIsNoContractIsRefusedWithPlaceAndReasonAndNothingIsStored(String text, int status, String said)
            throws Exception {
        long before = client.get("/api/contracts").get("total").asLong();
        ProductClient.Answer answer = client.send("POST", "/api/imports", Map.of("text", text), Map.of());
        if (status == 400) {
            assertEquals(answer.status(), 400);
            assertTrue(answer.text().contains(said), answer.text());
        } else {
            JsonNode job = imported(answer.json());
            assertEquals(job.get("state").asText(), "refused");
            assertTrue(
                    job.get("message").asText().contains(said),
                    job.get("message").asText());
        }
        assertEquals(client.get("/api/contracts").get("total").asLong(), before);
    }

    @Test
    public void aCsvFileIsLookedAtAndCorrectable() throws Exception {
        JsonNode seen = client.upload(
                "/api/datasets/files", "file", Map.of("transports.csv", DemoWorld.resource("data/transports.csv")));
        assertEquals(seen.get("csv").get("delimiter").asText(), "\t");
        assertEquals(seen.get("csv").get("charset").asText(), "windows-1252");
        assertEquals(seen.get("rows").asInt(), 48);
        assertEquals(seen.get("columns").get(0).get("name").asText(), "Transport_ref");
        assertEquals(seen.get("columns").get(0).get("label").asText(), "Transport ref");
        assertEquals(seen.get("columns").get(2).get("type").asText(), "date");
        JsonNode wrong = client.put(
                "/api/datasets/" + seen.get("id").asLong(),
                Map.of("csv", Map.of("delimiter", "\t", "quote", "\"", "charset", "UTF-8", "header", true)));
        assertTrue(
                wrong.get("findings").get(0).get("message").asText().contains("choose another charset"),
                wrong.toString());
        JsonNode page = client.get("/api/datasets/" + seen.get("id").asLong() + "/rows?q=VD-700100");
        assertEquals(page.get("total").asInt(), 1);
    }

    @Test
    public void aConfirmedEffectIsWhatNewFlowsStartWith() throws Exception {
        JsonNode job = imported(client.upload(
                "/api/imports/files", "files", DemoWorld.vanlineDocuments().files()));
        String path = "/api/contracts/" + job.get("contract").asLong();
        JsonNode before = client.get(path).get("operations").get(0);
        assertEquals(before.get("effect").asText(), "reads");
        assertFalse(before.get("confirmed").asBoolean());
        client.put(path + "/effects", Map.of("operation", "TrackTransport", "effect", "changes"));
        String name = client.get(path).get("name").asText();
        JsonNode flow = client.post(
                "/api/flows",
                Map.of("name", "Careful", "contract", name, "port", "VanlinePort", "operation", "TrackTransport"));
        assertEquals(
                flow.get("file")
                        .get("stages")
                        .get(1)
                        .get("delivery")
                        .get("effect")
                        .asText(),
                "changes");
    }

    @DataProvider
    public Object[][] files() {
        return new Object[][] {
            {"ragged.csv", "a;b;c\r\n1;2;3\r\n4;5\r\n6;7;8;9\r\n", 200, "2 fields, the header has 3"},
            {"empty.csv", "", 422, "The file is empty"},
            {"header.csv", "a,b\r\n", 200, "has no records"},
        };
    }

    @Test(dataProvider = "files")
    public void oddFilesGetAClearWord(String name, String text, int status, String said) throws Exception {
        ProductClient.Answer answer =
                client.uploading("/api/datasets/files", "file", Map.of(name, text.getBytes(Charset.forName("UTF-8"))));
        assertEquals(answer.status(), status, answer.text());
        assertTrue(answer.text().contains(said), answer.text());
    }

    @Test
    public void whoSavesSecondIsToldAndGetsBothVersions() throws Exception {
        JsonNode flow = client.post("/api/flows", Map.of("name", "Twice saved"));
        long id = flow.get("id").asLong();
        ObjectNode mine = flow.get("file").deepCopy();
        mine.put("name", "Mine");
        ObjectNode theirs = flow.get("file").deepCopy();
        theirs.put("name", "Theirs");
        assertEquals(
                client.send("PUT", "/api/flows/" + id, theirs, Map.of("If-Match", "\"1\""))
                        .status(),
                200);
        ProductClient.Answer second = client.send("PUT", "/api/flows/" + id, mine, Map.of("If-Match", "\"1\""));
        assertEquals(second.status(), 409);
        assertEquals(second.json().get("theirs").get("name").asText(), "Theirs");
        assertEquals(second.json().get("yours").get("name").asText(), "Mine");
        assertEquals(client.send("PUT", "/api/flows/" + id, mine, Map.of()).status(), 428);
    }

    @Test
    public void aDraftShowsValuesCoverageAFixAndAsksBeforeACallThatChangesData() throws Exception {
        client.post("/api/allowed-hosts", Map.of("host", "127.0.0.1:" + world.port()));
        JsonNode job = imported(client.upload(
                "/api/imports/files", "files", DemoWorld.registerDocuments().files()));
        String contract = client.get("/api/contracts/" + job.get("contract").asLong())
                .get("name")
                .asText();
        client.put("/api/endpoints", Map.of("name", contract, "addresses", Map.of("Test", world.address("register"))));
        JsonNode loans =
                client.upload("/api/datasets/files", "file", Map.of("loans.csv", DemoWorld.resource("data/loans.csv")));
        ObjectNode file = (ObjectNode) new ObjectMapper().readTree(DemoWorld.resource("flows/check-borrowers.json"));
        file.put("name", "Draft");
        ((ObjectNode) file.get("stages").get(0))
                .put("dataset", loans.get("name").asText());
        ObjectNode call = (ObjectNode) file.get("stages").get(1);
        call.put("contract", contract).put("endpoint", contract);
        ((ObjectNode) call.get("delivery")).put("effect", "changes");
        ((ObjectNode) ((ArrayNode) call.get("fills")).get(3)).remove("format");
        long id = client.post("/api/flows", Map.of("name", "Draft", "file", file))
                .get("id")
                .asLong();
        Map<String, Object> asked = Map.of("file", file, "stage", "call", "record", 2, "environment", "Test");
        JsonNode preview = client.post("/api/flows/" + id + "/preview", asked);
        String target = "/{urn:halewick:register:1}LookUpInstitution/{urn:halewick:register:1}insuredValue";
        JsonNode value = preview.get("fields").get(target);
        assertEquals(value.get("invalid").asInt(), 50);
        assertEquals(value.get("problem").asText(), "no decimal");
        assertEquals(value.get("fix").get("mends").asInt(), 50);
        assertTrue(value.get("fix").get("label").asText().startsWith("read "), value.toString());
        JsonNode suggested = client.post("/api/flows/" + id + "/suggestions", asked);
        assertEquals(suggested.size(), 0, "everything is filled");
        assertEquals(
                client.send("POST", "/api/flows/" + id + "/sample-call", asked, Map.of())
                        .status(),
                422,
                "not valid yet");
        ((ObjectNode) ((ArrayNode) call.get("fills")).get(3))
                .set("format", value.get("fix").get("format"));
        ProductClient.Answer unasked = client.send("POST", "/api/flows/" + id + "/sample-call", asked, Map.of());
        assertEquals(unasked.status(), 409);
        assertTrue(unasked.json().get("detail").asText().contains("“" + contract + "” in Test"), unasked.text());
        Map<String, Object> sure = new java.util.HashMap<>(asked);
        sure.put("confirmed", true);
        JsonNode answered = client.post("/api/flows/" + id + "/sample-call", sure);
        assertEquals(answered.get("kept").get("status").asInt(), 200);
        assertFalse(answered.get("kept").get("stale").asBoolean());
        call.put("as", "borrower");
        ((ObjectNode) ((ArrayNode) call.get("fills")).get(1)).put("constant", "HALEWICK 2");
        assertTrue(client.post("/api/flows/" + id + "/preview", asked)
                .get("kept")
                .get("stale")
                .asBoolean());
    }

    @Test
    public void aRunawayExpressionInADraftIsAnsweredAndTheServerStaysUp() throws Exception {
        ObjectNode file = (ObjectNode) new ObjectMapper().readTree(DemoWorld.resource("flows/check-borrowers.json"));
        JsonNode job = imported(client.upload(
                "/api/imports/files", "files", DemoWorld.registerDocuments().files()));
        String contract = client.get("/api/contracts/" + job.get("contract").asLong())
                .get("name")
                .asText();
        Path one = Files.createTempFile("one", ".csv");
        Files.writeString(
                one, "institution_no;loan_no;crate_no;insured_value;collect_on\r\nRG-10400;a;b;1,5;04.12.2026\r\n");
        JsonNode dataset = client.upload("/api/datasets/files", "file", Map.of("one.csv", Files.readAllBytes(one)));
        ((ObjectNode) file.get("stages").get(0))
                .put("dataset", dataset.get("name").asText());
        ((ObjectNode) file.get("stages").get(1)).put("contract", contract);
        ObjectNode fill = (ObjectNode) ((ArrayNode) file.get("stages").get(1).get("fills")).get(2);
        fill.remove("wire");
        fill.put("expression", "string-length(string-join(for $i in 1 to 1000000, $j in 1 to 1000000 return 'crate'))");
        long id = client.post("/api/flows", Map.of("name", "Runaway")).get("id").asLong();
        JsonNode preview = client.post(
                "/api/flows/" + id + "/preview",
                Map.of("file", file, "stage", "call", "record", 1, "environment", "Test"));
        String target = "/{urn:halewick:register:1}LookUpInstitution/{urn:halewick:register:1}loanReference";
        assertTrue(preview.get("fields").get(target).get("problem").asText().contains("was ended"), preview.toString());
        assertEquals(client.get("/api/me").get("name").asText(), "ada");
    }

    @Test
    public void errorsAreProblemDetailsWithoutStackTraces() throws Exception {
        for (String path :
                List.of("/api/contracts/999", "/api/runs/999", "/api/flows/999", "/api/nothing", "/api/datasets/999")) {
            ProductClient.Answer answer = client.send("GET", path, null, Map.of());
            assertEquals(answer.status(), 404, path);
            assertFalse(answer.text().contains("at wirekettle"), answer.text());
            assertTrue(answer.json().has("detail"), answer.text());
        }
        ProductClient.Answer bad = client.send("POST", "/api/flows", "not an object", Map.of());
        assertEquals(bad.status(), 400, new String(bad.body(), StandardCharsets.UTF_8));
    }
}
