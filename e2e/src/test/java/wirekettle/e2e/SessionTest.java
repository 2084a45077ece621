package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.demo.ProductClient;
import wirekettle.demo.StartedProduct;

/** Signing in, sessions, passwords, and what strangers can do to a server with little memory. */
public class SessionTest {
    private static final String PASSWORD = "six wagons of straw";

    private StartedProduct product;
    private ProductClient ada;

    @BeforeClass
    public void start() throws Exception {
        product = new StartedProduct(Path.of(".."), List.of("-Xmx256m"), Map.of());
        ada = product.client();
    }

    @AfterClass(alwaysRun = true)
    public void stop() throws Exception {
        product.close();
    }

    private long person(String name) throws IOException {
        return ada.post("/api/people", Map.of("name", name, "password", PASSWORD))
                .get("id")
                .asLong();
    }

    private ProductClient signedIn(String name, String password) throws IOException {
        ProductClient client = new ProductClient(product.address());
        client.signIn(name, password);
        return client;
    }

    private static int me(ProductClient client) throws IOException {
        return client.send("GET", "/api/me", null, Map.of()).status();
    }

    @Test
    public void aNewPasswordAsksForTheOldOneAndEndsAllOtherSessions() throws Exception {
        long id = person("kara");
        ProductClient here = signedIn("kara", PASSWORD);
        ProductClient there = signedIn("kara", PASSWORD);
        Map<String, Object> wrong = Map.of("password", "a barge full of nails", "old", "not that");
        assertEquals(
                here.send("PUT", "/api/people/" + id + "/password", wrong, Map.of())
                        .status(),
                403);
        assertEquals(me(there), 200);
        Map<String, Object> right = Map.of("password", "a barge full of nails", "old", PASSWORD);
        assertEquals(
                here.send("PUT", "/api/people/" + id + "/password", right, Map.of())
                        .status(),
                204);
        assertEquals(me(there), 401);
        assertEquals(me(here), 200);
        assertEquals(me(signedIn("kara", "a barge full of nails")), 200);
    }

    @Test
    public void aResetByWhoManagesEndsAllSessionsOfThePerson() throws Exception {
        long id = person("lorn");
        ProductClient lorn = signedIn("lorn", PASSWORD);
        Map<String, Object> reset = Map.of("password", "a barge full of nails", "old", product.password());
        assertEquals(
                ada.send("PUT", "/api/people/" + id + "/password", reset, Map.of())
                        .status(),
                204);
        assertEquals(me(lorn), 401);
        assertEquals(me(ada), 200);
    }

    @Test
    public void signingInEndsTheSessionTheBrowserHad() throws Exception {
        person("moss");
        String first = cookie(raw(signIn("moss", PASSWORD, ""), null));
        assertTrue(raw(get("/api/me", first), null).startsWith("HTTP/1.1 200"));
        String second = cookie(raw(signIn("moss", PASSWORD, "Cookie: " + first + "\r\n"), null));
        assertTrue(raw(get("/api/me", second), null).startsWith("HTTP/1.1 200"));
        assertTrue(raw(get("/api/me", first), null).startsWith("HTTP/1.1 401"));
    }

    @DataProvider
    public Object[][] weak() {
        return new Object[][] {
            {"elevenchars"},
            {"password1234"},
            {"P@ssw0rd2026!"},
            {"qwertyuiop12"},
            {"aaaaaaaaaaaa"},
            {"123456789012"},
            {"abababababab"},
            {"Welcome2026!!"},
            {"wirekettle2026"},
            {"abcdefghijklmn"},
        };
    }

    @Test(dataProvider = "weak")
    public void aShortOrCommonPasswordIsRefused(String password) throws Exception {
        ProductClient.Answer refused =
                ada.send("POST", "/api/people", Map.of("name", "weak", "password", password), Map.of());
        assertEquals(refused.status(), 400, refused.text());
        assertEquals(refused.json().get("code").asText(), "weak-password");
    }

    @Test
    public void unknownWrongAndWaitingGetTheSameAnswerAndNobodyLocksAnotherOut() throws Exception {
        person("nell");
        String unknown = body(raw(signIn("nobody", "x", ""), "127.0.0.3"));
        String wrong = body(raw(signIn("nell", "x", ""), "127.0.0.2"));
        assertEquals(wrong, unknown);
        raw(signIn("nell", "x", ""), "127.0.0.2");
        raw(signIn("nell", "x", ""), "127.0.0.2");
        try (Connection admin = product.admin(product.database());
                Statement statement = admin.createStatement()) {
            try (ResultSet counted = statement.executeQuery(
                    "select failures from sign_in_failure where name = 'nell' and address = '127.0.0.2'")) {
                assertTrue(counted.next() && counted.getInt(1) >= 3);
            }
            // as after a dozen wrong tries, which take a while
            statement.execute("update sign_in_failure set failures = 12, wait_until = now() + interval '15 minutes'"
                    + " where name = 'nell' and address = '127.0.0.2'");
        }
        String waiting = raw(signIn("nell", "x", ""), "127.0.0.2");
        // even the right one waits where the wrong ones came from, with the same answer
        String right = raw(signIn("nell", PASSWORD, ""), "127.0.0.2");
        assertTrue(right.startsWith("HTTP/1.1 401"), right);
        assertEquals(body(right), unknown);
        assertEquals(body(waiting), unknown);
        // from anywhere else the name is open
        assertEquals(me(signedIn("nell", PASSWORD)), 200);
    }

