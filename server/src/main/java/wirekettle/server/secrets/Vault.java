package wirekettle.server.secrets;

import jakarta.enterprise.context.ApplicationScoped;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.GeneralSecurityException;
import java.security.SecureRandom;
import java.util.Arrays;
import java.util.Base64;
import javax.crypto.Cipher;
import javax.crypto.SecretKey;
import javax.crypto.spec.GCMParameterSpec;
import javax.crypto.spec.SecretKeySpec;
import org.eclipse.microprofile.config.inject.ConfigProperty;
import wirekettle.server.web.Problem;

/**
 * Encrypts secrets with AES-256 in GCM (NIST SP 800-38D): a fresh nonce each time, the secret's name bound in, the key
 * in a file outside the database that only the server's own account can read.
 */
@ApplicationScoped
public class Vault {
    private static final int NONCE = 12;
    private static final int TAG_BITS = 128;
    private static final SecureRandom RANDOM = new SecureRandom();

    @ConfigProperty(name = "wirekettle.secret-key-file")
    Path file;

    private SecretKey key;

    private synchronized SecretKey key() {
        if (key == null) {
            try {
                key = Files.exists(file) ? read() : make();
            } catch (IOException e) {
                throw new Problem(500, "no-key", "The key of the secrets cannot be read: " + e.getMessage() + ".");
            }
        }
        return key;
    }

    private SecretKey read() throws IOException {
        try {
            byte[] bytes = Base64.getDecoder().decode(Files.readString(file).strip());
            if (bytes.length == 32) {
                return new SecretKeySpec(bytes, "AES");
            }
        } catch (IllegalArgumentException e) {
            // told below
        }
        throw new IOException(file + " holds no key: 32 bytes in base64 are expected");
    }

    private SecretKey make() throws IOException {
        byte[] bytes = new byte[32];
        RANDOM.nextBytes(bytes);
        if (file.toAbsolutePath().getParent() != null) {
            Files.createDirectories(file.toAbsolutePath().getParent());
        }
        try {
            Files.createFile(file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
            Files.writeString(file, Base64.getEncoder().encodeToString(bytes) + "\n");
        } catch (FileAlreadyExistsException e) {
            return read();
        }
        return new SecretKeySpec(bytes, "AES");
    }

    /** Returns a value encrypted under a name: nonce, content, tag. */
    public byte[] seal(String name, String value) {
        try {
            byte[] nonce = new byte[NONCE];
            RANDOM.nextBytes(nonce);
            byte[] content = cipher(Cipher.ENCRYPT_MODE, name, nonce).doFinal(value.getBytes(StandardCharsets.UTF_8));
            byte[] sealed = Arrays.copyOf(nonce, NONCE + content.length);
            System.arraycopy(content, 0, sealed, NONCE, content.length);
            return sealed;
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Returns the value encrypted under a name; a problem says so when the key is not the one it was sealed with. */
    public String open(String name, byte[] sealed) {
        try {
            byte[] nonce = Arrays.copyOf(sealed, NONCE);
            byte[] content = cipher(Cipher.DECRYPT_MODE, name, nonce).doFinal(sealed, NONCE, sealed.length - NONCE);
            return new String(content, StandardCharsets.UTF_8);
        } catch (GeneralSecurityException e) {
            throw new Problem(
                    422,
                    "secret-sealed",
                    "The secret “" + name + "” was encrypted with another key than the one in " + file.getFileName()
                            + ": put the old key file back, or write the secret again.");
        }
    }

    private Cipher cipher(int mode, String name, byte[] nonce) throws GeneralSecurityException {
        Cipher cipher = Cipher.getInstance("AES/GCM/NoPadding");
        cipher.init(mode, key(), new GCMParameterSpec(TAG_BITS, nonce));
        cipher.updateAAD(name.getBytes(StandardCharsets.UTF_8));
        return cipher;
    }
}
