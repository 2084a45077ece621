package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.zip.ZipEntry;
import java.util.zip.ZipOutputStream;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.demo.DemoWorld;
import wirekettle.demo.ProductClient;
import wirekettle.demo.StartedProduct;

/** Contracts over the API of the started server with 256 MB: windows of a sheet, picks, refreshes, logins, bad zips. */
public class ContractApiTest {
    private static final String C = "{urn:halewick:clearance}";
    private static final String P = "{urn:halewick:clearance:papers}";
    private StartedProduct product;
    private ProductClient client;
    private long clearance;

    @BeforeClass
    public void start() throws Exception {
        product = new StartedProduct(Path.of(".."), List.of("-Xmx256m"), Map.of());
        client = product.client();
        clearance = imported("", DemoWorld.clearanceDocuments().files())
                .get("contract")
                .asLong();
    }

    @AfterClass(alwaysRun = true)
    public void stop() throws Exception {
        if (product != null) {
            product.close();
        }
    }

    private JsonNode ended(JsonNode job) throws IOException {
        JsonNode[] state = {job};
        Until.until("the import ends", () -> {
            try {
                state[0] = client.get("/api/imports/" + job.get("id").asLong());
            } catch (IOException e) {
                throw new AssertionError(e);
            }
            return !state[0].get("state").asText().equals("reading");
        });
        return state[0];
    }

    private JsonNode imported(String query, Map<String, byte[]> files) throws IOException {
        return ended(client.upload("/api/imports/files" + query, "files", files));
    }

    private JsonNode sheet(long contract, String operation, Map<String, Object> more) throws IOException {
        Map<String, Object> query = new HashMap<>(Map.of("operation", operation, "message", "request"));
        query.putAll(more);
        return client.post("/api/contracts/" + contract + "/sheet", query);
    }

    private static List<String> names(JsonNode page) {
        List<String> names = new ArrayList<>();
        page.get("rows").forEach(row -> names.add(row.get("name").asText()));
        return names;
    }

    @Test
    public void aSheetIsGivenInWindowsSearchedAndExpandedByLevel() throws Exception {
        JsonNode all = sheet(clearance, "SubmitDocument", Map.of());
        assertEquals(all.get("total").asInt(), 10);
        JsonNode window = sheet(clearance, "SubmitDocument", Map.of("from", 3, "size", 2));
        assertEquals(names(window), List.of("reference", "party"));
        assertEquals(window.get("total").asInt(), 10);
        assertEquals(
                names(sheet(clearance, "SubmitDocument", Map.of("search", "what kind"))),
                List.of("SubmitDocument", "document"));
        assertEquals(
                names(sheet(clearance, "SubmitDocument", Map.of("level", 1))),
                List.of("ClearanceTicket", "ticket", "SubmitDocument", "reference", "party", "document"));
        assertFalse(names(sheet(clearance, "SubmitDocument", Map.of("requiredOnly", true)))
                .contains("language"));
    }

    @Test
    public void picksDecideTheRowsAndTheExample() throws Exception {
        String document = "/" + C + "SubmitDocument/" + C + "document";
        String at = "?operation=SubmitDocument&message=request";
        JsonNode choices = client.get("/api/contracts/" + clearance + "/choices" + at + "&path="
                + java.net.URLEncoder.encode(document, StandardCharsets.UTF_8));
        assertEquals(choices.size(), 4);
        String picked = document + "~" + P + "ConditionReport";
        assertEquals(
                choices.findValuesAsText("path").stream().filter(picked::equals).count(), 1);
        JsonNode rows = sheet(clearance, "SubmitDocument", Map.of("picks", List.of(picked)));
        assertTrue(names(rows).contains("finding"), rows.toString());
        JsonNode example = client.get("/api/contracts/" + clearance + "/example" + at + "&complete=false&pick="
                + java.net.URLEncoder.encode(picked, StandardCharsets.UTF_8));
        assertTrue(example.get("text").asText().contains("xsi:type=\"n2:ConditionReport\""));
        assertEquals(example.get("problems").size(), 0, example.toString());
        assertTrue(example.get("checked").asBoolean());
    }