    @Test
    public void sixtyPeopleSigningInAtOnceWaitForEachOtherAndTheServerStaysUp() throws Exception {
        person("many");
        ExecutorService threads = Executors.newFixedThreadPool(60);
        List<Callable<Integer>> all = new ArrayList<>();
        for (int i = 0; i < 60; i++) {
            all.add(() -> new ProductClient(product.address())
                    .send("POST", "/api/sign-in", Map.of("name", "many", "password", PASSWORD), Map.of())
                    .status());
        }
        int in = 0;
        for (Future<Integer> each : threads.invokeAll(all)) {
            assertTrue(each.get() == 200 || each.get() == 429, "HTTP " + each.get());
            in += each.get() == 200 ? 1 : 0;
        }
        threads.shutdown();
        assertTrue(in >= 20, "signed in: " + in);
        assertEquals(me(ada), 200);
    }

    @Test
    public void halfSentRequestsOfStrangersKeepNobodyOut() throws Exception {
        List<Socket> open = new ArrayList<>();
        try {
            for (int i = 0; i < 250; i++) {
                open.add(half("POST /api/sign-in HTTP/1.1\r\nHost: localhost\r\nX-Wire-Kettle: 1\r\n"
                        + "Content-Type: application/json\r\nContent-Length: 200\r\n\r\n{\"name\":"));
                open.add(half("GET /api/me HTTP/1.1\r\nHost: loc"));
                open.add(half("POST /api/datasets/files HTTP/1.1\r\nHost: localhost\r\nX-Wire-Kettle: 1\r\n"
                        + "Content-Type: multipart/form-data; boundary=x\r\nContent-Length: 400000000\r\n\r\n--x\r\n"));
            }
            assertEquals(me(ada), 200);
            assertEquals(me(signedIn("ada", product.password())), 200);
            JsonNode made = ada.post("/api/datasets", Map.of("name", "meanwhile", "kind", "csv"));
            assertTrue(made.get("id").asLong() > 0);
        } finally {
            for (Socket socket : open) {
                socket.close();
            }
        }
    }

    @Test(timeOut = 60_000)
    public void aHeadThatIsNeverCompleteIsEnded() throws Exception {
        try (Socket socket = half("GET /api/me HTTP/1.1\r\nHost: loc")) {
            assertEquals(socket.getInputStream().read(), -1);
        }
    }

    @Test
    public void answersCarryTheHeadersThatKeepThemSafe() throws Exception {
        String api = raw(get("/api/me", ""), null);
        assertTrue(api.toLowerCase().contains("cache-control: no-store"), api);
        String page = raw(get("/", ""), null);
        assertTrue(page.contains("base-uri 'self'") && page.contains("form-action 'self'"), page);
        String stranger = raw("GET / HTTP/1.1\r\nHost: evil.invalid\r\nConnection: close\r\n\r\n", null);
        assertTrue(stranger.startsWith("HTTP/1.1 421"), stranger);
        String cookie = raw(signIn("ada", product.password(), ""), null);
        assertTrue(cookie.contains("HttpOnly") && !cookie.contains("Secure"), cookie);
    }

    @Test
    public void behindTlsTheCookieIsSecure() throws Exception {
        try (StartedProduct behind =
                new StartedProduct(Path.of(".."), List.of("-Xmx256m"), Map.of("WIREKETTLE_BEHIND_PROXY", "true"))) {
            String in = raw(
                    URI.create(behind.address()).getPort(),
                    signIn("ada", behind.password(), "X-Forwarded-Proto: https\r\n"),
                    null);
            assertTrue(in.contains("Secure"), in);
            assertFalse(in.startsWith("HTTP/1.1 4"), in);
        }
    }

    private Socket half(String text) throws IOException {
        Socket socket = new Socket();
        socket.bind(new InetSocketAddress(InetAddress.getByName("127.0.0.2"), 0));
        socket.connect(new InetSocketAddress("127.0.0.1", port()));
        socket.setSoTimeout(50_000);
        try {
            socket.getOutputStream().write(text.getBytes(StandardCharsets.UTF_8));
        } catch (IOException e) {
            // refused already: one more than an address may have
        }
        return socket;
    }

    private int port() {
        return URI.create(product.address()).getPort();
    }

    private static String signIn(String name, String password, String headers) {
        String json = "{\"name\":\"" + name + "\",\"password\":\"" + password + "\"}";
        return "POST /api/sign-in HTTP/1.1\r\nHost: localhost\r\nX-Wire-Kettle: 1\r\nContent-Type: application/json\r\n"
                + headers + "Connection: close\r\nContent-Length: " + json.length() + "\r\n\r\n" + json;
    }

    private static String get(String path, String cookie) {
        return "GET " + path + " HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n"
                + (cookie.isEmpty() ? "" : "Cookie: " + cookie + "\r\n") + "\r\n";
    }

    private static String cookie(String answer) {
        return answer.replaceFirst("(?s).*?(?i)set-cookie: ([^;]+);.*", "$1");
    }

    private static String body(String answer) {
        return answer.substring(answer.indexOf("\r\n\r\n") + 4);
    }

    private String raw(String request, String from) throws IOException {
        return raw(port(), request, from);
    }

    /** Sends a request as it is, from an address of this machine, and returns the whole answer. */
    private static String raw(int port, String request, String from) throws IOException {
        try (Socket socket = new Socket()) {
            if (from != null) {
                socket.bind(new InetSocketAddress(InetAddress.getByName(from), 0));
            }
            socket.connect(new InetSocketAddress("127.0.0.1", port));
            socket.getOutputStream().write(request.getBytes(StandardCharsets.UTF_8));
            return new String(socket.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        }
    }
}
