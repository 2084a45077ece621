package wirekettle.server.serve;

import jakarta.inject.Inject;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import java.time.Instant;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.signin.Tokens;
import wirekettle.server.triggers.TriggerMapper;
import wirekettle.server.web.Problem;

/** The keys callers show. */
@Path("/api")
public class CallerKeyResource {
    private static final int MOST = 200;
    private static final int MOST_NAME = 80;

    @Inject
    CallerKeyMapper mapper;

    @Inject
    TriggerMapper triggers;

    @Inject
    CurrentPerson current;

    /** A key as it is wanted. */
    @Schema(
            name = "NewCallerKey",
            requiredProperties = {"name"})
    public record Wanted(String name, Instant endsAt) {}

    /** A key that was just made: its text is told this once. */
    @Schema(
            name = "MadeCallerKey",
            requiredProperties = {"id", "name", "key"})
    public record Made(long id, String name, String key) {
        @Override
        public String toString() {
            return "Made[" + name + "]";
        }
    }

    private TriggerMapper.Row trigger(long id) {
        TriggerMapper.Row row = triggers.byId(id);
        if (row == null || !row.kind().equals("http")) {
            throw Problem.missing("trigger");
        }
        return row;
    }

    /** Returns the keys of a trigger, without their texts. */
    @GET
    @Path("triggers/{id}/keys")
    public List<CallerKeyMapper.Key> keys(@PathParam("id") long id) {
        trigger(id);
        return mapper.of(id);
    }

    /** Makes a key. */
    @POST
    @Needs(Right.BUILD)
    @Path("triggers/{id}/keys")
    public Made make(@PathParam("id") long id, Wanted given) {
        current.mustRunIn(trigger(id).environment());
        String name = given.name() == null ? "" : given.name().strip();
        if (name.isEmpty() || name.length() > MOST_NAME) {
            throw new Problem(400, "bad-name", "Name who gets the key, in at most " + MOST_NAME + " characters.");
        }
        if (mapper.of(id).size() >= MOST) {
            throw new Problem(409, "too-many", "There are " + MOST + " keys: remove one first.");
        }
        String key = Tokens.random();
        Long made = mapper.add(id, name, Tokens.hash(key), given.endsAt(), current.name());
        if (made == null) {
            throw new Problem(409, "name-taken", "There is already a key for “" + name + "”.");
        }
        return new Made(made, name, key);
    }

    /** Removes a key: it counts no more within a second. */
    @DELETE
    @Needs(Right.BUILD)
    @Path("triggers/{id}/keys/{key}")
    public void remove(@PathParam("id") long id, @PathParam("key") long key) {
        current.mustRunIn(trigger(id).environment());
        if (mapper.remove(id, key) == 0) {
            throw Problem.missing("key");
        }
    }
}
