package wirekettle.connect;

import java.io.IOException;
import java.security.cert.CertificateException;
import java.security.cert.CertificateParsingException;
import java.security.cert.X509Certificate;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import wirekettle.core.soap.security.Certificates;

/** A server whose certificate is refused: why, and how it can be trusted nevertheless. */
public final class CertificateUnknown extends IOException {
    private final String host;
    private final X509Certificate certificate;

    CertificateUnknown(String host, X509Certificate certificate, String reason) {
        super("the certificate of " + host + " is not trusted: " + reason);
        this.host = host;
        this.certificate = certificate;
    }

    static boolean otherName(CertificateException refusal) {
        String message = String.valueOf(refusal.getMessage());
        return message.contains("No subject alternative") || message.contains("No name matching");
    }

    /** Returns why a certificate is refused and what to do about it. */
    static String reason(X509Certificate certificate, CertificateException refusal) {
        Instant now = Instant.now();
        if (certificate.getNotAfter().toInstant().isBefore(now)) {
            return "it ended on " + day(certificate.getNotAfter().toInstant())
                    + "; ask the service's owner for a new one, or trust exactly this one by its fingerprint";
        }
        if (certificate.getNotBefore().toInstant().isAfter(now)) {
            return "it begins only on " + day(certificate.getNotBefore().toInstant())
                    + "; look at this machine's clock, or trust exactly this one by its fingerprint";
        }
        if (otherName(refusal)) {
            return "it is for " + String.join(", ", names(certificate))
                    + ", not for this host; correct the address, or switch the host name check off";
        }
        if (certificate.getSubjectX500Principal().equals(certificate.getIssuerX500Principal())) {
            return "it is signed by itself only; compare its fingerprint with the service's owner and trust it by that";
        }
        return String.valueOf(refusal.getMessage()).contains("unable to find valid certification path")
                ? "no authority this machine knows has signed it; add the certificate of "
                        + Certificates.issuer(certificate) + " to those trusted, or trust this one by its fingerprint"
                : refusal.getMessage();
    }

    private static String day(Instant at) {
        return at.toString().substring(0, 10);
    }

    /** Returns the host names and addresses a certificate is for. */
    static List<String> names(X509Certificate certificate) {
        List<String> names = new ArrayList<>();
        try {
            Collection<List<?>> alternatives = certificate.getSubjectAlternativeNames();
            for (List<?> alternative : alternatives == null ? List.<List<?>>of() : alternatives) {
                if (alternative.get(1) instanceof String text) {
                    names.add(text);
                }
            }
        } catch (CertificateParsingException e) {
            // then its owner's name has to do
        }
        return names.isEmpty() ? List.of(Certificates.owner(certificate)) : names;
    }

    /** Returns the server as host:port. */
    public String host() {
        return host;
    }

    /** Returns the certificate. */
    public X509Certificate certificate() {
        return certificate;
    }

    /** Returns the SHA-256 of the certificate in lower-case hexadecimal. */
    public String fingerprint() {
        return Certificates.fingerprint(certificate);
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
