package wirekettle.connect;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.IOException;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.Map;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.Transport;

/** How a caller authenticates over HTTP. Implementations are safe for several threads. */
interface HttpLogin {
    /** No login at all. */
    HttpLogin NONE = () -> null;

    /** Returns the Authorization header of a request, null for none. */
    String header() throws CallFailure;

    /** Notes that a request was refused; tells whether to try again with a new header. */
    default boolean refused() {
        return false;
    }

    /** Returns the login an endpoint's settings ask for; HTTP digest is left to the connections. */
    static HttpLogin of(EndpointReach reach, Transport plain) {
        EndpointSettings.Login login = reach.settings().login();
        String given = reach.loginSecret();
        String secret = given == null ? "" : given;
        return switch (login.kind()) {
            case NONE, DIGEST -> NONE;
            case BASIC -> {
                String basic = basic(login.user(), secret);
                yield () -> basic;
            }
            case BEARER -> () -> "Bearer " + secret;
            case OAUTH2 -> new Tokens(reach, plain, secret);
        };
    }

    private static String basic(String user, String password) {
        String pair = (user == null ? "" : user) + ":" + password;
        return "Basic " + Base64.getEncoder().encodeToString(pair.getBytes(StandardCharsets.UTF_8));
    }

    /** Tokens fetched with the client's own credentials (RFC 6749, 4.4), kept until shortly before they end. */
    final class Tokens implements HttpLogin {
        private static final long EARLY_NANOS = 20_000_000_000L;

        private final EndpointReach reach;
        private final Transport plain;
        private final String secret;
        private String token;
        private long until;

        Tokens(EndpointReach reach, Transport plain, String secret) {
            this.reach = reach;
            this.plain = plain;
            this.secret = secret;
        }

        @Override
        public synchronized String header() throws CallFailure {
            if (token == null || System.nanoTime() > until) {
                fetch();
            }
            return "Bearer " + token;
        }

        @Override
        public synchronized boolean refused() {
            // a token may be taken back before its time; a new one is tried once
            token = null;
            return true;
        }

        private void fetch() throws CallFailure {
            EndpointSettings.Login login = reach.settings().login();
            Map<String, String> headers = new LinkedHashMap<>();
            headers.put("Content-Type", "application/x-www-form-urlencoded");
            headers.put("Accept", "application/json");
            headers.put("Authorization", basic(encoded(login.user()), encoded(secret)));
            String scope = login.scope() == null || login.scope().isBlank() ? "" : "&scope=" + encoded(login.scope());
            byte[] form = ("grant_type=client_credentials" + scope).getBytes(StandardCharsets.UTF_8);
            Transport.Answer answer;
            try {
                answer = plain.send(new Transport.Request(
                        String.valueOf(login.tokenAddress()), headers, form, Transport.Limits.DEFAULT));
            } catch (CallFailure e) {
                throw noToken("the token address: " + e.getMessage());
            }
            try {
                JsonNode json = new ObjectMapper().readTree(answer.body());
                String given = json == null ? null : json.path("access_token").asText(null);
                if (answer.status() != 200 || given == null) {
                    String why = json == null
                            ? ""
                            : json.path("error").asText("") + " "
                                    + json.path("error_description").asText("");
                    throw noToken("the token address answered HTTP " + answer.status() + " " + why.strip());
                }
                token = given;
                reach.masking().hide(given);
                long seconds = json.path("expires_in").asLong(60);
                until = System.nanoTime() + Math.max(1_000_000_000L, seconds * 1_000_000_000L - EARLY_NANOS);
            } catch (IOException e) {
                throw noToken("the token address answered HTTP " + answer.status() + " with something that is no JSON");
            }
        }

        private static String encoded(String text) {
            return URLEncoder.encode(text == null ? "" : text, StandardCharsets.UTF_8);
        }

        private static CallFailure noToken(String why) {
            return new CallFailure(
                    FailureClass.CONNECTION,
                    "no token",
                    "no access token could be had: " + why + ". See the endpoint's authentication",
                    false,
                    false,
                    null);
        }
    }
}
