package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.core.flow.file.FlowBundle;
import wirekettle.demo.ProductClient.Answer;

/** Folders through the API: their files, the flows that send them and keep what comes back. */
public class AttachmentApiTest extends SeededApi {
    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx512m", Map.of());
    }

    private long folder(String name) throws IOException {
        return client.post("/api/datasets", Map.of("name", name, "kind", "folder"))
                .get("id")
                .asLong();
    }

    private long dataset(String name) throws IOException {
        return client.get("/api/datasets?q=" + name.replace(" ", "%20"))
                .at("/items/0/id")
                .asLong();
    }

    private List<String> names(long folder, String query) throws IOException {
        return client.get("/api/datasets/" + folder + "/files" + query)
                .get("items")
                .findValuesAsText("name");
    }

    @Test
    public void filesAreAddedFoundSortedReplacedSavedAndRemoved() throws Exception {
        long id = folder("papers");
        String at = "/api/datasets/" + id + "/files";
        Map<String, byte[]> files = new LinkedHashMap<>();
        files.put("Brief für Öderstad.pdf", new byte[] {1, 2, 3});
        files.put("agreement.txt", "agreed".getBytes(StandardCharsets.UTF_8));
        files.put("../condition.txt", new byte[20]);
        client.upload(at, "files", files);
        assertEquals(names(id, ""), List.of("Brief für Öderstad.pdf", "_condition.txt", "agreement.txt"));
        assertEquals(names(id, "?q=N.TXT"), List.of("_condition.txt"));
        assertEquals(names(id, "?q=.TXT&sort=-bytes"), List.of("_condition.txt", "agreement.txt"));
        assertEquals(names(id, "?sort=bytes&size=1&page=2"), List.of("agreement.txt"));
        assertEquals(client.get("/api/datasets/" + id).get("rows").asInt(), 3);
        assertEquals(rows("papers").get(2).subList(0, 3), List.of("agreement.txt", "text/plain", "6"));
        Answer taken = client.uploading(at, "files", Map.of("agreement.txt", new byte[] {9}));
        assertEquals(taken.status(), 409);
        assertEquals(taken.json().get("detail").asText(), "The folder has agreement.txt already.");
        client.upload(at + "?replace=true", "files", Map.of("agreement.txt", new byte[] {9}));
        String name = URLEncoder.encode("Brief für Öderstad.pdf", StandardCharsets.UTF_8);
        Answer saved = client.send("GET", at + "/content?name=" + name, null, Map.of());
        assertEquals(saved.status(), 200);
        assertEquals(saved.body(), new byte[] {1, 2, 3});
        for (String wrong : List.of("..%2Fpapers.csv", "nothing.pdf", "%2Fetc%2Fpasswd")) {
            assertEquals(
                    client.send("GET", at + "/content?name=" + wrong, null, Map.of())
                            .status(),
                    404,
                    wrong);
            assertEquals(
                    client.send("DELETE", at + "?name=" + wrong, null, Map.of()).status(), 404, wrong);
        }
        assertEquals(client.send("DELETE", at + "?name=" + name, null, Map.of()).status() / 100, 2);
        assertEquals(names(id, ""), List.of("_condition.txt", "agreement.txt"));
        long loans = dataset("loans");
        assertEquals(
                client.send("GET", "/api/datasets/" + loans + "/files", null, Map.of())
                        .status(),
                422);
        assertEquals(
                client.send("DELETE", "/api/datasets/" + id, null, Map.of()).status() / 100, 2);
        assertEquals(client.send("GET", at, null, Map.of()).status(), 404);
    }

    @Test
    public void photographsAreSentAndLabelsKeptWithEveryProofBefore() throws Exception {
        JsonNode flow = flow("Label crates");
        long id = flow.get("id").asLong();
        JsonNode file = flow.get("file");
        JsonNode call = preview(id, file, "call", 1, "first");
        assertEquals(call.get("attention").size(), 0, call.get("attention").toString());
        String message = call.get("sends").asText();
        assertTrue(
                message.contains("<?file-content folder=\"crate photographs\" name=\"HC-20481-1.png\" bytes=\""),
                message);
        long labels = dataset("crate labels");
        JsonNode write = preview(id, file, "write", 1, "first");
        assertEquals(write.at("/fields/label/value").asText(), "HC-20481-1.svg");
        assertEquals(names(labels, ""), List.of(), "looking at a sample writes nothing");

        long proof = client.post("/api/flows/" + id + "/proofs", Map.of("file", file, "samples", "all"))
                .get("id")
                .asLong();
        assertEquals(ended("/api/proofs/" + proof, null).get("valid").asInt(), 12);
        long run = client.post("/api/flows/" + id + "/runs", Map.of("environment", "Test"))
                .get("id")
                .asLong();
        JsonNode done = ended("/api/runs/" + run, "run");
        assertEquals(done.get("done").asInt(), 12, done.toString());
        assertEquals(names(labels, "?size=100").size(), 12);
        assertEquals(client.get("/api/datasets/" + labels).get("rows").asInt(), 12);
        List<String> first = rows("labelled crates").get(0);
        assertEquals(first.get(2), "HC-20481-1.svg");
        String label = client.send(
                        "GET", "/api/datasets/" + labels + "/files/content?name=HC-20481-1.svg", null, Map.of())
                .text();
        assertTrue(label.startsWith("<svg"), label);
        // the service counted the bytes of the photograph it was sent
        long sent = client.get("/api/datasets/" + dataset("crate photographs") + "/files?q=HC-20481-1")
                .at("/items/0/bytes")
                .asLong();
        assertEquals(first.get(1), Long.toString(sent));
    }

    @Test
    public void whatIsWrongWithAFileIsToldInThePreviewAndRejectsItsRecord() throws Exception {
        JsonNode flow = copy("Label crates", "Label what is not there");
        long id = flow.get("id").asLong();
        ObjectNode file = flow.get("file").deepCopy();
        ObjectNode photograph = fill(stage(file, "call"), "photograph");
        photograph.remove("wire");
        photograph.put("expression", "concat('x-', $photo/name)");
        JsonNode shown = preview(id, file, "call", 1, "first");
        assertEquals(shown.at("/attention/0/message").asText(), "photograph does not fit for 12 of 12 samples");
        JsonNode field = shown.get("fields").get(photograph.get("target").asText());
        assertEquals(field.get("problem").asText(), "is no file of the folder “crate photographs”");
        assertFalse(field.hasNonNull("fix"), "no format mends a file that is not there");

        fill(stage(file, "call"), "photograph").with("file").put("folder", "gone");
        JsonNode problems = preview(id, file, "call", 1, "first").get("problems");
        assertTrue(problems.toString().contains("the folder “gone” is not there: pick another"), problems.toString());
    }

    @Test
    public void aBundleNamesItsFolders() throws Exception {
        long id = flow("Label crates").get("id").asLong();
        Path zip = Files.createTempFile("bundle", ".zip");
        Files.write(
                zip,
                client.send("GET", "/api/flows/" + id + "/bundle?environment=Test", null, Map.of())
                        .body());
        FlowBundle bundle = FlowBundle.read(zip);
        assertEquals(bundle.folders().toString(), "[crate labels, crate photographs]");
        assertTrue(bundle.endpoints()
                .get("Vanline Desk with attachments")
                .settings()
                .mtom());
    }
}
