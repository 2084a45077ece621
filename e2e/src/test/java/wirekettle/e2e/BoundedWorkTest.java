package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;

/** What a server with 256 MB does when more is asked of it than it can hold or work out at one time. */
public class BoundedWorkTest extends SeededApi {
    private static final String SOAP = "http://schemas.xmlsoap.org/soap/envelope/";

    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx256m", Map.of());
    }

    private static String wrapped() throws IOException {
        return Files.readString(Path.of("../demo/src/main/resources/awkward/wrapped.wsdl"));
    }

    private JsonNode imported(JsonNode job) throws Exception {
        JsonNode state = job;
        while (state.get("state").asText().equals("reading")) {
            Thread.onSpinWait();
            state = client.get("/api/imports/" + job.get("id"));
        }
        return state;
    }

    @Test
    public void importsThatNeedMoreThanThereIsWaitForEachOther() throws Exception {
        StringBuilder types = new StringBuilder();
        for (int i = 0; i < 22_000; i++) {
            types.append("<xs:element name=\"crate")
                    .append(i)
                    .append(
                            "\"><xs:complexType><xs:sequence><xs:element name=\"number\" type=\"xs:string\"/><xs:element")
                    .append(" name=\"kilograms\" type=\"xs:decimal\"/></xs:sequence></xs:complexType></xs:element>\n");
        }
        String large = wrapped().replaceFirst("(<xs:schema[^>]*>)", "$1" + types);
        assertTrue(large.length() > 4_000_000, "characters " + large.length());
        List<JsonNode> jobs = new ArrayList<>();
        for (int i = 0; i < 6; i++) {
            jobs.add(client.upload(
                    "/api/imports/files",
                    "files",
                    Map.of("large" + i + ".wsdl", large.getBytes(StandardCharsets.UTF_8))));
        }
        for (JsonNode job : jobs) {
            JsonNode read = imported(job);
            assertEquals(
                    read.get("state").asText(), "done", read.path("message").asText());
        }
        assertTrue(product.handle().isAlive());
    }

    @Test
    public void atLeastThreeImportsReadAtOnce() throws Exception {
        byte[] wsdl = wrapped().getBytes(StandardCharsets.UTF_8);
        CountDownLatch asked = new CountDownLatch(3);
        HttpServer slow = HttpServer.create(new InetSocketAddress(InetAddress.getByName("127.0.0.1"), 0), 16);
        slow.setExecutor(Executors.newCachedThreadPool());
        slow.createContext("/", exchange -> {
            try (exchange) {
                asked.countDown();
                // nobody gets an answer before three have asked
                asked.await(60, TimeUnit.SECONDS);
                exchange.sendResponseHeaders(200, wsdl.length);
                exchange.getResponseBody().write(wsdl);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        });
        slow.start();
        try {
            String host = "127.0.0.1:" + slow.getAddress().getPort();
            client.post("/api/allowed-hosts", Map.of("host", host));
            List<JsonNode> jobs = new ArrayList<>();
            for (int i = 0; i < 3; i++) {
                jobs.add(client.post("/api/imports", Map.of("address", "http://" + host + "/" + i + "?wsdl")));
            }
            for (JsonNode job : jobs) {
                JsonNode read = imported(job);
                assertEquals(
                        read.get("state").asText(), "done", read.path("message").asText());
            }
        } finally {
            slow.stop(0);
        }
    }

    /** The bodies of previews of a flow whose message takes as long as an expression may, for every sample. */
    private byte[] slowPreview() throws IOException {
        JsonNode flow = flow("Check borrowing institutions");
        ObjectNode file = flow.get("file").deepCopy();
        ObjectNode fill = fill(stage(file, "call"), "registrationNumber");
        fill.remove("wire");
        fill.put("expression", "string(sum(for $i in 1 to 900000, $j in 1 to 900000 return $i mod 7 + $j))");
        return JSON.writeValueAsBytes(
                Map.of("file", file, "stage", "call", "record", 1, "environment", "Test", "samples", "first"));
    }

    /** The cookie of a session of its own, for requests that are broken off. */
    private String session() throws Exception {
        HttpRequest signIn = HttpRequest.newBuilder(URI.create(product.address() + "/api/sign-in"))
                .header("Content-Type", "application/json")
                .header("X-Wire-Kettle", "test")
                .POST(HttpRequest.BodyPublishers.ofByteArray(
                        JSON.writeValueAsBytes(Map.of("name", "ada", "password", product.password()))))
                .build();
        HttpResponse<String> answer = HttpClient.newHttpClient().send(signIn, HttpResponse.BodyHandlers.ofString());
        return answer.headers().firstValue("Set-Cookie").orElseThrow().split(";")[0];
    }

    private HttpRequest preview(byte[] body) throws Exception {
        long flow = flow("Check borrowing institutions").get("id").asLong();
        return HttpRequest.newBuilder(URI.create(product.address() + "/api/flows/" + flow + "/preview"))
                .header("Content-Type", "application/json")
                .header("X-Wire-Kettle", "test")
                .header("Cookie", session())
                .POST(HttpRequest.BodyPublishers.ofByteArray(body))
                .build();
    }

    /** How many threads of the server work on previews now. */
    private int previewing() throws IOException {
        Process stacks = new ProcessBuilder(
                        System.getProperty("java.home") + "/bin/jcmd",
                        Long.toString(product.handle().pid()),
                        "Thread.print")
                .redirectErrorStream(true)
                .start();
        String text = new String(stacks.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        assertTrue(text.contains("executor-thread"), text);
        return (int) List.of(text.split("\n\n")).stream()
                .filter(stack -> stack.contains("Previewer.preview("))
                .count();
    }

    private void untilPreviewing(int wanted, CompletableFuture<?> going) throws IOException {
        while (previewing() != wanted) {
            assertFalse(going.isDone(), "the preview that is still asked for has ended meanwhile: " + previewing());
        }
    }

    @Test
    public void previewsNobodyWaitsForEnd() throws Exception {
        HttpRequest request = preview(slowPreview());
        HttpClient.Builder http = HttpClient.newBuilder().version(HttpClient.Version.HTTP_1_1);
        CompletableFuture<HttpResponse<String>> asked =
                http.build().sendAsync(request, HttpResponse.BodyHandlers.ofString());
        List<CompletableFuture<HttpResponse<String>>> abandoned = new ArrayList<>();
        for (int i = 0; i < 3; i++) {
            abandoned.add(http.build().sendAsync(request, HttpResponse.BodyHandlers.ofString()));
        }
        untilPreviewing(4, asked);
        abandoned.forEach(each -> each.cancel(true));
        // only the one that somebody waits for goes on
        untilPreviewing(1, asked);
        asked.cancel(true);
        while (previewing() > 0) {
            Thread.onSpinWait();
        }
    }

    @Test
    public void previewsShareTheMemoryThereIs() throws Exception {
        JsonNode flow = flow("Check borrowing institutions");
        String reply = "<s:Envelope xmlns:s='" + SOAP + "'><s:Body><r:LookUpInstitutionResponse"
                + " xmlns:r='urn:halewick:register:1'><r:name>" + "x".repeat(1_500_000)
                + "</r:name></r:LookUpInstitutionResponse></s:Body></s:Envelope>";
        try (Connection admin = product.admin(product.database());
                PreparedStatement keep = admin.prepareStatement(
                        "insert into kept_reply (flow_id, stage, record, endpoint, environment, request_hash, request,"
                                + " status, reply, millis) values (?, 'call', ?, 'e', 'Test', '', '<a/>', 200, ?, 1)")) {
            for (int record = 10; record < 13; record++) {
                keep.setLong(1, flow.get("id").asLong());
                keep.setInt(2, record);
                keep.setString(3, reply);
                keep.executeUpdate();
            }
        }
        byte[] body = JSON.writeValueAsBytes(Map.of(
                "file", flow.get("file"), "stage", "call", "record", 1, "environment", "Test", "samples", "first"));
        HttpClient http =
                HttpClient.newBuilder().version(HttpClient.Version.HTTP_1_1).build();
        HttpRequest request = preview(body);
        List<CompletableFuture<HttpResponse<String>>> all = new ArrayList<>();
        for (int i = 0; i < 12; i++) {
            all.add(http.sendAsync(request, HttpResponse.BodyHandlers.ofString()));
        }
        for (CompletableFuture<HttpResponse<String>> each : all) {
            assertEquals(each.get().statusCode(), 200, each.get().body());
        }
        assertTrue(product.handle().isAlive());
    }

    @Test
    public void theBenchReadsReferencesAsARunDoes() throws Exception {
        String wsdl = Files.readString(Path.of("../demo/src/main/resources/awkward/rpc-encoded.wsdl"));
        byte[] answer = ("<s:Envelope xmlns:s='" + SOAP + "' xmlns:r='urn:halewick:rpc-encoded'><s:Body>"
                        + "<r:CountResponse><total>2</total><heaviest href='#c'/></r:CountResponse>"
                        + "<multiRef id='c'><number>C-17</number><kilograms>41.5</kilograms></multiRef>"
                        + "</s:Body></s:Envelope>")
                .getBytes(StandardCharsets.UTF_8);
        HttpServer service = HttpServer.create(new InetSocketAddress(InetAddress.getByName("127.0.0.1"), 0), 16);
        service.createContext("/", exchange -> {
            try (exchange) {
                exchange.getRequestBody().readAllBytes();
                exchange.getResponseHeaders().set("Content-Type", "text/xml");
                exchange.sendResponseHeaders(200, answer.length);
                exchange.getResponseBody().write(answer);
            }
        });
        service.start();
        try {
            String host = "127.0.0.1:" + service.getAddress().getPort();
            client.post("/api/allowed-hosts", Map.of("host", host));
            JsonNode read = imported(client.post("/api/imports", Map.of("text", wsdl)));
            JsonNode contract = client.get("/api/contracts/" + read.get("contract"));
            long endpoint = client.put("/api/endpoints", Map.of("name", "Counting"))
                    .get("id")
                    .asLong();
            client.put(
                    "/api/endpoints/" + endpoint + "/environments/Test",
                    Map.of("address", "http://" + host + "/", "settings", Map.of()));
            JsonNode call = client.post(
                    "/api/bench/calls",
                    Map.of(
                            "contract", contract.get("id").asLong(),
                            "port", "Port",
                            "operation", "Count",
                            "endpoint", "Counting",
                            "environment", "Test",
                            "text", "<s:Envelope xmlns:s='" + SOAP + "'><s:Body/></s:Envelope>",
                            "confirmed", true));
            while (call.get("state").asText().equals("running")) {
                Thread.onSpinWait();
                call = client.get("/api/bench/calls/" + call.get("id"));
            }
            String values = call.get("values").toString();
            assertTrue(values.contains("C-17") && values.contains("41.5"), call.toPrettyString());
        } finally {
            service.stop(0);
        }
    }

    @Test
    public void aRecordOfAHundredThousandItemsIsSplitAndGathered() throws Exception {
        int items = 100_000;
        StringBuilder csv = new StringBuilder("loan_no;crate_no;kilograms\r\n");
        for (int i = 1; i <= items; i++) {
            csv.append("HC-9001;HC-9001-").append(i).append(';').append(i % 50).append("\r\n");
        }
        client.upload(
                "/api/datasets/files", "file", Map.of("many.csv", csv.toString().getBytes(StandardCharsets.UTF_8)));
        client.post("/api/datasets", Map.of("name", "loans of many crates", "kind", "csv"));
        ObjectNode read = stage("Read", "read").put("dataset", "many").put("as", "loan");
        read.putArray("groupBy").add("loan_no");
        ObjectNode split = stage("Split", "crates")
                .put("over", "$loan/line")
                .put("item", "crate")
                .put("atOnce", 8);
        // what is never asked for again would not fit: 100,000 letters of 4,000 characters
        split.putArray("stages")
                .add(filled(stage("Map", "weigh").put("as", "weighed"), "grams", "$crate/kilograms * 1000"))
                .add(filled(
                        stage("Map", "letter").put("as", "letter"),
                        "text",
                        "string-join(for $i in 1 to 500 return 'crated. ')"));
        split.putObject("gather").put("as", "all").put("whenSomeFail", "reject");
        ObjectNode write =
                stage("Write", "write").put("dataset", "loans of many crates").put("mode", "replace");
        write.putArray("keys");
        filled(write, "grams", "xs:integer(sum($all/item/weighed/grams))");
        filled(write, "crates", "count($all/item)");
        ObjectNode file = JSON.createObjectNode().put("format", 2).put("name", "Weigh many crates");
        file.putArray("stages").add(read).add(split).add(write);
        JsonNode flow = client.post("/api/flows", Map.of("name", "Weigh many crates", "file", file));
        assertEquals(flow.get("problems").size(), 0, flow.get("problems").toString());
        JsonNode run =
                client.post("/api/flows/" + flow.get("id") + "/runs", Map.of("environment", "Test", "confirmed", true));
        JsonNode end = ended("/api/runs/" + run.get("id").asLong(), "run");
        assertEquals(end.get("state").asText(), "done", end.toPrettyString());
        JsonNode line = client.get("/api/runs/" + run.get("id").asLong() + "/records/1");
        assertEquals(end.get("done").asLong(), 1, line.toPrettyString());
        assertEquals(rows("loans of many crates"), List.of(List.of("2450000000", "100000")));
        assertTrue(product.handle().isAlive());
    }

    private static ObjectNode stage(String verb, String id) {
        return JSON.createObjectNode().put("verb", verb).put("id", id);
    }

    private static ObjectNode filled(ObjectNode stage, String column, String expression) {
        stage.withArray("columns").addObject().put("name", column).put("type", "string");
        stage.withArray("fills")
                .addObject()
                .put("id", "f-" + column)
                .put("target", column)
                .put("expression", expression);
        return stage;
    }
}
