package wirekettle.connect;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import com.sun.net.httpserver.HttpServer;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Executors;
import java.util.zip.GZIPOutputStream;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.Transport;

/** The transport against a server that does everything wrong on purpose. */
public class HttpTransportTest {
    private HttpServer server;
    private ServerSocket raw;
    private int port;

    @BeforeClass
    public void start() throws Exception {
        server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        server.setExecutor(Executors.newCachedThreadPool(r -> {
            Thread thread = new Thread(r);
            thread.setDaemon(true);
            return thread;
        }));
        port = server.getAddress().getPort();
        answer("/fine", "text/xml", "<ok/>".getBytes(StandardCharsets.UTF_8), null);
        ByteArrayOutputStream packed = new ByteArrayOutputStream();
        try (GZIPOutputStream gzip = new GZIPOutputStream(packed)) {
            gzip.write("<packed/>".getBytes(StandardCharsets.UTF_8));
        }
        answer("/gzip", "text/xml", packed.toByteArray(), "gzip");
        answer("/broken-gzip", "text/xml", "no gzip".getBytes(StandardCharsets.UTF_8), "gzip");
        answer("/large", "text/xml", new byte[3 << 20], null);
        server.createContext("/elsewhere", exchange -> {
            exchange.getResponseHeaders().set("Location", "http://169.254.0.1/secret");
            exchange.sendResponseHeaders(302, -1);
            exchange.close();
        });
        server.start();
        raw = new ServerSocket(0);
        Thread listener = new Thread(this::misbehave);
        listener.setDaemon(true);
        listener.start();
    }

    private void answer(String path, String type, byte[] body, String encoding) {
        server.createContext(path, exchange -> {
            exchange.getRequestBody().readAllBytes();
            exchange.getResponseHeaders().set("Content-Type", type);
            if (encoding != null) {
                exchange.getResponseHeaders().set("Content-Encoding", encoding);
            }
            exchange.sendResponseHeaders(200, body.length);
            exchange.getResponseBody().write(body);
            exchange.close();
        });
    }

    /** Accepts, and answers by the path asked: nothing at all, an endless body, or an end in the middle. */
    private void misbehave() {
        while (!raw.isClosed()) {
            try {
                Socket socket = raw.accept();
                Thread one = new Thread(() -> one(socket));
                one.setDaemon(true);
                one.start();
            } catch (IOException e) {
                return;
            }
        }
    }

    private static void one(Socket socket) {
        try (socket) {
            byte[] buffer = new byte[8192];
            String asked = new String(buffer, 0, socket.getInputStream().read(buffer), StandardCharsets.UTF_8);
            if (asked.contains("/drip") || asked.contains("/cut")) {
                socket.getOutputStream()
                        .write("HTTP/1.1 200 OK\r\nContent-Length: 1000\r\n\r\n<a".getBytes(StandardCharsets.UTF_8));
                socket.getOutputStream().flush();
            }
            if (asked.contains("/drip") || asked.contains("/silent")) {
                socket.getInputStream().readAllBytes(); // until the other side gives up
            }
        } catch (IOException e) {
            // the other side gave up: what the test is about
        }
    }

    @AfterClass(alwaysRun = true)
    public void stop() throws Exception {
        server.stop(0);
        raw.close();
    }

    private static Transport.Answer send(String address, HostRule rule) throws CallFailure {
        Transport.Limits limits = new Transport.Limits(500, 700, 1_200, 1 << 20);
        return new HttpTransport(rule)
                .send(new Transport.Request(address, Map.of("Content-Type", "text/xml"), new byte[] {1}, limits));
    }

    @Test
    public void answersComeBackUnpacked() throws Exception {
        assertEquals(
                new String(
                        send("http://127.0.0.1:" + port + "/fine", HostRule.ANY).body(), StandardCharsets.UTF_8),
                "<ok/>");
        assertEquals(
                new String(
                        send("http://127.0.0.1:" + port + "/gzip", HostRule.ANY).body(), StandardCharsets.UTF_8),
                "<packed/>");
    }

    @DataProvider
    public Object[][] failures() {
        String own = "http://127.0.0.1:" + port;
        String bad = "http://127.0.0.1:" + raw.getLocalPort();
        return new Object[][] {
            {"http://127.0.0.1:9/", FailureClass.CONNECTION, "no connection", false},
            {"ftp://127.0.0.1/", FailureClass.CONNECTION, "host not allowed", false},
            {"http://exa mple/", FailureClass.CONNECTION, "bad address", false},
            {bad + "/silent", FailureClass.TIMEOUT, "no answer in time", true},
            {bad + "/drip", FailureClass.TIMEOUT, "no whole answer in time", true},
            {bad + "/cut", FailureClass.CONNECTION, "connection lost", true},
            {bad + "/close", FailureClass.CONNECTION, "connection lost", true},
            {own + "/broken-gzip", FailureClass.REPLY, "broken gzip", true},
            {own + "/large", FailureClass.REPLY, "answer too large", true},
        };
    }

    @Test(dataProvider = "failures")
    public void everyFailureIsClassifiedAndKnowsWhetherAnythingWasSent(
            String address, FailureClass failureClass, String cause, boolean sent) {
        CallFailure failure = expectThrows(CallFailure.class, () -> send(address, HostRule.ANY));
        assertEquals(failure.failureClass(), failureClass, failure.getMessage());
        assertEquals(failure.causeLabel(), cause);
        assertEquals(failure.sent(), sent);
    }

    @Test
    public void aHostThatIsNotAllowedIsNeverReachedAlsoAfterARedirect() {
        CallFailure refused = expectThrows(
                CallFailure.class,
                () -> send("http://127.0.0.1:" + port + "/fine", HostRule.of(List.of("127.0.0.1:1"))));
        assertEquals(refused.causeLabel(), "host not allowed");
        WebDocuments documents = new WebDocuments(HostRule.of(List.of("127.0.0.1:" + port)), false);
        HostRefused e =
                expectThrows(HostRefused.class, () -> documents.load("http://127.0.0.1:" + port + "/elsewhere"));
        assertEquals(e.host(), "169.254.0.1:80");
        assertTrue(expectThrows(IOException.class, () -> documents.load("/etc/hostname"))
                .getMessage()
                .contains("no http"));
    }

    @DataProvider
    public Object[][] rules() {
        return new Object[][] {
            {"register.invalid", "register.invalid", 443, true},
            {"register.invalid:80", "register.invalid", 443, false},
            {"*.halewick.invalid", "a.halewick.invalid", 80, true},
            {"*.halewick.invalid", "halewick.invalid", 80, false},
            {"*.halewick.invalid", "evilhalewick.invalid", 80, false},
            {"REGISTER.invalid", "register.INVALID", 1, true},
        };
    }

    @Test(dataProvider = "rules")
    public void hostRulesMatchHostsPortsAndDomains(String entry, String host, int port, boolean allowed) {
        assertEquals(HostRule.of(List.of(entry)).allows(host, port), allowed);
    }
}
