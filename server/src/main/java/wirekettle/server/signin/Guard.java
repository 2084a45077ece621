package wirekettle.server.signin;

import jakarta.inject.Inject;
import jakarta.ws.rs.container.ContainerRequestContext;
import jakarta.ws.rs.core.Cookie;
import java.util.Set;
import org.jboss.resteasy.reactive.server.ServerRequestFilter;
import wirekettle.server.web.Problem;

/** Lets only signed-in people in, and refuses changes that another site's page could have sent. */
public class Guard {
    /** A header no other site can set without being asked for permission first. */
    private static final String OURS = "X-Wire-Kettle";

    private static final Set<String> READING = Set.of("GET", "HEAD", "OPTIONS");

    @Inject
    PersonMapper people;

    @Inject
    CurrentPerson current;

    /** Checks one request before its resource sees it; whatever path led there, only signing in is open. */
    @ServerRequestFilter(preMatching = false)
    public void check(ContainerRequestContext request) {
        String path = request.getUriInfo().getPath();
        if (!READING.contains(request.getMethod()) && request.getHeaderString(OURS) == null) {
            throw new Problem(403, "cross-site", "Changes need the header " + OURS + "; any value will do.");
        }
        if (path.equals("/api/sign-in")) {
            return;
        }
        Cookie cookie = request.getCookies().get(SignInResource.COOKIE);
        Person person = cookie == null ? null : people.ofSession(Tokens.hash(cookie.getValue()));
        if (person == null) {
            throw new Problem(401, "signed-out", "Sign in first.");
        }
        current.set(person);
    }
}
