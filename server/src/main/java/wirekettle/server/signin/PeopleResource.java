package wirekettle.server.signin;

import jakarta.inject.Inject;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.server.web.Problem;

/** People who may sign in. */
@Path("/api/people")
public class PeopleResource {
    @Inject
    PersonMapper people;

    @Inject
    CurrentPerson current;

    /** A person to add. */
    @Schema(requiredProperties = {"name", "password"})
    public record NewPerson(String name, String password, Boolean mayAllowHosts) {}

    /** A new password. */
    @Schema(requiredProperties = {"password"})
    public record NewPassword(String password) {}

    /** Returns all people. */
    @GET
    public List<Person> all() {
        return people.all();
    }

    /** Adds a person. */
    @POST
    public Person add(NewPerson given) {
        current.mustBeTrusted();
        if (given.name() == null || !given.name().strip().matches("[\\p{L}\\p{N}._-]{2,40}")) {
            throw new Problem(400, "bad-name", "A name has 2 to 40 letters, digits, dots, dashes or underscores.");
        }
        checkPassword(given.password());
        if (people.byName(given.name().strip()) != null) {
            throw new Problem(
                    409,
                    "name-taken",
                    "There is already someone called " + given.name().strip() + ".");
        }
        people.add(given.name().strip(), Tokens.password(given.password()), Boolean.TRUE.equals(given.mayAllowHosts()));
        return people.byName(given.name().strip());
    }

    /** Sets a person's password: one's own, or anybody's by those who may. */
    @PUT
    @Path("{id}/password")
    public void password(@PathParam("id") long id, NewPassword given) {
        if (current.get().id() != id) {
            current.mustBeTrusted();
        }
        checkPassword(given.password());
        people.password(id, Tokens.password(given.password()));
    }

    /** Removes a person; not oneself. */
    @DELETE
    @Path("{id}")
    public void remove(@PathParam("id") long id) {
        current.mustBeTrusted();
        if (current.get().id() == id) {
            throw new Problem(409, "oneself", "You cannot remove yourself.");
        }
        people.remove(id);
    }

    private static void checkPassword(String password) {
        if (password == null || password.length() < 10) {
            throw new Problem(400, "weak-password", "A password has at least ten characters.");
        }
    }
}
