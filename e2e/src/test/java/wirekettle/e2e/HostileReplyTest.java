package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Executors;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.demo.DemoWorld;
import wirekettle.demo.ProductClient;
import wirekettle.demo.StartedProduct;

/** Answers nobody should send: the bench says what happened, and a server with 256 MB goes on. */
public class HostileReplyTest {
    private static final String OPEN =
            "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body><a xmlns='urn:a'>";

    private DemoWorld world;
    private StartedProduct product;
    private ProductClient client;
    private HttpServer hostile;
    private long endpoint;

    @BeforeClass
    public void start() throws Exception {
        world = new DemoWorld(0);
        product = Seeded.product(world, "-Xmx256m", Map.of());
        client = product.client();
        hostile = HttpServer.create(new InetSocketAddress(InetAddress.getByName("127.0.0.1"), 0), 64);
        hostile.setExecutor(Executors.newCachedThreadPool());
        hostile.createContext("/", this::answer);
        hostile.start();
        client.post(
                "/api/allowed-hosts",
                Map.of("host", "127.0.0.1:" + hostile.getAddress().getPort()));
        endpoint = client.put("/api/endpoints", Map.of("name", "Hostile"))
                .get("id")
                .asLong();
    }

    @AfterClass(alwaysRun = true)
    public void stop() throws Exception {
        hostile.stop(0);
        product.close();
        world.close();
    }

