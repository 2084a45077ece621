package wirekettle.server.signin;

import io.quarkus.runtime.StartupEvent;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import jakarta.ws.rs.CookieParam;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.core.NewCookie;
import jakarta.ws.rs.core.Response;
import java.time.Instant;
import org.eclipse.microprofile.config.inject.ConfigProperty;
import org.eclipse.microprofile.openapi.annotations.media.Content;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import org.eclipse.microprofile.openapi.annotations.responses.APIResponse;
import wirekettle.server.web.Problem;

/** Signing in and out. */
@Path("/api")
public class SignInResource {
    static final String COOKIE = "wirekettle";

    /** A hash nothing matches, so that an unknown name takes as long as a wrong password. */
    private static final String NOBODY = Tokens.password(Tokens.random());

    @Inject
    PersonMapper people;

    @Inject
    CurrentPerson current;

    @ConfigProperty(name = "wirekettle.first.name")
    String firstName;

    @ConfigProperty(name = "wirekettle.first.password")
    java.util.Optional<String> firstPassword;

    /** What is needed to sign in. */
    @Schema(requiredProperties = {"name", "password"})
    public record SignIn(String name, String password) {}

    void firstPerson(@Observes StartupEvent start) {
        if (people.all().isEmpty()) {
            String password = firstPassword.filter(p -> !p.isBlank()).orElseGet(Tokens::random);
            people.add(firstName, Tokens.password(password), true);
            if (firstPassword.filter(p -> !p.isBlank()).isEmpty()) {
                System.out.println("first sign-in: " + firstName + " / " + password);
            }
        }
    }

    /** Starts a session; five failures in a row lock the name for fifteen minutes. */
    @POST
    @Path("sign-in")
    @APIResponse(responseCode = "200", content = @Content(schema = @Schema(implementation = Person.class)))
    public Response signIn(SignIn given) {
        Person person = given == null || given.name() == null
                ? null
                : people.byName(given.name().strip());
        if (person != null
                && person.lockedUntil() != null
                && person.lockedUntil().isAfter(Instant.now())) {
            throw new Problem(429, "locked", "Too many failed attempts; this name is locked for a quarter of an hour.");
        }
        String hash = person == null ? NOBODY : people.hash(person.id());
        boolean right = given != null && given.password() != null && Tokens.matches(given.password(), hash);
        if (person == null || !right) {
            if (person != null) {
                people.failed(person.id());
            }
            throw new Problem(401, "wrong-sign-in", "Name or password is wrong.");
        }
        people.succeeded(person.id());
        String token = Tokens.random();
        people.open(Tokens.hash(token), person.id());
        return Response.ok(person).cookie(cookie(token, 12 * 3600)).build();
    }

    private static NewCookie cookie(String value, int seconds) {
        return new NewCookie.Builder(COOKIE)
                .value(value)
                .path("/")
                .maxAge(seconds)
                .httpOnly(true)
                .sameSite(NewCookie.SameSite.STRICT)
                .build();
    }

    /** Ends the session. */
    @POST
    @Path("sign-out")
    public Response signOut(@CookieParam(COOKIE) String token) {
        if (token != null) {
            people.close(Tokens.hash(token));
        }
        return Response.noContent().cookie(cookie("", 0)).build();
    }

    /** Returns who is signed in. */
    @GET
    @Path("me")
    public Person me() {
        return current.get();
    }
}
