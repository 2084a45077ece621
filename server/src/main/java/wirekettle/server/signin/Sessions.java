package wirekettle.server.signin;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import jakarta.ws.rs.core.NewCookie;
import jakarta.ws.rs.core.UriInfo;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;

/** Sessions of people: opened by signing in, ended by signing out, by a new password or after twelve hours. */
@ApplicationScoped
public class Sessions {
    /** The name of the cookie that carries a session. */
    public static final String COOKIE = "wirekettle";

    private static final int SECONDS = 12 * 3600;

    private static final long REMEMBERED_NANOS = 60_000_000_000L;

    @Inject
    PersonMapper people;

    private final Map<String, Long> seen = new ConcurrentHashMap<>();

    /** Tells without asking the database whether a cookie's value was somebody's a minute ago. */
    public boolean known(String token) {
        Long at = seen.get(Tokens.hash(token));
        return at != null && System.nanoTime() - at < REMEMBERED_NANOS;
    }

    /** Returns whom a cookie's value belongs to, null for nobody. */
    public Person person(String token) {
        if (token == null || token.isBlank() || token.length() > 200) {
            return null;
        }
        String hash = Tokens.hash(token);
        PersonMapper.Row row = people.ofSession(hash);
        if (row == null) {
            seen.remove(hash);
            return null;
        }
        long now = System.nanoTime();
        if (seen.put(hash, now) == null) {
            seen.values().removeIf(at -> now - at > REMEMBERED_NANOS);
        }
        return row.person();
    }

    /** Opens a session; the one the browser had before ends. */
    NewCookie open(long person, String before, UriInfo at) {
        end(before);
        String token = Tokens.random();
        people.open(Tokens.hash(token), person);
        return cookie(token, SECONDS, at);
    }

    /** Ends one session. */
    void end(String token) {
        if (token != null && !token.isBlank()) {
            people.close(Tokens.hash(token));
        }
    }

    /** Ends all sessions of a person. */
    void endAll(long person) {
        people.closeAll(person);
    }

    /** Returns what makes a browser forget its session. */
    NewCookie none(UriInfo at) {
        return cookie("", 0, at);
    }

    private static NewCookie cookie(String value, int seconds, UriInfo at) {
        return new NewCookie.Builder(COOKIE)
                .value(value)
                .path("/")
                .maxAge(seconds)
                .httpOnly(true)
                .secure("https".equalsIgnoreCase(at.getRequestUri().getScheme()))
                .sameSite(NewCookie.SameSite.STRICT)
                .build();
    }
}
