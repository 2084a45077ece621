package wirekettle.core.soap.security;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.Key;
import java.security.KeyFactory;
import java.security.KeyStore;
import java.security.PrivateKey;
import java.security.PublicKey;
import java.security.Signature;
import java.security.UnrecoverableKeyException;
import java.security.cert.Certificate;
import java.security.cert.X509Certificate;
import java.security.spec.PKCS8EncodedKeySpec;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import javax.crypto.Cipher;
import javax.crypto.EncryptedPrivateKeyInfo;
import javax.crypto.SecretKeyFactory;
import javax.crypto.spec.PBEKeySpec;

/**
 * A private key with its certificate, and those of its issuers behind it.
 *
 * @param key the private key
 * @param chain the key's own certificate first
 */
public record KeyMaterial(PrivateKey key, List<X509Certificate> chain) {
    /** Keeps the chain. */
    public KeyMaterial {
        chain = List.copyOf(chain);
    }

    /** Returns the key's own certificate. */
    public X509Certificate certificate() {
        return chain.get(0);
    }

    /**
     * Reads a key from a file: PKCS#12, or PEM text with a key and its certificate.
     *
     * @param password what opens it, null or empty when nothing does
     * @throws KeyUnreadable when it holds no usable key, or the password is wrong
     */
    public static KeyMaterial read(byte[] file, String password) throws KeyUnreadable {
        String start = new String(file, 0, Math.min(file.length, 4_000), StandardCharsets.ISO_8859_1);
        return start.contains("-----BEGIN ")
                ? ofPem(new String(file, StandardCharsets.US_ASCII), password)
                : ofStore(file, password);
    }

    /** Reads PEM text that is not encrypted. */
    public static KeyMaterial ofPem(String pem) throws KeyUnreadable {
        return ofPem(pem, null);
    }

    private static KeyMaterial ofPem(String pem, String password) throws KeyUnreadable {
        PrivateKey key = null;
        for (Certificates.Block block : Certificates.blocks(pem)) {
            switch (block.label()) {
                case "PRIVATE KEY" -> key = privateKey(block.bytes());
                case "RSA PRIVATE KEY" -> key = privateKey(wrapped(block.bytes()));
                case "ENCRYPTED PRIVATE KEY" -> key = decrypted(block.bytes(), password);
                case "EC PRIVATE KEY" -> throw new KeyUnreadable(
                        "the key is in the old form EC PRIVATE KEY: turn it into PKCS#8 (PRIVATE KEY) or PKCS#12");
                default -> {}
            }
        }
        if (key == null) {
            throw new KeyUnreadable(
                    "there is no private key in it: give a PKCS#12 file, or PEM text with “PRIVATE KEY” and its “CERTIFICATE”");
        }
        return of(key, Certificates.ofPem(pem));
    }

    private static KeyMaterial ofStore(byte[] file, String password) throws KeyUnreadable {
        char[] opens = password == null ? new char[0] : password.toCharArray();
        try {
            KeyStore store = KeyStore.getInstance("PKCS12");
            store.load(new ByteArrayInputStream(file), opens);
            for (String alias : Collections.list(store.aliases())) {
                Key key = store.getKey(alias, opens);
                Certificate[] chain = store.getCertificateChain(alias);
                if (key instanceof PrivateKey found && chain != null && chain.length > 0) {
                    return of(
                            found,
                            Arrays.stream(chain).map(c -> (X509Certificate) c).toList());
                }
            }
            throw new KeyUnreadable("there is no private key with a certificate in this PKCS#12 file");
        } catch (IOException e) {
            throw new KeyUnreadable(
                    e.getCause() instanceof UnrecoverableKeyException
                            ? "the password does not open this PKCS#12 file"
                            : "this is neither PEM text nor a PKCS#12 file");
        } catch (GeneralSecurityException e) {
            throw new KeyUnreadable("this PKCS#12 file cannot be read: " + e.getMessage());
        }
    }

    /** Puts the certificate of the key first and refuses a key none of the certificates belongs to. */
    private static KeyMaterial of(PrivateKey key, List<X509Certificate> certificates) throws KeyUnreadable {
        List<X509Certificate> chain = new ArrayList<>(certificates);
        for (X509Certificate certificate : certificates) {
            if (belongs(key, certificate.getPublicKey())) {
                chain.remove(certificate);
                chain.add(0, certificate);
                return new KeyMaterial(key, chain);
            }
        }
        throw new KeyUnreadable("none of its certificates belongs to its private key");
    }

