package wirekettle.connect;

import java.io.IOException;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.cert.CertificateEncodingException;
import java.security.cert.X509Certificate;
import java.time.Instant;
import java.util.HexFormat;

/** A server whose certificate nobody here vouches for; it can be trusted by its fingerprint. */
public final class CertificateUnknown extends IOException {
    private final String host;
    private final X509Certificate certificate;

    CertificateUnknown(String host, X509Certificate certificate, String reason) {
        super("the certificate of " + host + " is not trusted: " + reason);
        this.host = host;
        this.certificate = certificate;
    }

    static String fingerprint(X509Certificate certificate) {
        try {
            byte[] hash = MessageDigest.getInstance("SHA-256").digest(certificate.getEncoded());
            return HexFormat.of().formatHex(hash);
        } catch (NoSuchAlgorithmException | CertificateEncodingException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Returns the server as host:port. */
    public String host() {
        return host;
    }

    /** Returns the SHA-256 of the certificate in lower-case hexadecimal. */
    public String fingerprint() {
        return fingerprint(certificate);
    }

    /** Returns whom the certificate names. */
    public String subject() {
        return certificate.getSubjectX500Principal().getName();
    }

    /** Returns who signed it. */
    public String issuer() {
        return certificate.getIssuerX500Principal().getName();
    }

    /** Returns until when it is valid. */
    public Instant validUntil() {
        return certificate.getNotAfter().toInstant();
    }
}
