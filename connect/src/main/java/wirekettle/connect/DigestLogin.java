package wirekettle.connect;

import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.SecureRandom;
import java.util.HexFormat;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** HTTP digest authentication (RFC 7616) with MD5 or SHA-256, protection {@code auth} or none. */
final class DigestLogin implements HttpLogin {
    private static final SecureRandom RANDOM = new SecureRandom();

    private final String user;
    private final String password;
    private String challenge;
    private String nonce;
    private int count;

    DigestLogin(String user, String password) {
        this.user = user == null ? "" : user;
        this.password = password;
    }

    @Override
    public synchronized boolean refused(Map<String, String> headers) {
        String given = digest(headers.getOrDefault("www-authenticate", ""));
        if (given == null) {
            return false;
        }
        String fresh = parameter(given, "nonce");
        // the same nonce again, not called stale, means that the proof was wrong
        boolean again = challenge == null || !fresh.equals(nonce) && "true".equalsIgnoreCase(parameter(given, "stale"));
        challenge = given;
        nonce = fresh;
        count = 0;
        return again;
    }

    /** Returns the strongest digest challenge this login can answer, null when there is none. */
    private static String digest(String header) {
        String found = null;
        for (String each : header.split("(?i)(?=\\bDigest\\s)")) {
            String algorithm = parameter(each, "algorithm").toUpperCase(java.util.Locale.ROOT);
            boolean known = algorithm.isEmpty() || algorithm.equals("MD5") || algorithm.equals("SHA-256");
            if (each.regionMatches(true, 0, "Digest", 0, 6)
                    && known
                    && (found == null || algorithm.equals("SHA-256"))) {
                found = each;
            }
        }
        return found;
    }

    @Override
    public synchronized String header(String method, URI address) {
        if (challenge == null) {
            return null;
        }
        String realm = parameter(challenge, "realm");
        String algorithm = parameter(challenge, "algorithm");
        String opaque = parameter(challenge, "opaque");
        boolean auth = parameter(challenge, "qop").matches("(?i)(.*,\\s*)?auth(\\s*,.*)?");
        String uri = address.getRawPath().isEmpty() ? "/" : address.getRawPath();
        uri = address.getRawQuery() == null ? uri : uri + "?" + address.getRawQuery();
        byte[] random = new byte[12];
        RANDOM.nextBytes(random);
        String own = HexFormat.of().formatHex(random);
        String number = String.format("%08x", ++count);
        String first = hash(algorithm, user + ":" + realm + ":" + password);
        String second = hash(algorithm, method + ":" + uri);
        String proof = auth
                ? hash(algorithm, first + ":" + nonce + ":" + number + ":" + own + ":auth:" + second)
                : hash(algorithm, first + ":" + nonce + ":" + second);
        return "Digest username=\"" + user.replace("\"", "\\\"") + "\", realm=\"" + realm + "\", nonce=\"" + nonce
                + "\", uri=\"" + uri + "\", response=\"" + proof + "\""
                + (algorithm.isEmpty() ? "" : ", algorithm=" + algorithm)
                + (opaque.isEmpty() ? "" : ", opaque=\"" + opaque + "\"")
                + (auth ? ", qop=auth, nc=" + number + ", cnonce=\"" + own + "\"" : "");
    }

    private static String parameter(String text, String name) {
        Matcher found = Pattern.compile("(?i)\\b" + name + "\\s*=\\s*(?:\"([^\"]*)\"|([^,\\s]+))")
                .matcher(text);
        return !found.find() ? "" : found.group(1) != null ? found.group(1) : found.group(2);
    }

    private static String hash(String algorithm, String text) {
        try {
            MessageDigest digest = MessageDigest.getInstance(algorithm.equalsIgnoreCase("SHA-256") ? "SHA-256" : "MD5");
            return HexFormat.of().formatHex(digest.digest(text.getBytes(StandardCharsets.UTF_8)));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has MD5 and SHA-256", e);
        }
    }
}
