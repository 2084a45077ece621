package wirekettle.demo;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNotNull;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import com.sun.net.httpserver.HttpServer;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Duration;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.connect.EndpointTest;
import wirekettle.connect.HostRule;
import wirekettle.connect.HttpTransport;
import wirekettle.connect.Probe;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.schema.Picks;
import wirekettle.core.simulate.Simulator;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.EndpointSettings.Header;
import wirekettle.core.soap.EndpointSettings.Login;
import wirekettle.core.soap.EndpointSettings.Security;
import wirekettle.core.soap.EndpointSettings.Tls;
import wirekettle.core.soap.ExampleEnvelope;
import wirekettle.core.soap.Transport;
import wirekettle.core.soap.security.Certificates;
import wirekettle.core.soap.security.KeyMaterial;
import wirekettle.core.soap.security.Masking;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.value.XmlText;

/** Every way to prove oneself, to trust and to sign, against the simulated services, right and wrong. */
public class ReachingServicesTest {
    private static final Map<String, String> SECRETS = Map.of(
            "password", DemoLogins.PASSWORD,
            "token password", DemoLogins.TOKEN_PASSWORD,
            "client secret", DemoLogins.CLIENT_SECRET,
            "token", DemoLogins.FIXED_TOKEN,
            "wrong", "not the right one");

    private DemoWorld world;

    @BeforeClass
    public void start() throws Exception {
        world = new DemoWorld(0);
    }

    @AfterClass
    public void stop() {
        world.close();
    }

    private static String keyPem(String name) {
        try {
            String file = name.equals("stranger") ? "stranger.pem" : name + ".p12";
            return KeyMaterial.read(DemoLogins.keyFile(file), DemoLogins.KEY_PASSWORD)
                    .pem();
        } catch (Exception e) {
            throw new IllegalStateException(e);
        }
    }

    private static Secrets secrets() {
        return name -> {
            if (name.startsWith("key ")) {
                return keyPem(name.substring(4));
            }
            if (!SECRETS.containsKey(name)) {
                throw new Secrets.SecretMissing(name);
            }
            return SECRETS.get(name);
        };
    }

    private static EndpointSettings login(Login.Kind kind, String user, String secret) {
        return with(new Login(kind, user, secret, null, null), Tls.USUAL, Security.NONE);
    }

    private static EndpointSettings with(Login login, Tls tls, Security security) {
        return new EndpointSettings(null, null, null, null, null, login, tls, security, false, false);
    }

    private static EndpointSettings security(Security.Token token, String user, String secret, Integer seconds) {
        return with(Login.NONE, Tls.USUAL, new Security(token, user, secret, seconds, null, null, false));
    }

    private EndpointSettings oauth(String client, String secret, String scope) {
        String desk = world.ports().address("token");
        return with(new Login(Login.Kind.OAUTH2, client, secret, desk, scope), Tls.USUAL, Security.NONE);
    }

    private EndpointSettings signing(String key, List<String> verify) {
        return with(Login.NONE, Tls.USUAL, new Security(null, null, null, 300, key, verify, false));
    }

    private static EndpointSettings tls(List<String> trusted, List<String> fingerprints, String key, boolean anyName) {
        return with(Login.NONE, new Tls(trusted, fingerprints, key, anyName), Security.NONE);
    }

    private Caller.Result call(String service, String operation, String address, EndpointSettings settings) {
        return call(service, operation, address, settings, Clock.systemUTC());
    }

    private Caller.Result call(
            String service, String operation, String address, EndpointSettings settings, Clock clock) {
        Contract contract = world.simulator(service).contract();
        Offered offered = contract.operation(null, null, operation).orElseThrow();
        EndpointReach reach = EndpointReach.of(address, settings, secrets(), clock);
        String text = ExampleEnvelope.of(contract, offered.operation().input(), true, Picks.NONE)
                .text(offered.port().soapVersion(), false)
                .replaceFirst("(<[^>]*reference>)[^<]*", "$1VD-700100");
        Transport transport = new HttpTransport(HostRule.ANY, reach);
        Caller.Result result = Caller.of(transport, reach, contract, offered, Transport.Limits.DEFAULT)
                .call(text.getBytes(StandardCharsets.UTF_8));
        assertNothingSecret(result);
        return result;
    }

