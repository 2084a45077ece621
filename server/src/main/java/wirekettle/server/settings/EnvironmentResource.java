package wirekettle.server.settings;

import jakarta.inject.Inject;
import jakarta.transaction.Transactional;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.HeaderParam;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.server.datasets.DatasetMapper;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.environments.Environment;
import wirekettle.server.environments.EnvironmentMapper;
import wirekettle.server.environments.Environments;
import wirekettle.server.secrets.SecretMapper;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Edits;
import wirekettle.server.web.Json;
import wirekettle.server.web.Problem;

/** Environments with their named values. */
@Path("/api/environments")
public class EnvironmentResource {
    /** The colours an environment can be shown in. */
    static final List<String> COLOURS = List.of("slate", "moss", "ink", "plum", "ochre", "teal");

    private static final int MOST = 20;
    private static final int MOST_VALUES = 200;
    private static final int MOST_LENGTH = 4_000;

    @Inject
    EnvironmentMapper mapper;

    @Inject
    Environments environments;

    @Inject
    CurrentPerson current;

    @Inject
    DatasetMapper datasets;

    @Inject
    SecretMapper secrets;

    /** An environment as it is wanted; what is left out is taken from the one there is. */
    @Schema(name = "NewEnvironment")
    public record Wanted(
            String name,
            String colour,
            Integer position,
            Boolean live,
            Map<String, String> values,
            Map<String, String> datasets,
            Map<String, String> secrets) {}

    /** Returns all environments in their order. */
    @GET
    public List<Environment> all() {
        return environments.all();
    }

    /** Adds an environment. */
    @POST
    @Needs(Right.MANAGE)
    @Transactional
    public Environment add(Wanted given) {
        String name = given.name() == null ? "" : given.name().strip();
        if (!name.matches("[\\p{L}\\p{N}][\\p{L}\\p{N} ._-]{0,29}")) {
            throw new Problem(
                    400,
                    "bad-name",
                    "The name of an environment has up to 30 letters, digits, spaces, dots, dashes or underscores.");
        }
        List<Environment> all = environments.all();
        if (all.size() >= MOST) {
            throw new Problem(409, "too-many", "There are " + MOST + " environments: remove one first.");
        }
        if (all.stream().anyMatch(each -> each.name().equalsIgnoreCase(name))) {
            throw new Problem(409, "name-taken", "There is already an environment called “" + name + "”.");
        }
        mapper.add(
                name,
                colour(given.colour() == null ? "slate" : given.colour()),
                given.position() == null ? all.size() + 1 : given.position(),
                Boolean.TRUE.equals(given.live()),
                Json.write(values(given.values() == null ? Map.of() : given.values())),
                Json.write(standIns(given.datasets() == null ? Map.of() : given.datasets())),
                Json.write(secrets(given.secrets() == null ? Map.of() : given.secrets())),
                current.name());
        return environments.named(name);
    }

    private static String colour(String wanted) {
        if (!COLOURS.contains(wanted)) {
            throw new Problem(400, "bad-colour", "A colour is one of " + String.join(", ", COLOURS) + ".");
        }
        return wanted;
    }

    private static Map<String, String> values(Map<String, String> given) {
        if (given.size() > MOST_VALUES) {
            throw new Problem(400, "too-many-values", "An environment has at most " + MOST_VALUES + " named values.");
        }
        Map<String, String> values = new TreeMap<>();
        given.forEach((name, value) -> {
            if (!name.matches("[A-Za-z_][A-Za-z0-9_.-]{0,59}")) {
                throw new Problem(
                                400,
                                "bad-value-name",
                                "“" + name + "” cannot be the name of a value: it begins with a letter and has letters,"
                                        + " digits, dots, dashes and underscores, as in company_no.")
                        .with("value", name);
            }
            if (value == null || value.length() > MOST_LENGTH) {
                throw new Problem(
                                400,
                                "bad-value",
                                "The value of “" + name + "” has 0 to " + MOST_LENGTH + " characters.")
                        .with("value", name);
            }
            values.put(name, value);
        });
        return values;
    }

