package wirekettle.connect;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import com.sun.net.httpserver.HttpServer;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.Executors;
import java.util.zip.GZIPOutputStream;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.CallRoom;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.Transport;
import wirekettle.core.soap.attachments.Attachments;
import wirekettle.core.soap.attachments.Multipart;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.value.Content;

/** The transport against a server that does everything wrong on purpose. */
public class HttpTransportTest {
    private HttpServer server;
    private ServerSocket raw;
    private int port;

    private static final byte[] LONG_PART = new byte[3 << 20];

    static {
        new Random(9).nextBytes(LONG_PART);
    }

    @BeforeClass
    public void start() throws Exception {
        server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        server.setExecutor(Executors.newCachedThreadPool(r -> {
            Thread thread = new Thread(r);
            thread.setDaemon(true);
            return thread;
        }));
        port = server.getAddress().getPort();
        server.createContext("/who", exchange -> {
            exchange.getRequestBody().readAllBytes();
            byte[] who = Integer.toString(exchange.getRemoteAddress().getPort()).getBytes(StandardCharsets.UTF_8);
            exchange.sendResponseHeaders(200, who.length);
            exchange.getResponseBody().write(who);
            exchange.close();
        });
        answer("/fine", "text/xml", "<ok/>".getBytes(StandardCharsets.UTF_8), null);
        ByteArrayOutputStream packed = new ByteArrayOutputStream();
        try (GZIPOutputStream gzip = new GZIPOutputStream(packed)) {
            gzip.write("<packed/>".getBytes(StandardCharsets.UTF_8));
        }
        answer("/gzip", "text/xml", packed.toByteArray(), "gzip");
        answer("/broken-gzip", "text/xml", "no gzip".getBytes(StandardCharsets.UTF_8), "gzip");
        Multipart.Written parts = Multipart.write(
                List.of(
                        new Part("root@x", "text/xml", "<root/>".getBytes(StandardCharsets.UTF_8)),
                        new Part("label@x", "application/pdf", LONG_PART)),
                "");
        answer("/parts", parts.contentType(), parts.content().bytes(), null);
        ByteArrayOutputStream packedParts = new ByteArrayOutputStream();
        try (GZIPOutputStream gzip = new GZIPOutputStream(packedParts)) {
            gzip.write(parts.content().bytes());
        }
        answer("/parts-gzip", parts.contentType(), packedParts.toByteArray(), "gzip");
        answer("/parts-cut", parts.contentType(), Arrays.copyOf(parts.content().bytes(), 9_000), null);
        server.createContext("/echo", exchange -> {
            byte[] sent = exchange.getRequestBody().readAllBytes();
            exchange.sendResponseHeaders(200, sent.length);
            exchange.getResponseBody().write(sent);
            exchange.close();
        });
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
        return new HttpTransport(rule).send(request(address));
    }

    private static Transport.Request request(String address) {
        Transport.Limits limits = new Transport.Limits(500, 700, 1_200, 1 << 20);
        return new Transport.Request(address, Map.of("Content-Type", "text/xml"), new byte[] {1}, limits);
    }

    private static Transport.Answer streamed(String address, long mostRoot, long most, Attachments attachments)
            throws CallFailure {
        Transport.Limits limits = new Transport.Limits(500, 2_000, 5_000, mostRoot, most);
        return new HttpTransport(HostRule.ANY)
                .send(new Transport.Request(
                        "POST",
                        address,
                        Map.of(),
                        Content.of(new byte[] {1}),
                        limits,
                        new CallRoom(attachments, null)));
    }

    @DataProvider
    public Object[][] packings() {
        return new Object[][] {{"/parts"}, {"/parts-gzip"}};
    }

    @Test(dataProvider = "packings")
    public void partsOfAnAnswerGoToFilesAsTheyCome(String path) throws Exception {
        try (Attachments attachments = new Attachments()) {
            Transport.Answer answer = streamed("http://127.0.0.1:" + port + path, 1_000, 10 << 20, attachments);
            assertEquals(new String(answer.body(), StandardCharsets.UTF_8), "<root/>");
            assertEquals(answer.parts().size(), 2);
            assertFalse(answer.parts().get(1).inMemory());
            assertEquals(answer.parts().get(1).bytes(), LONG_PART);
        }
    }

    @Test
    public void anAnswerOfPartsHasItsOwnLimits() {
        String address = "http://127.0.0.1:" + port + "/parts";
        try (Attachments attachments = new Attachments()) {
            CallFailure large = expectThrows(CallFailure.class, () -> streamed(address, 1_000, 1 << 20, attachments));
            assertEquals(large.causeLabel(), "answer too large");
            assertTrue(large.getMessage().contains("1 MB"), large.getMessage());
            CallFailure root = expectThrows(CallFailure.class, () -> streamed(address, 3, 10 << 20, attachments));
            assertEquals(root.causeLabel(), "answer too large");
            CallFailure broken =
                    expectThrows(CallFailure.class, () -> streamed(address + "-cut", 1_000, 10 << 20, attachments));
            assertEquals(broken.causeLabel(), "broken multipart");
        }
    }

    @Test
    public void aFileIsSentAsItIsReadAndToldWhenItCannotBe() throws Exception {
        Path file = Files.createTempFile("photograph", ".png");
        Files.write(file, LONG_PART);
        Content content = Content.of(List.of(Content.of(new byte[] {7}), Content.inBase64(Content.of(file))));
        String address = "http://127.0.0.1:" + port + "/echo";
        Transport.Limits limits = new Transport.Limits(500, 2_000, 5_000, 16 << 20);
        Transport.Request request = new Transport.Request("POST", address, Map.of(), content, limits, CallRoom.NONE);
        byte[] back = new HttpTransport(HostRule.ANY).send(request).body();
        assertEquals(back, content.bytes());
        Files.delete(file);
        CallFailure gone = expectThrows(CallFailure.class, () -> new HttpTransport(HostRule.ANY).send(request));
        assertEquals(gone.causeLabel(), "file not readable");
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

    /** Whoever reads an answer to its end gives the connection back: the next call goes over it. */
    @Test
    public void callsOfAnEndpointUseOneConnectionAgain() throws Exception {
        Transport transport = new HttpTransport(HostRule.ANY);
        Set<String> from = new HashSet<>();
        for (int i = 0; i < 5; i++) {
            Transport.Answer answer = transport.send(request("http://127.0.0.1:" + port + "/who"));
            from.add(new String(answer.body(), StandardCharsets.UTF_8));
        }
        assertEquals(from.size(), 1, "ports the calls came from: " + from);
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