    private static void assertNothingSecret(Caller.Result result) {
        StringBuilder kept = new StringBuilder();
        kept.append(result.sent() == null ? "" : new String(result.sent(), StandardCharsets.UTF_8));
        kept.append(result.received() == null ? "" : new String(result.received(), StandardCharsets.UTF_8));
        kept.append(result.failure() == null ? "" : result.failure().getMessage());
        kept.append(result.answer() == null ? "" : result.answer().sentHeaders());
        SECRETS.values().forEach(secret -> {
            String base64 = Base64.getEncoder().encodeToString(secret.getBytes(StandardCharsets.UTF_8));
            for (String form : List.of(
                    secret, XmlText.escape(secret), base64, URLEncoder.encode(secret, StandardCharsets.UTF_8))) {
                assertFalse(kept.toString().contains(form), form + " stands in " + kept);
            }
        });
    }

    @DataProvider
    public Object[][] logins() {
        String user = DemoLogins.USER;
        return new Object[][] {
            {"register-basic", login(Login.Kind.BASIC, user, "password"), null},
            {"register-basic", login(Login.Kind.BASIC, user, "wrong"), "HTTP 401"},
            {"register-basic", EndpointSettings.PLAIN, "HTTP 401"},
            {"register-digest", login(Login.Kind.DIGEST, user, "password"), null},
            {"register-digest", login(Login.Kind.DIGEST, user, "wrong"), "HTTP 401"},
            {"register-digest", login(Login.Kind.DIGEST, "somebody", "password"), "HTTP 401"},
            {"register-digest-md5", login(Login.Kind.DIGEST, user, "password"), null},
            {"register-digest-md5", login(Login.Kind.BASIC, user, "password"), "HTTP 401"},
            {"register-token", login(Login.Kind.BEARER, null, "token"), null},
            {"register-token", login(Login.Kind.BEARER, null, "wrong"), "HTTP 401"},
            {"register-token", oauth(DemoLogins.CLIENT, "client secret", "rates.read"), null},
            {"register-token", oauth(DemoLogins.CLIENT, "wrong", "rates.read"), "no token"},
            {"register-token", oauth(DemoLogins.CLIENT, "client secret", "everything"), "no token"},
        };
    }

    @Test(dataProvider = "logins")
    public void aLoginIsAcceptedOrRefused(String port, EndpointSettings settings, String cause) {
        Caller.Result result =
                call("register", "LookUpInstitution", world.ports().address(port), settings);
        assertOutcome(result, cause);
    }

    /** A fault of the Register itself means that the login was let through. */
    private static void assertOutcome(Caller.Result result, String cause) {
        String found = result.failure() == null || result.failure().causeLabel().startsWith("Unknown")
                ? null
                : result.failure().causeLabel();
        assertEquals(
                found, cause, result.failure() == null ? "" : result.failure().getMessage());
    }

    @Test
    public void aDigestChallengeIsUsedAgainAndATokenIsFetchedOnce() {
        Contract contract = world.register().contract();
        Offered offered = contract.operation(null, null, "LookUpInstitution").orElseThrow();
        EndpointSettings settings = oauth(DemoLogins.CLIENT, "client secret", "rates.read");
        EndpointReach reach =
                EndpointReach.of(world.ports().address("register-token"), settings, secrets(), Clock.systemUTC());
        Transport transport = new HttpTransport(HostRule.ANY, reach);
        int before = world.ports().tokens().given();
        String text = ExampleEnvelope.of(contract, offered.operation().input(), true, Picks.NONE)
                .text(SoapVersion.SOAP_11, false);
        Caller caller = Caller.of(transport, reach, contract, offered, Transport.Limits.DEFAULT);
        for (int i = 0; i < 3; i++) {
            assertOutcome(caller.call(text.getBytes(StandardCharsets.UTF_8)), null);
        }
        assertEquals(world.ports().tokens().given(), before + 1);
        // taken back before its time: another is fetched, once
        world.ports().tokens().tokens().removeIf(token -> token.startsWith("tok-"));
        assertOutcome(caller.call(text.getBytes(StandardCharsets.UTF_8)), null);
        assertEquals(world.ports().tokens().given(), before + 2);
    }

