package wirekettle.e2e;

import static org.testng.Assert.assertEquals;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import com.sun.net.httpserver.HttpServer;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.Executors;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;

/** Runs against a desk of this test that are killed at random moments; the desk keeps a log of its own. */
abstract class KilledRuns extends SeededApi {
    /** Set with {@code -Dkills=20 -Dseed=7}. */
    static final int KILLS = Integer.getInteger("kills", 2);

    static final long SEED = Long.getLong("seed", System.nanoTime() % 100_000);

    final List<String> received = Collections.synchronizedList(new ArrayList<>());
    final Random random = new Random(SEED);
    private HttpServer desk;

    /** An answer of the desk. */
    record Reply(int status, String body) {}

    /** Notes a request in the desk's log and answers it; null breaks the connection. */
    abstract Reply answer(String request);

    /** What must hold between the desk's log and a run that has ended. */
    abstract void balance(String path, JsonNode run) throws Exception;

    @BeforeClass
    public void start() throws Exception {
        System.out.println(getClass().getSimpleName() + ": seed " + SEED + ", " + KILLS + " kills");
        begin("-Xmx256m", Map.of());
        desk = HttpServer.create(new InetSocketAddress(InetAddress.getByName("127.0.0.1"), 0), 64);
        desk.setExecutor(Executors.newCachedThreadPool());
        desk.createContext("/", exchange -> {
            try (exchange) {
                Reply reply = answer(new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8));
                Thread.sleep(15);
                if (reply == null) {
                    return;
                }
                byte[] body = reply.body().getBytes(StandardCharsets.UTF_8);
                exchange.getResponseHeaders().set("Content-Type", "text/xml");
                exchange.sendResponseHeaders(reply.status(), body.length);
                exchange.getResponseBody().write(body);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        });
        desk.start();
        String host = "127.0.0.1:" + desk.getAddress().getPort();
        client.post("/api/allowed-hosts", Map.of("host", host));
        client.put("/api/endpoints", Map.of("name", "Own desk", "addresses", Map.of("Test", "http://" + host + "/")));
    }

    @AfterClass(alwaysRun = true)
    public void close() {
        desk.stop(0);
    }

    /** Offers a booking whose call goes to this test's desk, in its second revision, and returns the offer. */
    JsonNode offeredBooking() throws Exception {
        JsonNode made = client.post(
                "/api/offers", Map.of("contract", "Vanline Desk", "operation", "BookTransport", "environment", "Test"));
        String flow = "/api/flows/" + made.get("flow").asLong();
        ObjectNode file = client.get(flow).get("file").deepCopy();
        stage(file, "call").put("endpoint", "Own desk");
        assertEquals(client.send("PUT", flow, file, Map.of("If-Match", "\"1\"")).status(), 200);
        long inForce = client.get(flow + "/publications").get(0).get("id").asLong();
        assertEquals(
                client.send(
                                "POST",
                                flow + "/publications",
                                Map.of("environment", "Test", "revision", 2),
                                Map.of("If-Match", "\"" + inForce + "\""))
                        .status(),
                200);
        return made;
    }

    /** Returns the desk's answer to a booking, and notes which loan it was for. */
    Reply transportBooked(String request) {
        String loan = request.replaceAll("(?s).*?loanReference>([^<]*)<.*", "$1");
        received.add(loan);
        return new Reply(200, booked(loan));
    }

    static String booked(String loan) {
        return envelope("<BookTransportResponse xmlns='urn:halewick:vanline:2'><reference>VD-" + loan
                + "</reference><status>booked</status></BookTransportResponse>");
    }

    /** What has ended of a run is what it read, unless it goes on. */
    static void balanced(JsonNode run) {
        if (!run.get("state").asText().equals("running")) {
            assertEquals(run.get("ended").asInt(), run.get("read").asInt(), run.toString());
        }
    }

    static String envelope(String body) {
        return "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>" + body
                + "</s:Body></s:Envelope>";
    }

    /** Runs a flow until so many kills are done. */
    void killedOften(long flow) throws Exception {
        int kills = 0;
        while (kills < KILLS) {
            kills += killed(flow, KILLS - kills);
        }
    }

    /** A run is about to begin. */
    void begins() {}

    /** One run, killed again and again until it comes to its end; returns how often. */
    private int killed(long flow, int most) throws Exception {
        received.clear();
        begins();
        JsonNode run = client.post("/api/flows/" + flow + "/runs", Map.of("environment", "Test", "confirmed", true));
        String path = "/api/runs/" + run.get("id").asLong();
        int kills = 0;
        while (kills < most && client.get(path).get("run").get("state").asText().equals("running")) {
            // a random moment: the service decides, not a clock
            int until = received.size() + 1 + random.nextInt(25);
            while (received.size() < until
                    && client.get(path).get("run").get("state").asText().equals("running")) {
                Thread.sleep(2);
            }
            product.kill();
            kills++;
            product.start();
            client = product.client();
            if (client.get(path).get("run").get("state").asText().equals("interrupted")) {
                client.post(path + "/resume", Map.of());
            }
        }
        JsonNode ended = ended(path, "run");
        assertEquals(ended.get("state").asText(), "done", ended.toString());
        balance(path, ended);
        return Math.max(1, kills);
    }
}