    private static boolean belongs(PrivateKey key, PublicKey other) {
        if (!key.getAlgorithm().equals(other.getAlgorithm())) {
            return false;
        }
        try {
            Signature signature =
                    Signature.getInstance(key.getAlgorithm().equals("EC") ? "SHA256withECDSA" : "SHA256withRSA");
            signature.initSign(key);
            signature.update(new byte[] {1, 2, 3});
            byte[] signed = signature.sign();
            signature.initVerify(other);
            signature.update(new byte[] {1, 2, 3});
            return signature.verify(signed);
        } catch (GeneralSecurityException e) {
            return false;
        }
    }

    private static PrivateKey privateKey(byte[] pkcs8) throws KeyUnreadable {
        for (String algorithm : List.of("RSA", "EC")) {
            try {
                return KeyFactory.getInstance(algorithm).generatePrivate(new PKCS8EncodedKeySpec(pkcs8));
            } catch (GeneralSecurityException e) {
                // the next algorithm may fit
            }
        }
        throw new KeyUnreadable("its private key is neither RSA nor EC");
    }

    private static PrivateKey decrypted(byte[] block, String password) throws KeyUnreadable {
        if (password == null || password.isEmpty()) {
            throw new KeyUnreadable("its private key is encrypted: give the password");
        }
        try {
            EncryptedPrivateKeyInfo info = new EncryptedPrivateKeyInfo(block);
            // for PBES2 the parameters, not the name, tell the cipher
            String name = info.getAlgName().equals("PBES2") || info.getAlgName().equals("1.2.840.113549.1.5.13")
                    ? info.getAlgParameters().toString()
                    : info.getAlgName();
            SecretKeyFactory factory = SecretKeyFactory.getInstance(name);
            Cipher cipher = Cipher.getInstance(name);
            cipher.init(
                    Cipher.DECRYPT_MODE,
                    factory.generateSecret(new PBEKeySpec(password.toCharArray())),
                    info.getAlgParameters());
            return privateKey(info.getKeySpec(cipher).getEncoded());
        } catch (IOException e) {
            throw new KeyUnreadable(
                    "its private key is encrypted with a cipher that is not read here: encrypt it with AES, or"
                            + " give a PKCS#12 file");
        } catch (GeneralSecurityException e) {
            throw new KeyUnreadable("the password does not open its private key");
        }
    }

    /** Wraps a PKCS#1 RSA key as PKCS#8 (RFC 5208): version 0, the algorithm's id, the key as octets. */
    private static byte[] wrapped(byte[] pkcs1) {
        byte[] head = {
            0x02,
            0x01,
            0x00,
            0x30,
            0x0d,
            0x06,
            0x09,
            0x2a,
            (byte) 0x86,
            0x48,
            (byte) 0x86,
            (byte) 0xf7,
            0x0d,
            0x01,
            0x01,
            0x01,
            0x05,
            0x00
        };
        return der(0x30, head, der(0x04, pkcs1));
    }

    private static byte[] der(int tag, byte[]... contents) {
        var content = new java.io.ByteArrayOutputStream();
        for (byte[] part : contents) {
            content.writeBytes(part);
        }
        var out = new java.io.ByteArrayOutputStream();
        out.write(tag);
        int length = content.size();
        if (length < 128) {
            out.write(length);
        } else {
            int bytes = length < 256 ? 1 : length < 65_536 ? 2 : 3;
            out.write(0x80 | bytes);
            for (int i = bytes - 1; i >= 0; i--) {
                out.write(length >> (8 * i));
            }
        }
        out.writeBytes(content.toByteArray());
        return out.toByteArray();
    }

    /** Returns key and certificates as PEM text that is not encrypted: to be kept only where it is encrypted whole. */
    public String pem() {
        StringBuilder text = new StringBuilder(Certificates.pem("PRIVATE KEY", key.getEncoded()));
        chain.forEach(certificate -> text.append(Certificates.pem(certificate)));
        return text.toString();
    }

    @Override
    public String toString() {
        return "KeyMaterial[" + Certificates.owner(certificate()) + "]";
    }
}
