package wirekettle.connect;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import com.sun.net.httpserver.HttpsConfigurator;
import com.sun.net.httpserver.HttpsServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.KeyStore;
import java.util.Base64;
import java.util.List;
import java.util.Set;
import java.util.concurrent.CopyOnWriteArrayList;
import javax.net.ssl.KeyManagerFactory;
import javax.net.ssl.SSLContext;
import org.testng.annotations.AfterClass;
import org.testng.annotations.AfterMethod;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.ContractRefused;
import wirekettle.core.contract.ImportProgress;

/** Documents behind a login, a proxy, a certificate nobody vouches for, and redirects. */
public class WebDocumentsTest {
    private static final String WSDL = "<definitions name='Desk' xmlns='http://schemas.xmlsoap.org/wsdl/'"
            + " xmlns:xs='http://www.w3.org/2001/XMLSchema'><types><xs:schema targetNamespace='urn:a'>"
            + "<xs:include schemaLocation='%s'/></xs:schema></types></definitions>";

    private HttpServer open;
    private HttpServer other;
    private HttpsServer secure;
    private HttpServer proxy;
    private final List<String> seen = new CopyOnWriteArrayList<>();

    private static HttpServer server() throws IOException {
        return HttpServer.create(new InetSocketAddress(InetAddress.getByName("127.0.0.1"), 0), 20);
    }

    private static void answer(HttpExchange exchange, int status, String text) throws IOException {
        try (exchange) {
            byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
            exchange.sendResponseHeaders(status, bytes.length);
            exchange.getResponseBody().write(bytes);
        }
    }

    private static boolean has(HttpExchange exchange, String header, String pair) {
        String expected = "Basic " + Base64.getEncoder().encodeToString(pair.getBytes(StandardCharsets.UTF_8));
        return expected.equals(exchange.getRequestHeaders().getFirst(header));
    }

    @BeforeClass
    public void start() throws Exception {
        open = server();
        other = server();
        proxy = server();
        open.createContext("/desk", exchange -> {
            if (has(exchange, "Authorization", "ada:crates")) {
                answer(
                        exchange,
                        200,
                        WSDL.formatted("http://127.0.0.1:" + other.getAddress().getPort() + "/types.xsd"));
            } else {
                exchange.getResponseHeaders().set("WWW-Authenticate", "Basic realm=\"desk\"");
                answer(exchange, 401, "who are you");
            }
        });
        open.createContext("/digest", exchange -> {
            exchange.getResponseHeaders().set("WWW-Authenticate", "Negotiate");
            answer(exchange, 401, "who are you");
        });
        open.createContext("/away", exchange -> {
            exchange.getResponseHeaders().set("Location", "http://elsewhere.invalid/desk");
            answer(exchange, 302, "");
        });
        open.createContext("/open", exchange -> answer(exchange, 200, "<plain/>"));
        other.createContext("/", exchange -> {
            seen.add(String.valueOf(exchange.getRequestHeaders().getFirst("Authorization")));
            answer(exchange, 200, "<xs:schema xmlns:xs='http://www.w3.org/2001/XMLSchema' targetNamespace='urn:a'/>");
        });
        proxy.createContext("/", exchange -> {
            if (has(exchange, "Proxy-Authorization", "gate:keeper")) {
                answer(exchange, 200, "<through proxy='" + exchange.getRequestURI() + "'/>");
            } else {
                exchange.getResponseHeaders().set("Proxy-Authenticate", "Basic realm=\"gate\"");
                answer(exchange, 407, "");
            }
        });
        open.start();
        other.start();
        proxy.start();
        secure = HttpsServer.create(new InetSocketAddress(InetAddress.getByName("127.0.0.1"), 0), 20);
        secure.setHttpsConfigurator(new HttpsConfigurator(ownCertificate()));
        secure.createContext("/", exchange -> answer(exchange, 200, "<secret/>"));
        secure.start();
    }