    @DataProvider
    public Object[][] securities() {
        String user = DemoLogins.USER;
        return new Object[][] {
            {"vanline-text", security(Security.Token.TEXT, user, "token password", null), null},
            {"vanline-text", security(Security.Token.TEXT, user, "wrong", null), "wrong user name or password"},
            {"vanline-text", security(Security.Token.DIGEST, user, "token password", null), "token refused"},
            {"vanline-text", EndpointSettings.PLAIN, "security header refused"},
            {"vanline-digest", security(Security.Token.DIGEST, user, "token password", 300), null},
            {"vanline-digest", security(Security.Token.DIGEST, user, "wrong", 300), "wrong user name or password"},
            {"vanline-digest", security(Security.Token.DIGEST, user, "token password", null), "security header refused"
            },
            {"vanline-digest", security(Security.Token.DIGEST, user, "token password", 4000), "timestamp refused"},
            {"vanline-strict", security(Security.Token.TEXT, user, "token password", null), "header not understood"},
            {"vanline-strict", EndpointSettings.PLAIN, null},
            {"vanline-signed", signing("key caller", List.of()), null},
            {"vanline-signed", signing("key stranger", List.of()), "token refused"},
            {"vanline-signed", signing(null, List.of()), "security header refused"},
            {"vanline-signed", signing("key caller", List.of(authorityPem())), null},
            {"vanline-signed", signing("key caller", List.of(strangerPem())), "reply not genuine"},
            {"vanline-strict", signing(null, List.of(authorityPem())), "header not understood"},
        };
    }

    private static String authorityPem() {
        try {
            return DemoLogins.authorityPem();
        } catch (java.io.IOException e) {
            throw new IllegalStateException(e);
        }
    }

    private static String strangerPem() {
        try {
            return Certificates.pem(KeyMaterial.ofPem(keyPem("stranger")).certificate());
        } catch (Exception e) {
            throw new IllegalStateException(e);
        }
    }

    @Test(dataProvider = "securities")
    public void aSecurityHeaderIsAcceptedOrRefused(String port, EndpointSettings settings, String cause) {
        assertOutcome(call("vanline", "TrackTransport", world.ports().address(port), settings), cause);
    }

    @Test
    public void anOptionalSecurityHeaderMayBeIgnored() {
        Security optional =
                new Security(Security.Token.TEXT, DemoLogins.USER, "token password", null, null, null, true);
        assertOutcome(
                call(
                        "vanline",
                        "TrackTransport",
                        world.ports().address("vanline-strict"),
                        with(Login.NONE, Tls.USUAL, optional)),
                null);
    }

    @Test
    public void anUnsignedReplyIsNotTakenWhereASignedOneIsExpected() {
        EndpointSettings settings =
                with(Login.NONE, Tls.USUAL, new Security(null, null, null, null, null, List.of(authorityPem()), false));
        Caller.Result result = call("vanline", "TrackTransport", world.address("vanline"), settings);
        // the example's reference is unknown there: a fault comes, which nobody signed either
        assertNotNull(result.failure());
        Caller.Result reply = call("vanline", "LabelCrate", world.address("vanline"), settings);
        assertEquals(reply.failure().causeLabel(), "reply not genuine");
        assertTrue(
                reply.failure().getMessage().contains("is not signed"),
                reply.failure().getMessage());
    }

