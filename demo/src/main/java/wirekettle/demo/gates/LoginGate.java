package wirekettle.demo.gates;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.Base64;
import java.util.HexFormat;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.connect.SimulatorHost;
import wirekettle.connect.SimulatorHost.Refusal;

/** Logins over HTTP: basic (RFC 7617), digest (RFC 7616), bearer tokens (RFC 6750). */
public final class LoginGate implements SimulatorHost.Gate {
    /** The kinds of login. */
    public enum Kind {
        /** Name and password. */
        BASIC,
        /** A proof of the password, MD5. */
        DIGEST_MD5,
        /** A proof of the password, SHA-256. */
        DIGEST_SHA256,
        /** A token the token service gave, or one fixed token. */
        BEARER
    }

    private final Kind kind;
    private final String user;
    private final String password;
    private final Set<String> nonces = ConcurrentHashMap.newKeySet();
    private final Set<String> counts = ConcurrentHashMap.newKeySet();
    private final Set<String> tokens;

    /**
     * Makes a gate.
     *
     * @param tokens the tokens a bearer may show
     */
    public LoginGate(Kind kind, String user, String password, Set<String> tokens) {
        this.kind = kind;
        this.user = user;
        this.password = password;
        this.tokens = tokens;
    }

    @Override
    public Refusal refuse(String method, String uri, Map<String, String> headers, byte[] body) {
        String given = headers.getOrDefault("authorization", "");
        boolean welcome =
                switch (kind) {
                    case BASIC -> given.equals("Basic "
                            + Base64.getEncoder()
                                    .encodeToString((user + ":" + password).getBytes(StandardCharsets.UTF_8)));
                    case BEARER -> given.startsWith("Bearer ") && tokens.contains(given.substring(7));
                    default -> digest(method, uri, given);
                };
        return welcome ? null : new Refusal(401, "text/plain", "who are you", Map.of("WWW-Authenticate", challenge()));
    }

    private String challenge() {
        if (kind == Kind.BASIC) {
            return "Basic realm=\"register\", charset=\"UTF-8\"";
        }
        if (kind == Kind.BEARER) {
            return "Bearer realm=\"rates\"";
        }
        String nonce = UUID.randomUUID().toString();
        nonces.add(nonce);
        return "Digest realm=\"register desk\", qop=\"auth\", algorithm=" + algorithm() + ", nonce=\"" + nonce
                + "\", opaque=\"crate\"";
    }

    private String algorithm() {
        return kind == Kind.DIGEST_MD5 ? "MD5" : "SHA-256";
    }

    private boolean digest(String method, String uri, String given) {
        String nonce = part(given, "nonce");
        if (!given.startsWith("Digest ")
                || !nonces.contains(nonce)
                || !part(given, "username").equals(user)) {
            return false;
        }
        // the same count of a nonce twice is a request played back
        if (!counts.add(nonce + " " + part(given, "nc")) || !part(given, "uri").equals(uri)) {
            return false;
        }
        String first = hash(user + ":register desk:" + password);
        String second = hash(method + ":" + uri);
        String proof =
                hash(first + ":" + nonce + ":" + part(given, "nc") + ":" + part(given, "cnonce") + ":auth:" + second);
        return part(given, "opaque").equals("crate") && part(given, "response").equals(proof);
    }

    private static String part(String header, String name) {
        Matcher found =
                Pattern.compile("[ ,]" + name + "=(?:\"([^\"]*)\"|([^, ]+))").matcher(header);
        return !found.find() ? "" : found.group(1) == null ? found.group(2) : found.group(1);
    }

    private String hash(String text) {
        try {
            return HexFormat.of()
                    .formatHex(MessageDigest.getInstance(algorithm()).digest(text.getBytes(StandardCharsets.UTF_8)));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }
}