    /** Checks which datasets stand for which. */
    private Map<String, String> standIns(Map<String, String> given) {
        Map<String, String> all = new TreeMap<>();
        given.forEach((name, standIn) -> {
            DatasetMapper.Row by = standIn == null ? null : datasets.byName(standIn);
            if (by == null) {
                throw new Problem(
                                400,
                                "no-dataset",
                                "There is no dataset “" + standIn + "” that could stand for “" + name + "”.")
                        .with("dataset", standIn);
            }
            DatasetMapper.Row of = datasets.byName(name);
            boolean same = of == null
                    || DatasetStore.folder(DatasetStore.spec(of)) == DatasetStore.folder(DatasetStore.spec(by))
                            && DatasetStore.documents(DatasetStore.spec(of))
                                    == DatasetStore.documents(DatasetStore.spec(by));
            if (!same) {
                throw new Problem(
                                400,
                                "other-kind",
                                "“" + standIn + "” is of another kind than “" + name
                                        + "”: rows stand for rows, documents for documents, a folder for a folder.")
                        .with("dataset", standIn);
            }
            if (!standIn.equals(name)) {
                all.put(name, standIn);
            }
        });
        return all;
    }

    /** Checks which secrets stand for which. */
    private Map<String, String> secrets(Map<String, String> given) {
        Map<String, String> all = new TreeMap<>();
        given.forEach((name, standIn) -> {
            SecretMapper.Row by = standIn == null ? null : secrets.byName(standIn);
            if (by == null) {
                throw new Problem(
                                400,
                                "no-secret",
                                "There is no secret “" + standIn + "” that could stand for “" + name + "”.")
                        .with("secret", standIn);
            }
            SecretMapper.Row of = secrets.byName(name);
            if (of != null && !of.kind().equals(by.kind())) {
                throw new Problem(
                                400,
                                "other-kind",
                                "“" + standIn + "” is of another kind than “" + name
                                        + "”: a key stands for a key, a password or token for a password or token.")
                        .with("secret", standIn);
            }
            if (!standIn.equals(name)) {
                all.put(name, standIn);
            }
        });
        return all;
    }

    private Environment one(String name) {
        EnvironmentMapper.Row row = mapper.byName(name);
        if (row == null) {
            throw Problem.missing("environment");
        }
        return environments.named(name);
    }

    /** Changes an environment; If-Match carries the version that is changed. */
    @PUT
    @Path("{name}")
    @Needs(Right.MANAGE)
    @Transactional
    public Environment change(@PathParam("name") String name, @HeaderParam("If-Match") String ifMatch, Wanted given) {
        Environment known = one(name);
        int based = Edits.based("version", ifMatch);
        if (Environments.SIMULATOR.equals(name) && Boolean.TRUE.equals(given.live())) {
            throw new Problem(400, "simulator-live", "What simulators answer is never live.");
        }
        int changed = mapper.change(
                name,
                based,
                colour(given.colour() == null ? known.colour() : given.colour()),
                given.position() == null ? known.position() : given.position(),
                given.live() == null ? known.live() : given.live(),
                Json.write(values(given.values() == null ? known.values() : given.values())),
                Json.write(given.datasets() == null ? known.datasets() : standIns(given.datasets())),
                Json.write(given.secrets() == null ? known.secrets() : secrets(given.secrets())),
                current.name());
        if (changed == 0) {
            throw Edits.meanwhile("version", known.changedBy(), known.version(), based)
                    .with("theirs", known);
        }
        return one(name);
    }

    /** Removes an environment where nothing runs, with what endpoints have there and the rights given for it. */
    @DELETE
    @Path("{name}")
    @Needs(Right.MANAGE)
    @Transactional
    public void remove(@PathParam("name") String name) {
        one(name);
        if (Environments.SIMULATOR.equals(name)) {
            throw new Problem(409, "simulator-stays", "Simulators answer there: this environment stays.");
        }
        if (mapper.going(name) > 0) {
            throw new Problem(
                    409, "in-use", "Runs in " + name + " have not ended: cancel them, or let them come to their end.");
        }
        mapper.remove(name);
    }
}