    @Test
    public void clocksThatDifferAreToldApartFromATimestampTheServiceDoesNotLike() {
        EndpointSettings settings = security(Security.Token.NONE, null, null, 300);
        Clock slow = Clock.offset(Clock.systemUTC(), Duration.ofMinutes(-20));
        Caller.Result result =
                call("vanline", "TrackTransport", world.ports().address("vanline-digest"), settings, slow);
        assertEquals(result.failure().causeLabel(), "clocks differ");
        assertTrue(
                result.failure().getMessage().contains("ahead of"),
                result.failure().getMessage());
    }

    @DataProvider
    public Object[][] trusts() throws Exception {
        List<String> authority = List.of(authorityPem());
        String server = Certificates.fingerprint(DemoLogins.certificate("server"));
        String expired = Certificates.fingerprint(DemoLogins.certificate("expired"));
        DemoPorts ports = world.ports();
        return new Object[][] {
            {ports.tls(), tls(authority, null, null, false), null, null},
            {ports.tls(), tls(null, List.of(server), null, false), null, null},
            {ports.tls(), tls(null, List.of(expired), null, false), "certificate refused", "no authority this machine"},
            {ports.tls(), EndpointSettings.PLAIN, "certificate refused", "add the certificate of Vanline Desk Authority"
            },
            {
                ports.tlsWith("expired"),
                tls(authority, null, null, false),
                "certificate refused",
                "it ended on 2025-01-01"
            },
            {ports.tlsWith("expired"), tls(null, List.of(expired), null, false), null, null},
            {
                ports.tlsWith("other-name"),
                tls(authority, null, null, false),
                "certificate refused",
                "it is for vanline.invalid"
            },
            {ports.tlsWith("other-name"), tls(authority, null, null, true), null, null},
            {
                ports.tlsWith("self-signed"),
                tls(authority, null, null, false),
                "certificate refused",
                "signed by itself only"
            },
            {ports.mutualTls(), tls(authority, null, "key caller", false), null, null},
            {
                ports.mutualTls(),
                tls(authority, null, null, false),
                "client certificate refused",
                "wants a client certificate"
            },
            {
                ports.mutualTls(),
                tls(authority, null, "key stranger", false),
                "client certificate refused",
                "does not accept"
            },
        };
    }

    @Test(dataProvider = "trusts")
    public void aCertificateIsTrustedOrRefusedWithTheReason(
            String address, EndpointSettings settings, String cause, String said) {
        Caller.Result result = call("vanline", "TrackTransport", address, settings);
        assertOutcome(result, cause);
        if (said != null) {
            assertTrue(
                    result.failure().getMessage().contains(said),
                    result.failure().getMessage());
            assertFalse(result.failure().sent(), "nothing was sent to a server that is not trusted");
        }
    }

    @Test
    public void aPhotographTravelsBesideTheEnvelopeAndALabelComesBack() {
        EndpointSettings mtom = new EndpointSettings(null, null, null, null, null, null, null, null, false, true);
        Contract contract = world.vanline().contract();
        Offered offered = contract.operation(null, null, "LabelCrate").orElseThrow();
        byte[] photograph = new byte[40_001];
        new java.util.Random(7).nextBytes(photograph);
        String text = ExampleEnvelope.of(contract, offered.operation().input(), true, Picks.NONE)
                .text(SoapVersion.SOAP_11, false)
                .replaceFirst(
                        "(<[^>]*photograph>)[^<]*",
                        "$1" + Base64.getEncoder().encodeToString(photograph).replace("$", "\\$"));
        EndpointReach reach = EndpointReach.of(world.address("vanline"), mtom, Secrets.NONE, Clock.systemUTC());
        byte[][] wire = {null};
        Transport transport = request -> {
            wire[0] = request.body();
            return new HttpTransport(HostRule.ANY, reach).send(request);
        };
        Caller.Result result = Caller.of(transport, reach, contract, offered, Transport.Limits.DEFAULT)
                .call(text.getBytes(StandardCharsets.UTF_8));
        assertNull(result.failure());
        String sent = new String(wire[0], StandardCharsets.ISO_8859_1);
        assertTrue(sent.contains("xop:Include"), sent.substring(0, 600));
        assertTrue(wire[0].length < photograph.length + 3_000, "the photograph is sent as it is, not as base64");
        var body = result.reply().body().get(0);
        assertEquals(body.textOf("photographBytes"), Integer.toString(photograph.length));
        assertEquals(result.attachments().size(), 1);
        byte[] label = Base64.getDecoder().decode(body.textOf("label"));
        assertEquals(label, result.attachments().get(0).bytes());
        assertTrue(new String(label, StandardCharsets.UTF_8).startsWith("<svg"));
    }

