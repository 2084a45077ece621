package wirekettle.demo;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.KeyStore;
import java.security.PrivateKey;
import java.security.cert.CertificateFactory;
import java.security.cert.X509Certificate;
import java.util.List;
import java.util.Map;
import javax.net.ssl.KeyManagerFactory;
import javax.net.ssl.SSLContext;
import javax.net.ssl.TrustManagerFactory;

/** Who may call the simulated services, and with which keys. All of it is made up and known to everybody. */
public final class DemoLogins {
    /** The name callers use. */
    public static final String USER = "halewick";

    /** The password for HTTP; its characters need escaping in XML, JSON and addresses. */
    public static final String PASSWORD = "crate & \"lid\" <7>";

    /** The password for security headers. */
    public static final String TOKEN_PASSWORD = "batten+brace/äöü";

    /** The client's id and secret at the token desk. */
    public static final String CLIENT = "halewick-flows";

    /** The client's secret at the token desk. */
    public static final String CLIENT_SECRET = "straps 100% tight";

    /** A token that is always good. */
    public static final String FIXED_TOKEN = "rates-token-2f9c41";

    /** What opens the key files. */
    public static final String KEY_PASSWORD = "halewick-demo";

    private DemoLogins() {}

    /** Returns a PKCS#12 or PEM file of the demo world's keys. */
    public static byte[] keyFile(String name) throws IOException {
        return DemoWorld.resource("keys/" + name);
    }

    /** Returns the certificate of Vanline Desk's own authority as PEM text. */
    public static String authorityPem() throws IOException {
        return new String(keyFile("ca.pem"), StandardCharsets.US_ASCII);
    }

    static X509Certificate authority() throws IOException, GeneralSecurityException {
        return (X509Certificate) CertificateFactory.getInstance("X.509")
                .generateCertificate(new ByteArrayInputStream(keyFile("ca.pem")));
    }

    private static KeyStore store(String name) throws IOException, GeneralSecurityException {
        KeyStore store = KeyStore.getInstance("PKCS12");
        store.load(new ByteArrayInputStream(keyFile(name + ".p12")), KEY_PASSWORD.toCharArray());
        return store;
    }

    static PrivateKey key(String name) throws IOException, GeneralSecurityException {
        KeyStore store = store(name);
        return (PrivateKey) store.getKey(store.aliases().nextElement(), KEY_PASSWORD.toCharArray());
    }

    static X509Certificate certificate(String name) throws IOException, GeneralSecurityException {
        KeyStore store = store(name);
        return (X509Certificate) store.getCertificate(store.aliases().nextElement());
    }

    /** Returns what a server shows with a key of the demo world; callers' certificates must come from the authority. */
    static SSLContext tls(String name) throws IOException, GeneralSecurityException {
        KeyManagerFactory keys = KeyManagerFactory.getInstance(KeyManagerFactory.getDefaultAlgorithm());
        keys.init(store(name), KEY_PASSWORD.toCharArray());
        KeyStore trusted = KeyStore.getInstance(KeyStore.getDefaultType());
        trusted.load(null, null);
        trusted.setCertificateEntry("authority", authority());
        TrustManagerFactory trust = TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
        trust.init(trusted);
        SSLContext context = SSLContext.getInstance("TLS");
        context.init(keys.getKeyManagers(), trust.getTrustManagers(), null);
        return context;
    }

    /** Returns the settings of an endpoint at the desk that wants a session: its token stands in a header block. */
    public static Map<String, Object> session() {
        String v = " xmlns=\"urn:halewick:vanline:2\">";
        return Map.of(
                "soapHeaders",
                List.of("<Session" + v + "<token>{session}</token></Session>"),
                "session",
                Map.of(
                        "operation",
                        "SignOn",
                        "action",
                        "urn:halewick:vanline:SignOn",
                        "signOn",
                        "<SignOn" + v + "<desk>HC07</desk><password>{secret:vanline password}</password></SignOn>",
                        "token",
                        "token",
                        "lifetimeAt",
                        "seconds",
                        "refused",
                        Map.of("text", "SessionEnded"),
                        "farewellAction",
                        "urn:halewick:vanline:SignOff",
                        "farewell",
                        "<SignOff" + v + "<token>{session}</token></SignOff>"));
    }
}
