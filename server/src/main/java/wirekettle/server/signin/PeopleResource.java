package wirekettle.server.signin;

import jakarta.inject.Inject;
import jakarta.transaction.Transactional;
import jakarta.ws.rs.CookieParam;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import jakarta.ws.rs.core.Context;
import jakarta.ws.rs.core.Response;
import jakarta.ws.rs.core.UriInfo;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.server.environments.Environments;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** People who may sign in, and what they may do. */
@Path("/api/people")
public class PeopleResource {
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

    /** What a person may do beyond looking; what is left out they may not. */
    public record Rights(Boolean build, Boolean manage, List<String> run) {}

    /** A person to add. */
    @Schema(requiredProperties = {"name", "password"})
    public record NewPerson(String name, String password, Rights rights) {}

    /**
     * A new password.
     *
     * @param old the password of the person who asks: one's own before the change
     */
    @Schema(requiredProperties = {"password", "old"})
    public record NewPassword(String password, String old) {}

    /** Returns people whose name matches. */
    @GET
    @Needs(Right.MANAGE)
    public Page<Person> all(
            @QueryParam("q") String q, @QueryParam("page") Integer page, @QueryParam("size") Integer size) {
        String like = Page.like(q);
        return new Page<>(
                people.page(like, Page.size(size), Page.offset(page, size)).stream()
                        .map(PersonMapper.Row::person)
                        .toList(),
                people.count(like));
    }

    /** Adds a person. */
    @POST
    @Needs(Right.MANAGE)
    public Person add(NewPerson given) {
        String name = given.name() == null ? "" : given.name().strip();
        if (!name.matches("[\\p{L}\\p{N}._-]{2,40}")) {
            throw new Problem(400, "bad-name", "A name has 2 to 40 letters, digits, dots, dashes or underscores.");
        }
        passwords.check(given.password(), name);
        String run = runIn(given.rights());
        if (people.byName(name) != null) {
            throw new Problem(409, "name-taken", "There is already someone called " + name + ".");
        }
        Rights rights = given.rights() == null ? new Rights(false, false, List.of()) : given.rights();
        people.add(
                name,
                passwords.hash(given.password()),
                Boolean.TRUE.equals(rights.build()),
                Boolean.TRUE.equals(rights.manage()),
                run);
        return people.byName(name).person();
    }

    private String runIn(Rights rights) {
        List<String> run = rights == null || rights.run() == null ? List.of() : rights.run();
        run.forEach(environments::named);
        return String.join(",", run.stream().distinct().toList());
    }

    private PersonMapper.Row row(long id) {
        PersonMapper.Row row = people.byId(id);
        if (row == null) {
            throw Problem.missing("person");
        }
        return row;
    }

    /** Sets what a person may do; someone must go on managing. */
    @PUT
    @Path("{id}/rights")
    @Transactional
    @Needs(Right.MANAGE)
    public Person rights(@PathParam("id") long id, Rights given) {
        row(id);
        String run = runIn(given);
        people.rights(id, Boolean.TRUE.equals(given.build()), Boolean.TRUE.equals(given.manage()), run);
        if (people.managers() == 0) {
            throw new Problem(
                    409, "last-manager", "Nobody could manage people any more: give someone else the right first.");
        }
        return row(id).person();
    }

    /**
     * Sets a person's password: one's own, or anybody's by those who manage. All sessions of the person end; the
     * browser that changed its own goes on with a new one.
     */
    @PUT
    @Path("{id}/password")
    @Needs(Right.LOOK)
    public Response password(
            @PathParam("id") long id,
            NewPassword given,
            @CookieParam(Sessions.COOKIE) String before,
            @Context UriInfo at) {
        boolean own = current.get().id() == id;
        if (!own) {
            current.must(Right.MANAGE);
        }
        PersonMapper.Row row = row(id);
        if (!passwords.matches(given.old(), people.hash(current.get().id()))) {
            throw new Problem(403, "wrong-password", "Your own password as it is now is wrong: nothing was changed.");
        }
        passwords.check(given.password(), row.name());
        people.password(id, passwords.hash(given.password()));
        people.forgive(row.name());
        sessions.endAll(id);
        Response.ResponseBuilder answer = Response.noContent();
        return own ? answer.cookie(sessions.open(id, before, at)).build() : answer.build();
    }

    /** Removes a person; not oneself. */
    @DELETE
    @Path("{id}")
    @Needs(Right.MANAGE)
    public void remove(@PathParam("id") long id) {
        if (current.get().id() == id) {
            throw new Problem(409, "oneself", "You cannot remove yourself.");
        }
        people.remove(id);
    }
}