    private void answer(HttpExchange exchange) throws IOException {
        try (exchange;
                OutputStream out = exchange.getResponseBody()) {
            exchange.getRequestBody().readAllBytes();
            String how = exchange.getRequestURI().getPath().substring(1);
            String type =
                    switch (how) {
                        case "page" -> "text/html";
                        case "picture" -> "image/png";
                        case "missing" -> "multipart/related; boundary=b; start=\"<root>\"";
                        case "rootless" -> "multipart/related; boundary=b; start=\"<other>\"";
                        case "unbound" -> "multipart/related";
                        default -> "text/xml";
                    };
            exchange.getResponseHeaders().set("Content-Type", type);
            if (how.equals("gzip")) {
                exchange.getResponseHeaders().set("Content-Encoding", "gzip");
            }
            exchange.sendResponseHeaders(200, 0);
            byte[] block = new byte[1 << 20];
            Arrays.fill(block, (byte) 'x');
            switch (how) {
                case "huge" -> {
                    out.write(OPEN.getBytes(StandardCharsets.UTF_8));
                    for (int i = 0; i < 200; i++) {
                        out.write(block);
                    }
                }
                case "endless" -> {
                    out.write(OPEN.getBytes(StandardCharsets.UTF_8));
                    for (int i = 0; i < 2_000; i++) {
                        out.write(new byte[] {'x'});
                        out.flush();
                        Thread.sleep(50);
                    }
                }
                case "drip" -> {
                    for (byte b : OPEN.getBytes(StandardCharsets.UTF_8)) {
                        out.write(b);
                        out.flush();
                        Thread.sleep(1_000);
                    }
                }
                case "crumbs" -> {
                    out.write(OPEN.getBytes(StandardCharsets.UTF_8));
                    byte[] crumbs = "<b/>".repeat(250_000).getBytes(StandardCharsets.UTF_8);
                    for (int i = 0; i < 14; i++) {
                        out.write(crumbs);
                    }
                    out.write("</a></s:Body></s:Envelope>".getBytes(StandardCharsets.UTF_8));
                }
                case "deep" -> out.write((OPEN + "<b>".repeat(200_000)).getBytes(StandardCharsets.UTF_8));
                case "long" -> {
                    out.write(OPEN.getBytes(StandardCharsets.UTF_8));
                    for (int i = 0; i < 15; i++) {
                        out.write(block);
                    }
                    out.write("</a></s:Body></s:Envelope>".getBytes(StandardCharsets.UTF_8));
                }
                case "missing", "rootless" -> out.write(
                        ("--b\r\nContent-ID: <root>\r\nContent-Type: application/xop+xml\r\n\r\n"
                                        + OPEN
                                        + "<x:Include xmlns:x='http://www.w3.org/2004/08/xop/include' href='cid:label'/>"
                                        + "</a></s:Body></s:Envelope>\r\n--b--\r\n")
                                .getBytes(StandardCharsets.UTF_8));
                case "cut" -> out.write((OPEN + "<b>half").getBytes(StandardCharsets.UTF_8));
                case "doctype" -> out.write(
                        "<!DOCTYPE a [<!ENTITY b 'c'>]><a>&b;</a>".getBytes(StandardCharsets.UTF_8));
                case "nothing" -> {}
                default -> out.write("no XML at all \u0000\u0001 but something".getBytes(StandardCharsets.UTF_8));
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } catch (IOException e) {
            // the other side hung up, as it should
        }
    }

    @DataProvider
    public Object[][] answers() {
        return new Object[][] {
            {"huge", "answer too large", "larger than 16 MB"},
            {"endless", "no whole answer in time", "not complete after 2500 ms"},
            {"drip", "no whole answer in time", "not complete after 2500 ms"},
            {"crumbs", "answer not readable", "more than 500000 elements"},
            {"deep", "answer not readable", "nested deeper than 400"},
            {"long", "", ""},
            {"gzip", "broken gzip", "cannot be unpacked"},
            {"page", "no SOAP", "the answer is text/html"},
            {"picture", "no SOAP", "the answer is image/png"},
            {"missing", "broken multipart", "refers to its part label, which is missing"},
            {"rootless", "broken multipart", "root part <other> is missing"},
            {"unbound", "broken multipart", "names no boundary"},
            {"cut", "answer not readable", "cut off"},
            {"doctype", "answer not readable", "DOCTYPE is refused"},
            {"nothing", "empty answer", "without any content"},
            {"noise", "answer not readable", "line 1"},
        };
    }

    @Test(dataProvider = "answers")
    public void theBenchSaysWhatHappenedAndStaysUsable(String how, String cause, String said) throws Exception {
        answering(how, 2_000, how.matches("endless|drip") ? 2_500 : 30_000);
        JsonNode call = send("Hostile");
        assertEquals(call.path("cause").asText(), cause, call.path("failure").asText());
        assertTrue(
                call.path("failure").asText().contains(said),
                call.path("failure").asText());
        assertTrue(call.path("reply").asText().length() <= 2_000_000);
        // the history can be read, and the next call works
        client.get("/api/bench/calls?contract=1&port=RegisterPort&operation=LookUpInstitution");
        assertEquals(send("Institution Register").get("status").asInt(), 200);
        assertTrue(product.handle().isAlive());
    }

    @Test
    public void manyLargeAnswersAtOnceShareTheMemoryThereIs() throws Exception {
        answering("long", 60_000, 120_000);
        List<JsonNode> calls = new ArrayList<>();
        for (int i = 0; i < 32; i++) {
            calls.add(started("Hostile"));
        }
        int read = 0;
        for (JsonNode started : calls) {
            JsonNode call = ended(started);
            String cause = call.path("cause").asText();
            assertTrue(List.of("", "no memory for the answer").contains(cause), call.toPrettyString());
            read += cause.isEmpty() ? 1 : 0;
        }
        assertTrue(read > 0, "not one of the answers was read");
        assertTrue(product.handle().isAlive());
        assertEquals(send("Institution Register").get("status").asInt(), 200);
    }

    private void answering(String how, int firstByteMillis, int wholeMillis) throws Exception {
        String address = "http://127.0.0.1:" + hostile.getAddress().getPort() + "/" + how;
        client.put(
                "/api/endpoints/" + endpoint + "/environments/Test",
                Map.of(
                        "address",
                        address,
                        "settings",
                        Map.of("limits", Map.of("firstByteMillis", firstByteMillis, "wholeMillis", wholeMillis))));
    }

    private JsonNode send(String to) throws IOException, InterruptedException {
        return ended(started(to));
    }

    private JsonNode started(String to) throws IOException {
        String text = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>"
                + "<r:LookUpInstitution xmlns:r='urn:halewick:register:1'><r:registrationNumber>RG-10696"
                + "</r:registrationNumber></r:LookUpInstitution></s:Body></s:Envelope>";
        return client.post(
                "/api/bench/calls",
                Map.of(
                        "contract",
                        1,
                        "port",
                        "RegisterPort",
                        "operation",
                        "LookUpInstitution",
                        "endpoint",
                        to,
                        "environment",
                        "Test",
                        "text",
                        text));
    }

    private JsonNode ended(JsonNode started) throws IOException, InterruptedException {
        JsonNode call = started;
        while (call.get("state").asText().equals("running")) {
            Thread.sleep(50);
            call = client.get("/api/bench/calls/" + call.get("id"));
        }
        return call;
    }
}