    @Test
    public void recursionIsOpenedByHand() throws Exception {
        long vanline = imported("", DemoWorld.vanlineDocuments().files())
                .get("contract")
                .asLong();
        String v = "/{urn:halewick:vanline:2}";
        String inner = v + "BookTransport" + v + "crate" + v + "crate";
        assertEquals(
                names(sheet(vanline, "BookTransport", Map.of("level", 9))).stream()
                        .filter("content"::equals)
                        .count(),
                1);
        assertEquals(
                names(sheet(vanline, "BookTransport", Map.of("level", 9, "open", List.of(inner)))).stream()
                        .filter("content"::equals)
                        .count(),
                2);
    }

    @Test
    public void theSameDocumentsAgainAreNothingToTakeIn() throws Exception {
        JsonNode job = imported(
                "?contract=" + clearance, DemoWorld.clearanceDocuments().files());
        assertTrue(job.get("refresh").asBoolean());
        JsonNode refresh = client.get("/api/refreshes/" + job.get("id").asLong());
        assertTrue(refresh.get("same").asBoolean(), refresh.toString());
        assertEquals(refresh.get("changes").size(), 0);
        assertEquals(client.get("/api/contracts/" + clearance).get("revision").asInt(), 1);
        ProductClient.Answer gone = client.send("GET", "/api/refreshes/999999", null, Map.of());
        assertEquals(gone.status(), 404);
        assertTrue(gone.text().contains("refresh again"), gone.text());
    }

    @Test
    public void aRevisionTakenInStaysComparable() throws Exception {
        long register = imported("", DemoWorld.registerDocuments().files())
                .get("contract")
                .asLong();
        JsonNode job =
                imported("?contract=" + register, DemoWorld.registerNextYear().files());
        JsonNode taken = client.post("/api/refreshes/" + job.get("id").asLong(), Map.of());
        assertEquals(taken.get("revision").asInt(), 2);
        assertEquals(client.get("/api/contracts/" + register + "/revisions").size(), 2);
        JsonNode changes = client.get("/api/contracts/" + register + "/changes?from=1&to=2");
        assertTrue(changes.toString().contains("collectOn"), changes.toString());
        JsonNode back = client.get("/api/contracts/" + register + "/changes?from=2&to=1");
        assertEquals(back.size(), changes.size());
        assertEquals(
                client.send("GET", "/api/contracts/" + register + "/changes?from=1&to=7", null, Map.of())
                        .status(),
                404);
    }

    @Test
    public void aLoginIsSolvedInsideTheImportAndNotKept() throws Exception {
        try (LoginServer server =
                new LoginServer("ada", "crates-7731", DemoWorld.resource("vanline/VanlineDesk.wsdl"))) {
            String host = server.host();
            client.post("/api/allowed-hosts", Map.of("host", host));
            Map<String, String> from = new HashMap<>(Map.of("address", "http://" + host + "/desk?wsdl"));
            JsonNode blocked = ended(client.post("/api/imports", from));
            assertEquals(blocked.get("obstacle").get("kind").asText(), "login");
            assertEquals(blocked.get("obstacle").get("host").asText(), host);
            from.put("user", "ada");
            from.put("password", "crates-7731");
            JsonNode done = ended(client.post("/api/imports", from));
            assertEquals(done.get("state").asText(), "done", done.toString());
            String kept = client.get("/api/contracts/" + done.get("contract").asLong())
                            .toString()
                    + client.get("/api/contracts/" + done.get("contract").asLong() + "/revisions")
                    + done;
            assertFalse(kept.contains("crates-7731"), "the password is told");
        }
    }

    @Test
    public void anEndpointKeepsItsStyleAndIsToldWhatItsContractWants() throws Exception {
        Map<String, Object> style =
                Map.of("prefixes", "none", "sendEmpty", true, "forceTypes", false, "orderAsGiven", false);
        client.put(
                "/api/endpoints",
                Map.of(
                        "name",
                        "Clearance in the south",
                        "addresses",
                        Map.of("Test", "http://clearance.invalid/desk"),
                        "style",
                        style));
        client.put(
                "/api/endpoints",
                Map.of("name", "Clearance in the south", "addresses", Map.of("Test", "http://clearance.invalid/desk")));
        for (JsonNode endpoint : client.get("/api/endpoints")) {
            if (endpoint.get("name").asText().equals("Clearance in the south")) {
                assertEquals(endpoint.get("style").get("prefixes").asText(), "none");
                assertTrue(endpoint.get("style").get("sendEmpty").asBoolean());
            }
        }
        JsonNode advice = client.get("/api/endpoint-advice");
        assertTrue(advice.toString().contains("wants a UsernameToken over TLS"), advice.toString());
        assertTrue(advice.toString().contains("Clearance in the south"), advice.toString());
    }

