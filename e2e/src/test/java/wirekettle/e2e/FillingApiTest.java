package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.connect.SheetFile;

/**
 * What helps to fill a request, through the API: proofs, sample sets, the analyst's sheet, expressions, what was kept
 * before.
 */
public class FillingApiTest extends SeededApi {
    private static final String V = "{urn:halewick:vanline:2}";

    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx512m", Map.of());
    }

    @Test
    public void everyWholeMessageIsHeldAgainstTheSchemaForTheSamplesChosen() throws Exception {
        JsonNode flow = flow("Check borrowing institutions");
        long id = flow.get("id").asLong();
        JsonNode file = flow.get("file");
        for (Map.Entry<String, Integer> each :
                Map.of("first", 50, "random", 50, "all", 240).entrySet()) {
            long proof = client.post("/api/flows/" + id + "/proofs", Map.of("file", file, "samples", each.getKey()))
                    .get("id")
                    .asLong();
            JsonNode done = ended("/api/proofs/" + proof, null);
            assertEquals(done.get("state").asText(), "done");
            assertEquals(done.get("checked").asInt(), each.getValue().intValue());
            // three loans of the demo's data have a registration number nobody can look up
            int invalid = done.get("invalid").size();
            assertEquals(done.get("valid").asInt(), each.getValue() - invalid);
            assertTrue(
                    each.getKey().equals("all") ? invalid == 3 : invalid <= 3,
                    done.get("invalid").toString());
        }
        ObjectNode wrong = file.deepCopy();
        fill(stage(wrong, "call"), "purpose").put("constant", "holiday");
        long proof = client.post("/api/flows/" + id + "/proofs", Map.of("file", wrong, "samples", "all"))
                .get("id")
                .asLong();
        JsonNode done = ended("/api/proofs/" + proof, null);
        assertEquals(done.get("valid").asInt(), 0);
        assertTrue(done.get("invalid").get(0).get("message").asText().contains("“holiday” not one of"));
        assertEquals(
                client.send("DELETE", "/api/proofs/" + proof, null, Map.of()).status() / 100, 2);
        assertEquals(client.send("GET", "/api/proofs/999999", null, Map.of()).status(), 404);
    }

    @Test
    public void theSampleSetDecidesTheCoverageAndProblemsCountTheSameEverywhere() throws Exception {
        JsonNode flow = flow("Check borrowing institutions");
        ObjectNode file = flow.get("file").deepCopy();
        fill(stage(file, "call"), "insuredValue").remove("format");
        JsonNode first = preview(flow.get("id").asLong(), file, "call", 1, "first");
        JsonNode random = preview(flow.get("id").asLong(), file, "call", 1, "random");
        for (JsonNode shown : List.of(first, random)) {
            assertEquals(shown.get("samples").asInt(), 50);
            assertEquals(
                    shown.get("attention").size(), 1, shown.get("attention").toString());
            assertEquals(
                    shown.get("attention").get(0).get("message").asText(),
                    "insuredValue does not fit for 50 of 50 samples");
            JsonNode fix = shown.at("/fields")
                    .get(shown.get("attention").get(0).get("field").asText())
                    .get("fix");
            assertEquals(fix.get("mends").asInt(), 50);
            assertEquals(fix.get("of").asInt(), 50);
        }
        assertTrue(!first.toString().equals(random.toString()), "other records are blamed");
        fill(stage(file, "call"), "insuredValue").set("format", JSON.readTree("{\"kind\":\"number\",\"read\":\",\"}"));
        assertEquals(
                preview(flow.get("id").asLong(), file, "call", 1, "first")
                        .get("attention")
                        .size(),
                0);
    }

    @Test
    public void theAnalystsSheetComesInAsProposalsWithProofAndGoesOutCurrent() throws Exception {
        JsonNode flow = copy("Check borrowing institutions", "From the sheet");
        String at = "/api/flows/" + flow.get("id").asLong();
        ByteArrayOutputStream sheet = new ByteArrayOutputStream();
        SheetFile.workbook(
                List.of(
                        List.of("Target field", "Source field", "Rule", "Remark"),
                        List.of("loanReference", "crate_no", "", "crates, not loans"),
                        List.of("insuredValue", "insured_value", "", ""),
                        List.of("collectOn", "collect_on", "date dd.MM.yyyy", ""),
                        List.of("colour", "climate", "", "")),
                "Mapping",
                sheet);
        JsonNode read = client.upload(
                at + "/mapping-sheet",
                "file",
                Map.of("mapping.xlsx", sheet.toByteArray()),
                Map.of("record", "1", "environment", "Test"));
        assertEquals(read.size(), 4);
        assertEquals(read.get(0).at("/fill/wire").asText(), "$loan/crate_no");
        assertEquals(read.get(0).at("/fill/remark").asText(), "crates, not loans");
        assertEquals(read.get(0).at("/proof/value").asText(), "HC-20481-1");
        assertEquals(read.get(1).at("/proof/invalid").asInt(), 50, "the decimal comma is not read by a wire alone");
        assertEquals(read.get(2).at("/proof/fine").asInt(), 50);
        assertTrue(read.get(2).get("same").asBoolean(), "it is filled so already");
        assertTrue(!read.get(0).get("same").asBoolean());
        assertTrue(read.get(3).get("problem").asText().contains("no field of this message"));
        JsonNode broken = client.uploading(at + "/mapping-sheet", "file", Map.of("x.csv", new byte[0]))
                .json();
        assertEquals(broken.get("code").asText(), "empty-file");

        String csv = client.send("GET", at + "/mapping-sheet?form=csv", null, Map.of())
                .text();
        assertTrue(csv.contains("LookUpInstitution/insuredValue,$loan/insured_value,decimal comma,"), csv);
        Path written = Files.createTempFile("mapping", ".xlsx");
        Files.write(
                written,
                client.send("GET", at + "/mapping-sheet?form=xlsx", null, Map.of())
                        .body());
        assertEquals(SheetFile.read(written).size(), csv.lines().count());
        // what went out comes in again and says nothing new, whatever the flow's fills say
        for (String name : List.of("Check borrowing institutions", "Book transports", "Label crates")) {
            for (String place : List.of("call", "write")) {
                String its = "/api/flows/" + flow(name).get("id").asLong() + "/mapping-sheet";
                byte[] out = client.send("GET", its + "?form=xlsx&stage=" + place, null, Map.of())
                        .body();
                JsonNode again = client.upload(
                        its,
                        "file",
                        Map.of("again.xlsx", out),
                        Map.of("record", "1", "environment", "Test", "stage", place));
                int fills = 0;
                for (JsonNode line : again) {
                    fills += line.hasNonNull("fill") ? 1 : 0;
                    assertTrue(!line.hasNonNull("fill") || line.get("same").asBoolean(), name + ": " + line);
                }
                assertEquals(
                        fills, stage(flow(name).get("file"), place).get("fills").size(), name + " " + place);
            }
        }
    }

    @Test
    public void expressionsAndScriptsAreTriedAndCannotReachOutside() throws Exception {
        JsonNode flow = flow("Book transports");
        Map<String, Object> asked =
                new HashMap<>(Map.of("file", flow.get("file"), "stage", "call", "record", 1, "environment", "Test"));
        String at = "/api/flows/" + flow.get("id").asLong();
        asked.put("expression", "upper-case($crate/object)");
        asked.put("target", "/" + V + "BookTransport/" + V + "crate/" + V + "climate");
        assertEquals(client.post(at + "/expression", asked).get("value").asText(), "GLASS ORRERY (PART 1)");
        asked.put("target", "/" + V + "BookTransport/" + V + "remark");
        assertTrue(
                client.post(at + "/expression", asked).get("problem").asText().contains("$crate is not known"));
        asked.put("expression", "doc('file:///etc/passwd')");
        assertTrue(
                client.post(at + "/expression", asked).get("problem").asText().contains("not allowed"));
        asked.put("expression", "concat($loan/loan_no, nothing())");
        JsonNode told = client.post(at + "/expression", asked);
        assertTrue(
                told.get("column").asInt() > 0 && told.get("problem").asText().contains("nothing"), told.toString());
        assertTrue(client.get("/api/expression-functions").size() > 40);

        ObjectNode file = flow.get("file").deepCopy();
        ((ArrayNode) file.get("stages"))
                .insert(
                        1,
                        JSON.readTree(
                                "{\"verb\":\"Map\",\"id\":\"m\",\"language\":\"xquery\",\"as\":\"message\",\"text\":"
                                        + "\"<from><name>{string($loan/borrower)}</name><city>Here</city><odd/></from>\"}"));
        assertTrue(preview(flow.get("id").asLong(), file, "m", 1, "first")
                .get("sends")
                .asText()
                .contains("<name>Lünbrück Gallery of Maps</name>"));
        JsonNode differences = client.post(
                at + "/differences",
                Map.of(
                        "file",
                        file,
                        "stage",
                        "call",
                        "record",
                        1,
                        "environment",
                        "Test",
                        "target",
                        "/" + V + "BookTransport/" + V + "deliverTo",
                        "from",
                        "$message"));
        assertEquals(differences.get("same").toString(), "[\"name\",\"city\"]");
        assertEquals(differences.get("onlySource").toString(), "[\"odd\"]");
        assertEquals(differences.get("missing").size(), 0);
        ((ObjectNode) file.get("stages").get(1)).put("text", "<a>\n{unparsed-text('x')}</a>");
        JsonNode refused = preview(flow.get("id").asLong(), file, "m", 1, "first");
        assertTrue(
                refused.get("attention").toString().contains("unparsed-text() is not allowed"),
                refused.get("attention").toString());
    }

    @Test
    public void whatWasKeptOnceIsProposedAgain() throws Exception {
        JsonNode flow = copy("Check borrowing institutions", "Kept once");
        ObjectNode file = (ObjectNode) flow.get("file");
        fill(stage(file, "call"), "purpose").remove("constant");
        fill(stage(file, "call"), "purpose").put("wire", "$loan/climate");
        client.send("PUT", "/api/flows/" + flow.get("id"), file, Map.of("If-Match", "\"1\""));
        ObjectNode fresh = file.deepCopy();
        stage(fresh, "call").putArray("fills");
        JsonNode found = client.post(
                "/api/flows/" + flow.get("id") + "/suggestions",
                Map.of("file", fresh, "stage", "call", "record", 1, "environment", "Test"));
        JsonNode purpose = null;
        for (JsonNode each : found) {
            purpose = each.at("/fill/target").asText().endsWith("purpose") ? each : purpose;
        }
        assertTrue(purpose != null, "nothing in the names would have said so: " + found);
        assertEquals(purpose.at("/fill/wire").asText(), "$loan/climate");
        assertEquals(purpose.get("reason").asText(), "accepted before for this dataset");
    }

    private Map<String, JsonNode> suggestions(JsonNode flow, JsonNode file, String stage) throws IOException {
        Map<String, JsonNode> byTarget = new HashMap<>();
        client.post(
                        "/api/flows/" + flow.get("id") + "/suggestions",
                        Map.of("file", file, "stage", stage, "record", 1, "environment", "Test"))
                .forEach(each -> byTarget.put(each.at("/fill/target").asText().replaceAll("\\{[^}]*}", ""), each));
        return byTarget;
    }

    /** Returns a copy of a flow's file with one stage that fills nothing. */
    private static ObjectNode emptied(JsonNode flow, String stage) {
        ObjectNode file = flow.get("file").deepCopy();
        stage(file, stage).putArray("fills");
        return file;
    }

    @Test
    public void aListIsProposedTogetherWithWhatIsInsideIt() throws Exception {
        JsonNode flow = copy("Book transports", "Lists proposed");
        ObjectNode file = emptied(flow, "call");
        Map<String, JsonNode> found = suggestions(flow, file, "call");
        JsonNode crates = found.get("/BookTransport/crate");
        assertEquals(crates.at("/fill/repeat").asText(), "$loan/line");
        assertTrue(crates.get("reason").asText().startsWith("one for each $loan/line"), crates.toString());
        JsonNode weight = found.get("/BookTransport/crate/grossKilograms");
        assertEquals(weight.at("/fill/wire").asText(), "$line/gross_kg");
        assertEquals(weight.at("/fill/format/read").asText(), ",");
        assertEquals(weight.get("needs").asText(), crates.at("/fill/target").asText());
        assertEquals(found.get("/BookTransport/loanReference").at("/fill/wire").asText(), "$loan/loan_no");

        // what a script makes is in reach too, and its lists are lists
        ((ArrayNode) file.get("stages"))
                .insert(
                        1,
                        JSON.readTree(
                                "{\"verb\":\"Map\",\"id\":\"m\",\"language\":\"xquery\",\"as\":\"message\",\"text\":"
                                        + "\"<m><deliverWithinDays>5</deliverWithinDays></m>\"}"));
        JsonNode days = suggestions(flow, file, "call").get("/BookTransport/deliverWithinDays");
        assertEquals(days.at("/fill/wire").asText(), "$message/deliverWithinDays");
    }

    @Test
    public void columnsOfARecordAreProposedFromTheReplyAndTheRecord() throws Exception {
        JsonNode flow = copy("Check borrowing institutions", "Columns proposed");
        ObjectNode file = emptied(flow, "write");
        Map<String, JsonNode> found = suggestions(flow, file, "write");
        assertEquals(found.get("loan_no").at("/fill/wire").asText(), "$loan/loan_no");
        assertEquals(found.get("city").at("/fill/wire").asText(), "$borrower/address/city");
        assertTrue(found.get("city").get("score").asDouble() >= 0.6, found.toString());
        JsonNode unlike = found.get("over_limit");
        assertTrue(unlike == null || unlike.get("score").asDouble() < 0.6, "nothing is much like it: " + unlike);
    }

    /** Adds a dataset of loans; one of them has a number nobody can look up. */
    private void manyLoans(String name, int count, int wrong) throws IOException {
        StringBuilder rows = new StringBuilder("loan_no;institution_no\n");
        for (int i = 1; i <= count; i++) {
            rows.append("HC-")
                    .append(20_000 + i)
                    .append(";RG-")
                    .append(i == wrong ? "10437-WEST-WING" : "10696")
                    .append('\n');
        }
        client.upload(
                "/api/datasets/files",
                "file",
                Map.of(name + ".csv", rows.toString().getBytes()));
    }

    private static void readsManyLoans(ObjectNode file, String dataset, String root) {
        stage(file, "read").put("dataset", dataset);
        ArrayNode fills = stage(file, "call").putArray("fills");
        fills.addObject()
                .put("id", "a")
                .put("target", root + "registrationNumber")
                .put("wire", "$loan/institution_no");
        fills.addObject().put("id", "b").put("target", root + "requestedBy").put("constant", "HALEWICK");
    }

    @Test
    public void aProofThatIsGoingOnIsEndedWhereItStands() throws Exception {
        manyLoans("very many loans", 120_000, 7);
        JsonNode flow = copy("Check borrowing institutions", "Ended early");
        ObjectNode file = flow.get("file").deepCopy();
        readsManyLoans(
                file, "very many loans", "/{urn:halewick:register:1}LookUpInstitution/{urn:halewick:register:1}");
        String at = "/api/flows/" + flow.get("id") + "/proofs";
        String proof = "/api/proofs/"
                + client.post(at, Map.of("file", file, "samples", "all"))
                        .get("id")
                        .asLong();
        while (client.get(proof).get("checked").asInt() == 0) {
            Thread.onSpinWait();
        }
        client.send("DELETE", proof, null, Map.of());
        JsonNode ended = ended(proof, null);
        assertEquals(ended.get("state").asText(), "cancelled");
        assertTrue(ended.get("checked").asInt() < 120_000, ended.toString());
        assertEquals(ended.get("total").asInt(), 120_000);
    }

    @Test
    public void anyRecordOfALargeDatasetCanBeTheSample() throws Exception {
        manyLoans("many loans", 1_500, 1_400);
        JsonNode flow = copy("Check borrowing institutions", "Far away");
        ObjectNode file = flow.get("file").deepCopy();
        String r = "/{urn:halewick:register:1}LookUpInstitution/{urn:halewick:register:1}";
        readsManyLoans(file, "many loans", r);
        long id = flow.get("id").asLong();
        long proof = client.post("/api/flows/" + id + "/proofs", Map.of("file", file, "samples", "all"))
                .get("id")
                .asLong();
        JsonNode invalid = ended("/api/proofs/" + proof, null).get("invalid");
        assertEquals(invalid.size(), 1);
        long blamed = invalid.get(0).get("record").asLong();
        assertEquals(blamed, 1_400);
        JsonNode shown = preview(id, file, "call", blamed, "first");
        assertEquals(shown.get("record").asLong(), blamed);
        assertEquals(
                shown.at("/fields").get(r + "registrationNumber").get("value").asText(), "RG-10437-WEST-WING");
        assertEquals(preview(id, file, "call", 99_999, "first").get("record").asLong(), 1_500, "the last there is");
        JsonNode called = client.post(
                "/api/flows/" + id + "/sample-call",
                Map.of("file", file, "stage", "call", "record", 1_399, "environment", "Test"));
        assertEquals(called.get("record").asLong(), 1_399);
        assertTrue(called.at("/kept/request").asText().contains("RG-10696"), called.toString());
    }

    @Test
    public void everyRevisionThatWasSavedCanBeReadAgain() throws Exception {
        JsonNode flow = copy("Check borrowing institutions", "Saved twice");
        String at = "/api/flows/" + flow.get("id").asLong();
        ObjectNode file = flow.get("file").deepCopy();
        stage(file, "call").putArray("fills");
        client.send("PUT", at, file, Map.of("If-Match", "\"1\""));
        assertEquals(client.get(at + "/revisions/1"), flow.get("file"));
        assertEquals(client.get(at + "/revisions/2").at("/stages/1/fills").size(), 0);
        assertEquals(client.send("GET", at + "/revisions/3", null, Map.of()).status(), 404);
    }
}
