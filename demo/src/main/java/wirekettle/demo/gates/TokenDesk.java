package wirekettle.demo.gates;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.Base64;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicInteger;
import wirekettle.connect.SimulatorHost;
import wirekettle.connect.SimulatorHost.Refusal;

/** Gives access tokens for a client's own credentials (RFC 6749, 4.4); it answers every request itself. */
public final class TokenDesk implements SimulatorHost.Gate {
    private final String client;
    private final String secret;
    private final AtomicInteger given = new AtomicInteger();
    private final Set<String> tokens = ConcurrentHashMap.newKeySet();

    /** Makes a desk for one client. */
    public TokenDesk(String client, String secret) {
        this.client = client;
        this.secret = secret;
    }

    /** Returns the tokens given so far, as a live set. */
    public Set<String> tokens() {
        return tokens;
    }

    /** Returns how many tokens were given. */
    public int given() {
        return given.get();
    }

    @Override
    public Refusal refuse(String method, String uri, Map<String, String> headers, byte[] body) {
        // both halves are form-encoded before they are joined (RFC 6749, 2.3.1)
        String pair = URLEncoder.encode(client, StandardCharsets.UTF_8) + ":"
                + URLEncoder.encode(secret, StandardCharsets.UTF_8);
        String wanted = "Basic " + Base64.getEncoder().encodeToString(pair.getBytes(StandardCharsets.UTF_8));
        String form = new String(body, StandardCharsets.UTF_8);
        if (!headers.getOrDefault("authorization", "").equals(wanted)) {
            return json(401, "{\"error\":\"invalid_client\",\"error_description\":\"unknown client or wrong secret\"}");
        }
        if (!form.contains("grant_type=client_credentials")) {
            return json(400, "{\"error\":\"unsupported_grant_type\"}");
        }
        if (!form.contains("scope=rates.read")) {
            return json(400, "{\"error\":\"invalid_scope\"}");
        }
        String token = "tok-" + UUID.randomUUID();
        tokens.add(token);
        given.incrementAndGet();
        return json(200, "{\"access_token\":\"" + token + "\",\"token_type\":\"Bearer\",\"expires_in\":600}");
    }

    private static Refusal json(int status, String text) {
        return new Refusal(status, "application/json", text, Map.of("Cache-Control", "no-store"));
    }
}