    @Test
    public void strictRefusesAndLenientRepairsTheSameFile() throws Exception {
        Map<String, byte[]> saved = Map.of(
                "saved.wsdl",
                Files.readAllBytes(Path.of("../demo/src/main/resources/awkward/text-before-declaration.wsdl")));
        assertEquals(imported("?strict=true", saved).get("state").asText(), "refused");
        JsonNode lenient = imported("", saved);
        assertEquals(lenient.get("state").asText(), "done");
        assertEquals(lenient.get("findings").get(0).get("code").asText(), "text-before");
    }

    @Test
    public void aZipThatUnpacksWithoutEndIsRefusedAndTheServerStaysUp() throws Exception {
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        try (ZipOutputStream zip = new ZipOutputStream(bytes)) {
            byte[] blanks = new byte[1 << 20];
            for (int i = 0; i < 100; i++) {
                zip.putNextEntry(new ZipEntry("part-" + i + ".xsd"));
                zip.write(blanks);
            }
        }
        ProductClient.Answer refused =
                client.uploading("/api/imports/files", "files", Map.of("bomb.zip", bytes.toByteArray()));
        assertTrue(refused.status() >= 400 && refused.status() < 500, refused.status() + " " + refused.text());
        assertTrue(refused.text().contains("100 times its size"), refused.text());
        assertEquals(client.get("/api/contracts/" + clearance).get("name").asText(), "Loan Clearance");
    }

    @Test
    public void aDocumentInAnotherEncodingIsShownAsText() throws Exception {
        Map<String, byte[]> latin =
                Map.of("latin.wsdl", Files.readAllBytes(Path.of("../demo/src/main/resources/awkward/iso-8859-1.wsdl")));
        long id = imported("", latin).get("contract").asLong();
        String text = client.send("GET", "/api/contracts/" + id + "/documents/0", null, Map.of())
                .text();
        assertTrue(text.contains("Für die Kiste aus Öderstad"), text);
    }

    @Test
    public void aContractOfManyFilesIsReadAndWhatIsTooManyIsTold() throws Exception {
        String wsdl = new String(DemoWorld.resource("vanline/VanlineDesk.wsdl"), StandardCharsets.UTF_8);
        JsonNode read = imported("", withSchemas(wsdl, 1_200));
        assertEquals(read.get("state").asText(), "done", read.toString());
        JsonNode cut = imported("", withSchemas(wsdl.replace("Vanline", "Vancart"), 2_300));
        assertTrue(cut.toString().contains("more than 2000 documents"), cut.toString());
        ProductClient.Answer refused = client.uploading("/api/imports/files", "files", withSchemas(wsdl, 5_100));
        assertEquals(refused.status(), 413, refused.text());
        assertEquals(refused.json().get("code").asText(), "too-many-files");
    }

    private static Map<String, byte[]> withSchemas(String wsdl, int count) {
        Map<String, byte[]> files = new LinkedHashMap<>();
        StringBuilder imports = new StringBuilder();
        for (int i = 0; i < count; i++) {
            imports.append("<xs:import namespace='urn:part" + i + "' schemaLocation='part-" + i + ".xsd'/>");
            files.put(
                    "part-" + i + ".xsd",
                    ("<xs:schema xmlns:xs='http://www.w3.org/2001/XMLSchema' targetNamespace='urn:part" + i + "'/>")
                            .getBytes(StandardCharsets.UTF_8));
        }
        files.put(
                "many.wsdl",
                wsdl.replaceFirst("(<xs:schema[^>]*>)", "$1" + imports).getBytes(StandardCharsets.UTF_8));
        return files;
    }
}
