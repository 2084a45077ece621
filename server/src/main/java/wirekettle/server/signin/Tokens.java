package wirekettle.server.signin;

import com.password4j.Password;
import com.password4j.ScryptFunction;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.SecureRandom;
import java.util.Base64;
import java.util.HexFormat;

/** Random tokens and the hashes that are stored in their place. */
public final class Tokens {
    private static final ScryptFunction SCRYPT = ScryptFunction.getInstance(16_384, 8, 1, 64);
    private static final SecureRandom RANDOM = new SecureRandom();

    private Tokens() {}

    /** Returns a new random token. */
    public static String random() {
        byte[] bytes = new byte[24];
        RANDOM.nextBytes(bytes);
        return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes);
    }

    /** Returns the hash a token is stored and found by. */
    public static String hash(String token) {
        try {
            MessageDigest digest = MessageDigest.getInstance("SHA-256");
            return HexFormat.of().formatHex(digest.digest(token.getBytes(StandardCharsets.UTF_8)));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
    }

    static String password(String plain) {
        return Password.hash(plain).addRandomSalt(16).with(SCRYPT).getResult();
    }

    static boolean matches(String plain, String hash) {
        return Password.check(plain, hash).with(SCRYPT);
    }
}
