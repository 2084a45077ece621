package wirekettle.server.signin;

import io.quarkus.runtime.StartupEvent;
import io.vertx.core.http.HttpServerRequest;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import jakarta.ws.rs.CookieParam;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.core.Context;
import jakarta.ws.rs.core.Response;
import jakarta.ws.rs.core.UriInfo;
import java.time.Instant;
import org.eclipse.microprofile.config.inject.ConfigProperty;
import org.eclipse.microprofile.openapi.annotations.media.Content;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import org.eclipse.microprofile.openapi.annotations.responses.APIResponse;
import wirekettle.server.environments.Environments;
import wirekettle.server.web.Problem;

/** Signing in and out. */
@Path("/api")
public class SignInResource {
    @Inject
    Environments environments;

    @Inject
    PersonMapper people;

    @Inject
    Passwords passwords;

    @Inject
    Sessions sessions;

    @Inject
    CurrentPerson current;

    @ConfigProperty(name = "wirekettle.first.name")
    String firstName;

    @ConfigProperty(name = "wirekettle.first.password")
    java.util.Optional<String> firstPassword;

    /** What is needed to sign in. */
    @Schema(requiredProperties = {"name", "password"})
    public record SignIn(String name, String password) {
        @Override
        public String toString() {
            return "SignIn[" + name + "]";
        }
    }

    void firstPerson(@Observes StartupEvent start) {
        if (people.count("%") == 0) {
            String password = firstPassword.filter(p -> !p.isBlank()).orElseGet(Tokens::random);
            String everywhere = String.join(",", environments.names());
            people.add(firstName, Tokens.password(password), true, true, everywhere);
            if (firstPassword.filter(p -> !p.isBlank()).isEmpty()) {
                System.out.println("first sign-in: " + firstName + " / " + password);
            }
        }
    }

    /**
     * Starts a session and ends the one this browser had. Wrong tries of a name from one address wait longer and
     * longer; an unknown name, a wrong password and a try that should have waited get the same answer.
     */
    @POST
    @Path("sign-in")
    @Needs(Right.NONE)
    @APIResponse(responseCode = "200", content = @Content(schema = @Schema(implementation = Person.class)))
    public Response signIn(
            SignIn given,
            @CookieParam(Sessions.COOKIE) String before,
            @Context HttpServerRequest request,
            @Context UriInfo at) {
        String name = given == null || given.name() == null ? "" : given.name().strip();
        if (name.length() > 80) {
            throw new Problem(400, "bad-name", "A name has at most 40 characters.");
        }
        String address =
                request.remoteAddress() == null ? "" : request.remoteAddress().hostAddress();
        Instant wait = people.waitUntil(name, address);
        PersonMapper.Row person = people.byName(name);
        boolean right = passwords.matches(
                given == null ? null : given.password(), person == null ? null : people.hash(person.id()));
        if (!right || wait != null && wait.isAfter(Instant.now())) {
            if (wait == null || !wait.isAfter(Instant.now())) {
                people.failed(name, address);
            }
            throw new Problem(
                    401,
                    "wrong-sign-in",
                    "Name or password is wrong; after several wrong tries, wait before the next.");
        }
        people.succeeded(name, address);
        return Response.ok(person.person())
                .cookie(sessions.open(person.id(), before, at))
                .build();
    }

    /** Ends the session. */
    @POST
    @Path("sign-out")
    @Needs(Right.NONE)
    public Response signOut(@CookieParam(Sessions.COOKIE) String token, @Context UriInfo at) {
        sessions.end(token);
        return Response.noContent().cookie(sessions.none(at)).build();
    }

    /** Returns who is signed in, with their rights. */
    @GET
    @Path("me")
    public Person me() {
        return current.get();
    }
}
