package wirekettle.server.signin;

import jakarta.inject.Inject;
import jakarta.ws.rs.container.ContainerRequestContext;
import jakarta.ws.rs.container.ResourceInfo;
import jakarta.ws.rs.core.Cookie;
import java.util.Set;
import org.jboss.resteasy.reactive.server.ServerRequestFilter;
import wirekettle.server.web.Problem;

/**
 * Lets only people in who have the right a method needs, and refuses changes that another site's page could have
 * sent.
 */
public class Guard {
    /** A header no other site can set without being asked for permission first. */
    private static final String OURS = "X-Wire-Kettle";

    private static final Set<String> READING = Set.of("GET", "HEAD", "OPTIONS");

    @Inject
    Sessions sessions;

    @Inject
    CurrentPerson current;

    /** Checks one request before its resource sees it, whatever path led there. */
    @ServerRequestFilter(preMatching = false)
    public void check(ContainerRequestContext request, ResourceInfo resource) {
        boolean reading = READING.contains(request.getMethod());
        if (!reading && request.getHeaderString(OURS) == null) {
            throw new Problem(403, "cross-site", "Changes need the header " + OURS + "; any value will do.");
        }
        Needs needs = resource.getResourceMethod() == null
                ? null
                : resource.getResourceMethod().getAnnotation(Needs.class);
        if (needs != null && needs.value() == Right.NONE) {
            return;
        }
        Cookie cookie = request.getCookies().get(Sessions.COOKIE);
        Person person = sessions.person(cookie == null ? null : cookie.getValue());
        if (person == null) {
            throw new Problem(401, "signed-out", "Sign in first.");
        }
        current.set(person);
        if (needs == null && !reading) {
            throw new Problem(403, "no-right-named", "Nobody may do this: the method names no right.");
        }
        current.must(needs == null ? Right.LOOK : needs.value());
    }
}
