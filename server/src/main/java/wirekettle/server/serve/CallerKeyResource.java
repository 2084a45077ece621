package wirekettle.server.serve;

import jakarta.inject.Inject;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
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
    private static final int MOST_A_MINUTE = 60_000;

    @Inject
    CallerKeyMapper mapper;

    @Inject
    TriggerMapper triggers;

    @Inject
    CurrentPerson current;

    /**
     * A key as it is wanted.
     *
     * @param endsAt from when on it does not count, null for never
     * @param aMinute how many requests a minute it is good for, 1 to 60,000; null for any number
     */
    @Schema(
            name = "NewCallerKey",
            requiredProperties = {"name"})
    public record Wanted(String name, Instant endsAt, Integer aMinute) {}

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
        Long made = mapper.add(id, name, Tokens.hash(key), given.endsAt(), aMinute(given), current.name());
        if (made == null) {
            throw new Problem(409, "name-taken", "There is already a key for “" + name + "”.");
        }
        return new Made(made, name, key);
    }

    private static Integer aMinute(Wanted given) {
        if (given.aMinute() != null && (given.aMinute() < 1 || given.aMinute() > MOST_A_MINUTE)) {
            throw new Problem(400, "out-of-range", "There are 1 to " + MOST_A_MINUTE + " requests a minute.");
        }
        return given.aMinute();
    }

    /** Changes until when a key counts, and how many requests it is good for; known within a second. */
    @PUT
    @Needs(Right.BUILD)
    @Path("triggers/{id}/keys/{key}")
    public void change(@PathParam("id") long id, @PathParam("key") long key, Wanted given) {
        current.mustRunIn(trigger(id).environment());
        if (mapper.change(id, key, given.endsAt(), aMinute(given)) == 0) {
            throw Problem.missing("key");
        }
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
