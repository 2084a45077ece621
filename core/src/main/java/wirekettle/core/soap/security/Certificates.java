package wirekettle.core.soap.security;

import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.cert.CertificateEncodingException;
import java.security.cert.CertificateException;
import java.security.cert.CertificateFactory;
import java.security.cert.X509Certificate;
import java.util.ArrayList;
import java.util.Base64;
import java.util.HexFormat;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Certificates as text (RFC 7468) and their fingerprints. */
public final class Certificates {
    private static final Pattern BLOCK =
            Pattern.compile("-----BEGIN ([A-Z0-9 ]+)-----([A-Za-z0-9+/=\\s]*)-----END \\1-----");

    private Certificates() {}

    /** A block of PEM text: its label and its bytes. */
    record Block(String label, byte[] bytes) {}

    static List<Block> blocks(String pem) throws KeyUnreadable {
        List<Block> blocks = new ArrayList<>();
        Matcher found = BLOCK.matcher(pem);
        while (found.find()) {
            try {
                blocks.add(new Block(found.group(1), Base64.getMimeDecoder().decode(found.group(2))));
            } catch (IllegalArgumentException e) {
                throw new KeyUnreadable("the block " + found.group(1) + " is no base64");
            }
        }
        return blocks;
    }

    /** Returns every certificate of a PEM text; throws when there is none or one cannot be read. */
    public static List<X509Certificate> ofPem(String pem) throws KeyUnreadable {
        List<X509Certificate> certificates = new ArrayList<>();
        for (Block block : blocks(pem == null ? "" : pem)) {
            if (block.label().endsWith("CERTIFICATE")) {
                certificates.add(of(block.bytes()));
            }
        }
        if (certificates.isEmpty()) {
            throw new KeyUnreadable(
                    "there is no certificate in it: give PEM text, from “-----BEGIN CERTIFICATE-----” to "
                            + "“-----END CERTIFICATE-----”");
        }
        return certificates;
    }

    /** Returns a certificate from its DER bytes. */
    static X509Certificate of(byte[] der) throws KeyUnreadable {
        try {
            return (X509Certificate)
                    CertificateFactory.getInstance("X.509").generateCertificate(new ByteArrayInputStream(der));
        } catch (CertificateException e) {
            throw new KeyUnreadable("a certificate in it cannot be read: " + e.getMessage());
        }
    }

    /** Returns certificates of a list of PEM texts; throws when one cannot be read. */
    public static List<X509Certificate> ofPems(List<String> pems) throws KeyUnreadable {
        List<X509Certificate> all = new ArrayList<>();
        for (String pem : pems) {
            all.addAll(ofPem(pem));
        }
        return all;
    }

    /** Returns the SHA-256 of a certificate in lower-case hexadecimal. */
    public static String fingerprint(X509Certificate certificate) {
        try {
            byte[] hash = MessageDigest.getInstance("SHA-256").digest(certificate.getEncoded());
            return HexFormat.of().formatHex(hash);
        } catch (NoSuchAlgorithmException | CertificateEncodingException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Returns a certificate as PEM text. */
    public static String pem(X509Certificate certificate) {
        try {
            return pem("CERTIFICATE", certificate.getEncoded());
        } catch (CertificateEncodingException e) {
            throw new IllegalStateException(e);
        }
    }

    static String pem(String label, byte[] der) {
        String text = Base64.getMimeEncoder(64, "\n".getBytes(StandardCharsets.US_ASCII))
                .encodeToString(der);
        return "-----BEGIN " + label + "-----\n" + text + "\n-----END " + label + "-----\n";
    }

    /** Returns the name people know a certificate's owner by: its common name, else the whole name. */
    public static String owner(X509Certificate certificate) {
        return common(certificate.getSubjectX500Principal().getName());
    }

    /** Returns the name people know a certificate's signer by. */
    public static String issuer(X509Certificate certificate) {
        return common(certificate.getIssuerX500Principal().getName());
    }

    private static String common(String name) {
        Matcher common = Pattern.compile("(?:^|,)CN=((?:\\\\.|[^,])*)").matcher(name);
        return common.find() ? common.group(1).replaceAll("\\\\(.)", "$1") : name;
    }
}
