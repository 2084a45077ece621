package wirekettle.core.soap.security;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.SecureRandom;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.Base64;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.value.XmlText;

/** Writes the security header of one message: timestamp, user name token, and the token of a signing certificate. */
public final class SecurityHeader {
    /** The namespace of the security header (Web Services Security: SOAP Message Security 1.1). */
    public static final String WSSE =
            "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-wssecurity-secext-1.0.xsd";

    /** The namespace of timestamps and ids. */
    public static final String WSU =
            "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-wssecurity-utility-1.0.xsd";

    /** What the types of passwords begin with (UsernameToken Profile 1.1, 3.1). */
    public static final String USERNAME_TOKEN =
            "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-username-token-profile-1.0";

    /** What the types of certificates begin with (X.509 Certificate Token Profile 1.1, 3.1). */
    public static final String X509_TOKEN =
            "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-x509-token-profile-1.0";

    static final String BASE64 =
            "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-soap-message-security-1.0#Base64Binary";

    static final String TIMESTAMP_ID = "TS-1";
    static final String CERTIFICATE_ID = "X509-1";

    /** The id the body carries when it is signed. */
    public static final String BODY_ID = "Body-1";

    private static final SecureRandom RANDOM = new SecureRandom();

    private final StringBuilder out = new StringBuilder(600);

    /**
     * Begins a header.
     *
     * @param prefix the prefix of the envelope's namespace, with its colon, or empty
     * @param optional whether the other side may ignore it
     */
    public SecurityHeader(String prefix, SoapVersion version, boolean optional) {
        String understand = version == SoapVersion.SOAP_12 ? "true" : "1";
        out.append("<wsse:Security xmlns:wsse=\"").append(WSSE).append("\" xmlns:wsu=\"");
        out.append(WSU).append('"');
        if (!optional) {
            // an attribute takes no default namespace, so it brings a prefix of its own
            out.append(" xmlns:env=\"").append(version.envelope());
            out.append("\" env:mustUnderstand=\"").append(understand).append('"');
        }
        out.append('>');
    }

    /** Adds a timestamp (Web Services Security: SOAP Message Security 1.1, 10). */
    public SecurityHeader timestamp(Instant now, int lifetimeSeconds) {
        out.append("<wsu:Timestamp wsu:Id=\"")
                .append(TIMESTAMP_ID)
                .append("\"><wsu:Created>")
                .append(time(now));
        out.append("</wsu:Created><wsu:Expires>").append(time(now.plusSeconds(lifetimeSeconds)));
        out.append("</wsu:Expires></wsu:Timestamp>");
        return this;
    }

    /** Adds a user name with its password as text (UsernameToken Profile 1.1, 3.1). */
    public SecurityHeader userName(String user, String password) {
        password(user, "#PasswordText", password);
        out.append("</wsse:UsernameToken>");
        return this;
    }

    /** Adds a user name with a digest of its password, a fresh nonce and the time (UsernameToken Profile 1.1, 3.1). */
    public SecurityHeader userNameDigest(String user, String password, Instant now) {
        byte[] nonce = new byte[16];
        RANDOM.nextBytes(nonce);
        String created = time(now);
        password(user, "#PasswordDigest", digest(nonce, created, password));
        out.append("<wsse:Nonce EncodingType=\"").append(BASE64).append("\">");
        out.append(Base64.getEncoder().encodeToString(nonce))
                .append("</wsse:Nonce><wsu:Created>")
                .append(created);
        out.append("</wsu:Created></wsse:UsernameToken>");
        return this;
    }

    private void password(String user, String type, String text) {
        out.append("<wsse:UsernameToken><wsse:Username>").append(XmlText.escape(user == null ? "" : user));
        out.append("</wsse:Username><wsse:Password Type=\"")
                .append(USERNAME_TOKEN)
                .append(type)
                .append("\">");
        out.append(XmlText.escape(text)).append("</wsse:Password>");
    }

    private static String digest(byte[] nonce, String created, String password) {
        try {
            MessageDigest sha1 = MessageDigest.getInstance("SHA-1");
            sha1.update(nonce);
            sha1.update(created.getBytes(StandardCharsets.UTF_8));
            sha1.update(password.getBytes(StandardCharsets.UTF_8));
            return Base64.getEncoder().encodeToString(sha1.digest());
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-1", e);
        }
    }

    /** Adds the certificate a signature is checked with (X.509 Certificate Token Profile 1.1, 3.2). */
    public SecurityHeader certificate(KeyMaterial key) {
        try {
            out.append("<wsse:BinarySecurityToken wsu:Id=\"").append(CERTIFICATE_ID);
            out.append("\" EncodingType=\"").append(BASE64).append("\" ValueType=\"");
            out.append(X509_TOKEN).append("#X509v3\">");
            out.append(Base64.getEncoder().encodeToString(key.certificate().getEncoded()));
            out.append("</wsse:BinarySecurityToken>");
            return this;
        } catch (java.security.cert.CertificateEncodingException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Returns the header's text, without a signature. */
    public String text() {
        return out + "</wsse:Security>";
    }

    private static String time(Instant at) {
        // always with milliseconds: some services take no other form
        String text = at.truncatedTo(ChronoUnit.MILLIS).toString();
        return text.contains(".") ? text : text.replace("Z", ".000Z");
    }
}