    @Test
    public void headersCharsetAndAddressingGoOut() {
        EndpointSettings settings = new EndpointSettings(
                null,
                null,
                "ISO-8859-1",
                List.of(new Header("X-Desk", "HC07", null), new Header("X-Key", null, "token")),
                List.of("<v:BookingHeader xmlns:v='urn:halewick:vanline:2'><v:desk>HC{secret:wrong}</v:desk>"
                        + "</v:BookingHeader>"),
                null,
                null,
                null,
                true,
                false);
        EndpointReach reach = EndpointReach.of("http://vanline.invalid/desk", settings, secrets(), Clock.systemUTC());
        Contract contract = world.vanline().contract();
        Offered offered = contract.operation(null, null, "TrackTransport").orElseThrow();
        Transport.Request[] seen = {null};
        Transport transport = request -> {
            seen[0] = request;
            return new Transport.Answer(200, Map.of(), new byte[0], 1);
        };
        String text = "<?xml version='1.0'?><e:Envelope xmlns:e='http://schemas.xmlsoap.org/soap/envelope/'><e:Body>"
                + "<x>Öderstad ☂</x></e:Body></e:Envelope>";
        Caller.Result result = Caller.of(transport, reach, contract, offered, Transport.Limits.DEFAULT)
                .call(text.getBytes(StandardCharsets.UTF_8));
        String wire = new String(seen[0].body(), StandardCharsets.ISO_8859_1);
        assertTrue(wire.startsWith("<?xml version=\"1.0\" encoding=\"ISO-8859-1\"?>"), wire);
        assertTrue(wire.contains("Öderstad &#9730;"), wire);
        assertTrue(wire.contains("<v:desk>HCnot the right one</v:desk>"), wire);
        assertTrue(wire.contains(":To xmlns:wsa") && wire.contains(">http://vanline.invalid/desk</wsa:To>"), wire);
        assertTrue(wire.contains(">urn:halewick:vanline:TrackTransport</wsa:Action>"), wire);
        assertTrue(seen[0].headers().get("Content-Type").contains("charset=iso-8859-1"));
        String kept = new String(result.sent(), StandardCharsets.UTF_8);
        assertTrue(kept.contains("<v:desk>HC" + Masking.MASK + "</v:desk>"), kept);
    }