    /** Makes a certificate of our own with the JDK's tool; nobody vouches for it. */
    private static SSLContext ownCertificate() throws Exception {
        Path store = Files.createTempDirectory("keys").resolve("keys.p12");
        Process made = new ProcessBuilder(
                        System.getProperty("java.home") + "/bin/keytool",
                        "-genkeypair",
                        "-alias",
                        "vanline",
                        "-keyalg",
                        "EC",
                        "-dname",
                        "CN=vanline.invalid,O=Vanline Desk",
                        "-keystore",
                        store.toString(),
                        "-storetype",
                        "PKCS12",
                        "-storepass",
                        "crates-and-boxes")
                .redirectErrorStream(true)
                .start();
        String said = new String(made.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        assertEquals(made.waitFor(), 0, said);
        char[] password = "crates-and-boxes".toCharArray();
        KeyStore keys = KeyStore.getInstance(store.toFile(), password);
        KeyManagerFactory managers = KeyManagerFactory.getInstance(KeyManagerFactory.getDefaultAlgorithm());
        managers.init(keys, password);
        SSLContext context = SSLContext.getInstance("TLS");
        context.init(managers.getKeyManagers(), null, null);
        return context;
    }

    @AfterMethod
    public void forget() {
        seen.clear();
    }

    @AfterClass(alwaysRun = true)
    public void stop() {
        open.stop(0);
        other.stop(0);
        proxy.stop(0);
        secure.stop(0);
    }

    private String at(HttpServer server, String path) {
        String scheme = server instanceof HttpsServer ? "https" : "http";
        return scheme + "://127.0.0.1:" + server.getAddress().getPort() + path;
    }

    private static String text(WebDocuments documents, String address) throws IOException {
        return new String(documents.load(address), StandardCharsets.UTF_8);
    }

    private static WebAccess login(String user, String password) {
        return new WebAccess(user, password, null, null, null, Set.of());
    }

    @Test
    public void aLoginIsAskedForByNameOfTheHostAndAWrongOneIsSaidToBeWrong() throws Exception {
        String desk = at(open, "/desk");
        LoginWanted asked = expectThrows(LoginWanted.class, () -> new WebDocuments(HostRule.ANY, false).load(desk));
        assertEquals(asked.getMessage(), "127.0.0.1:" + open.getAddress().getPort() + " wants a name and password");
        assertFalse(asked.proxy());
        LoginWanted wrong = expectThrows(
                LoginWanted.class, () -> new WebDocuments(HostRule.ANY, false, login("ada", "boxes")).load(desk));
        assertTrue(wrong.getMessage().contains("does not accept this name and password"), wrong.getMessage());
        assertFalse(wrong.getMessage().contains("boxes"));
        assertTrue(text(new WebDocuments(HostRule.ANY, false, login("ada", "crates")), desk)
                .contains("Desk"));
    }

    @Test
    public void aLoginIsNeverToldToAHostADocumentMerelyNames() throws Exception {
        WebDocuments documents = new WebDocuments(HostRule.ANY, false, login("ada", "crates"));
        Contract contract = ContractReader.read(List.of(at(open, "/desk")), documents, false, ImportProgress.NONE);
        assertEquals(contract.documents().size(), 2);
        assertEquals(seen, List.of("null"));
    }

    @Test
    public void aLoginOfAKindWeCannotGiveSaysWhatToDoInstead() {
        LoginWanted asked =
                expectThrows(LoginWanted.class, () -> new WebDocuments(HostRule.ANY, false).load(at(open, "/digest")));
        assertTrue(asked.getMessage().contains("Negotiate"), asked.getMessage());
        assertTrue(asked.getMessage().contains("import it as a file"), asked.getMessage());
    }

    @Test
    public void aProxyIsUsedAndItsOwnLoginAskedFor() throws Exception {
        String gate = "127.0.0.1:" + proxy.getAddress().getPort();
        WebAccess without = new WebAccess(null, null, gate, null, null, Set.of());
        LoginWanted asked = expectThrows(LoginWanted.class, () -> new WebDocuments(HostRule.ANY, false, without)
                .load("http://register.invalid/desk?wsdl"));
        assertTrue(asked.proxy());
        assertEquals(asked.host(), gate);
        WebAccess with = new WebAccess(null, null, gate, "gate", "keeper", Set.of());
        assertEquals(
                text(new WebDocuments(HostRule.ANY, false, with), "http://register.invalid/desk?wsdl"),
                "<through proxy='http://register.invalid/desk?wsdl'/>");
    }

    @Test
    public void aProxyMustBeAnAllowedHostToo() {
        WebAccess with = new WebAccess(null, null, "gate.invalid:3128", null, null, Set.of());
        HostRule rule = HostRule.of(List.of("register.invalid"));
        HostRefused refused = expectThrows(
                HostRefused.class, () -> new WebDocuments(rule, false, with).load("http://register.invalid/x"));
        assertEquals(refused.host(), "gate.invalid:3128");
        assertTrue(expectThrows(
                        IllegalArgumentException.class,
                        () -> new WebAccess(null, null, "not a proxy", null, null, Set.of()))
                .getMessage()
                .contains("host:port"));
    }

    @Test
    public void anUnknownCertificateIsShownAndTrustedByItsFingerprintOnly() throws Exception {
        String address = at(secure, "/desk");
        CertificateUnknown unknown =
                expectThrows(CertificateUnknown.class, () -> new WebDocuments(HostRule.ANY, false).load(address));
        assertEquals(unknown.host(), "127.0.0.1:" + secure.getAddress().getPort());
        assertEquals(unknown.subject(), "CN=vanline.invalid,O=Vanline Desk");
        assertEquals(unknown.issuer(), unknown.subject());
        assertEquals(unknown.fingerprint().length(), 64);
        assertTrue(unknown.getMessage().contains("signed by itself only"));
        WebAccess wrong = new WebAccess(null, null, null, null, null, Set.of("0".repeat(64)));
        expectThrows(CertificateUnknown.class, () -> new WebDocuments(HostRule.ANY, false, wrong).load(address));
        WebAccess right = new WebAccess(null, null, null, null, null, Set.of(unknown.fingerprint()));
        assertEquals(text(new WebDocuments(HostRule.ANY, false, right), address), "<secret/>");
    }

    @Test
    public void aRedirectToAHostThatIsNotAllowedIsNotFollowed() {
        HostRule rule = HostRule.of(List.of("127.0.0.1"));
        HostRefused refused =
                expectThrows(HostRefused.class, () -> new WebDocuments(rule, false).load(at(open, "/away")));
        assertEquals(refused.host(), "elsewhere.invalid:80");
    }

    @Test
    public void aPasswordIsNotInWhatIsPrinted() throws ContractRefused {
        assertFalse(login("ada", "crates").toString().contains("crates"));
    }
}