    @Test
    public void aProxyIsUsedWithItsLogin() throws Exception {
        HttpServer proxy = HttpServer.create(new InetSocketAddress(InetAddress.getByName("127.0.0.1"), 0), 10);
        String basic =
                Base64.getEncoder().encodeToString(("gate:" + DemoLogins.PASSWORD).getBytes(StandardCharsets.UTF_8));
        proxy.createContext("/", exchange -> {
            try (exchange) {
                exchange.getRequestBody().readAllBytes();
                boolean known =
                        ("Basic " + basic).equals(exchange.getRequestHeaders().getFirst("Proxy-Authorization"));
                exchange.getResponseHeaders().set("Proxy-Authenticate", "Basic realm=\"gate\"");
                byte[] answer = ("<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body><through>"
                                + exchange.getRequestURI() + "</through></s:Body></s:Envelope>")
                        .getBytes(StandardCharsets.UTF_8);
                exchange.sendResponseHeaders(known ? 200 : 407, answer.length);
                exchange.getResponseBody().write(answer);
            }
        });
        proxy.start();
        try {
            String at = "127.0.0.1:" + proxy.getAddress().getPort();
            Caller.Result through =
                    call("vanline", "TrackTransport", "http://vanline.invalid/desk", proxied(at, "password"));
            assertEquals(through.reply().body().get(0).text(), "http://vanline.invalid/desk");
            // the JDK gives up on a proxy that refuses its login again and again
            Caller.Result wrong =
                    call("vanline", "TrackTransport", "http://vanline.invalid/desk", proxied(at, "wrong"));
            assertNotNull(wrong.failure());
            EndpointSettings none = proxied(at, null);
            Caller.Result unnamed = call("vanline", "TrackTransport", "http://vanline.invalid/desk", none);
            assertEquals(unnamed.failure().causeLabel(), "HTTP 407");
            assertTrue(unnamed.failure().getMessage().contains("the proxy wants a login"));
        } finally {
            proxy.stop(0);
        }
    }

    private static EndpointSettings proxied(String at, String secret) {
        EndpointSettings.Proxy proxy = new EndpointSettings.Proxy(at, secret == null ? null : "gate", secret);
        return new EndpointSettings(null, proxy, null, null, null, null, null, null, false, false);
    }

    @DataProvider
    public Object[][] tests() throws Exception {
        DemoPorts ports = world.ports();
        List<String> authority = List.of(authorityPem());
        String user = DemoLogins.USER;
        return new Object[][] {
            {world.address("vanline"), EndpointSettings.PLAIN, "name connect http soap", true},
            {ports.tls(), tls(authority, null, null, false), "name connect tls http soap", true},
            {ports.tls(), EndpointSettings.PLAIN, "name connect tls", false},
            {ports.mutualTls(), tls(authority, null, null, false), "name connect tls http", false},
            {ports.address("register-basic"), EndpointSettings.PLAIN, "name connect http", false},
            {ports.address("register-basic"), login(Login.Kind.BASIC, user, "password"), "name connect http soap", true
            },
            {
                ports.address("vanline-text"),
                security(Security.Token.TEXT, user, "wrong", null),
                "name connect http soap",
                false
            },
            {"http://127.0.0.1:1/x", EndpointSettings.PLAIN, "name connect", false},
            {"http://nowhere.invalid/x", EndpointSettings.PLAIN, "name", false},
            {"no address", EndpointSettings.PLAIN, "name", false},
        };
    }

    @Test(dataProvider = "tests")
    public void aTestTellsStepByStepWhatWorks(String address, EndpointSettings settings, String steps, boolean works) {
        Probe probe = EndpointTest.of(
                HostRule.ANY, EndpointReach.of(address, settings, secrets(), Clock.systemUTC()), SoapVersion.SOAP_11);
        assertEquals(
                String.join(" ", probe.steps().stream().map(Probe.Step::name).toList()), steps, probe.toString());
        assertEquals(probe.works(), works, probe.toString());
        if (!works) {
            assertFalse(probe.steps().get(probe.steps().size() - 1).works());
        }
        if (address.startsWith("https")) {
            assertEquals(Certificates.owner(probe.shown()), "Vanline Desk");
        }
    }

    @Test
    public void theTestOfAnEndpointReachesNoOperation() {
        Simulator vanline = world.vanline();
        long before = vanline.invalidRequests().size();
        EndpointTest.of(
                HostRule.ANY,
                EndpointReach.of(world.address("vanline"), EndpointSettings.PLAIN, secrets(), Clock.systemUTC()),
                SoapVersion.SOAP_11);
        assertEquals(vanline.invalidRequests().size(), before);
    }
}
