package wirekettle.server.publish;

import jakarta.inject.Inject;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.HeaderParam;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.function.Function;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.flow.file.FlowDifference;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.server.environments.Environments;
import wirekettle.server.flows.FlowContext;
import wirekettle.server.flows.FlowMapper;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Edits;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** Puts revisions of flows into force, with what differs and what is missing. */
@Path("/api")
public class PublishResource {
    private static final int MOST_NOTE = 2_000;

    @Inject
    Publications publications;

    @Inject
    PublicationMapper mapper;

    @Inject
    Readiness readiness;

    @Inject
    FlowMapper flows;

    @Inject
    FlowContext context;

    @Inject
    Environments environments;

    @Inject
    CurrentPerson current;

    /**
     * What is put into force.
     *
     * @param note why, for whoever looks later
     * @param anyway whether it is published although something is missing that can come later
     */
    @Schema(
            name = "PublishWanted",
            requiredProperties = {"environment", "revision"})
    public record Wanted(String environment, Integer revision, String note, Boolean anyway) {}

    /** Why something is taken back. */
    @Schema(name = "TakeBack")
    public record TakeBack(String note) {}

    /** Something a flow uses that is not as it was when the flow was published. */
    @Schema(
            name = "UseChange",
            requiredProperties = {"kind", "name"})
    public record UseChange(String kind, String name, String before, String after) {}

    /**
     * What differs between a revision and the one in force.
     *
     * @param revision the revision looked at
     * @param inForce what is in force, or null
     * @param stages differences of the flow itself
     * @param uses differences of contracts and named values
     */
    @Schema(
            name = "PublishComparison",
            requiredProperties = {"revision", "stages", "uses"})
    public record Comparison(int revision, Publication inForce, List<FlowDifference> stages, List<UseChange> uses) {}

    /** Returns all that is in force. */
    @GET
    @Path("publications")
    public List<Publication> all() {
        return publications.inForce();
    }

    /** Returns what of a flow is in force, by environment. */
    @GET
    @Path("flows/{id}/publications")
    public List<Publication> inForce(@PathParam("id") long id) {
        flow(id);
        return publications.inForce(id);
    }

    /** Returns all that was ever put into force of a flow, the newest first. */
    @GET
    @Path("flows/{id}/publications/history")
    public Page<Publication> history(
            @PathParam("id") long id, @QueryParam("page") Integer page, @QueryParam("size") Integer size) {
        flow(id);
        return new Page<>(
                mapper.history(id, Page.size(size), Page.offset(page, size)).stream()
                        .map(PublicationMapper.Row::publication)
                        .toList(),
                mapper.count(id));
    }

    private FlowMapper.Row flow(long id) {
        FlowMapper.Row row = flows.byId(id);
        if (row == null) {
            throw Problem.missing("flow");
        }
        return row;
    }

    private FlowFile file(long id, int revision) {
        String text = flows.file(id, revision);
        if (text == null) {
            throw Problem.missing("revision");
        }
        return FlowFile.parse(text);
    }

    /** Compares a revision of a flow, the newest when none is named, with what is in force in an environment. */
    @GET
    @Path("flows/{id}/publications/{environment}/comparison")
    public Comparison compare(
            @PathParam("id") long id,
            @PathParam("environment") String environment,
            @QueryParam("revision") Integer revision) {
        int wanted = revision == null ? flow(id).revision() : revision;
        environments.named(environment);
        FlowFile file = file(id, wanted);
        Publication before = publications.inForce(id, environment);
        if (before == null) {
            return new Comparison(wanted, null, List.of(), List.of());
        }
        List<UseChange> uses = new ArrayList<>();
        changes("contract", before.contracts(), context.contractRevisions(file), each -> "revision " + each, uses);
        changes("value", before.values(), publications.used(file, environment), each -> each, uses);
        return new Comparison(wanted, before, FlowDifference.between(file(id, before.revision()), file), uses);
    }

    private static <T> void changes(
            String kind, Map<String, T> before, Map<String, T> now, Function<T, String> words, List<UseChange> into) {
        Set<String> names = new LinkedHashSet<>(before.keySet());
        names.addAll(now.keySet());
        for (String name : names) {
            T was = before.get(name);
            T its = now.get(name);
            if (!Objects.equals(was, its)) {
                into.add(new UseChange(
                        kind, name, was == null ? null : words.apply(was), its == null ? null : words.apply(its)));
            }
        }
    }

    /** Compares two revisions of a flow. */
    @GET
    @Path("flows/{id}/revisions/{revision}/differences")
    public List<FlowDifference> differences(
            @PathParam("id") long id, @PathParam("revision") int revision, @QueryParam("from") int from) {
        return FlowDifference.between(file(id, from), file(id, revision));
    }

    /** Says what a revision of a flow needs in an environment; where tried, endpoints and tables are reached. */
    @GET
    @Path("flows/{id}/readiness")
    public List<Readiness.Need> ready(
            @PathParam("id") long id,
            @QueryParam("environment") String environment,
            @QueryParam("revision") Integer revision,
            @QueryParam("tried") boolean tried) {
        environments.named(environment);
        FlowFile file = file(id, revision == null ? flow(id).revision() : revision);
        return readiness.of(id, file, Map.of(), environment, tried);
    }

    /**
     * Puts a revision into force. If-Match carries the id of what was in force when the person looked, 0 for nothing.
     */
    @POST
    @Needs(Right.BUILD)
    @Path("flows/{id}/publications")
    public Publication publish(@PathParam("id") long id, @HeaderParam("If-Match") String ifMatch, Wanted given) {
        flow(id);
        String environment = environments.named(given.environment()).name();
        current.mustRunIn(environment);
        int seen = Edits.based("publication", ifMatch);
        FlowFile file = file(id, given.revision());
        List<Readiness.Need> needs = readiness.of(id, file, Map.of(), environment, false);
        boolean broken = needs.get(0).state() == Readiness.State.MISSING;
        if (broken || !Readiness.ready(needs) && !Boolean.TRUE.equals(given.anyway())) {
            Readiness.Need first = needs.stream()
                    .filter(need -> need.state() == Readiness.State.MISSING)
                    .findFirst()
                    .orElseThrow();
            throw new Problem(
                            422,
                            broken ? "not-runnable" : "not-ready",
                            environment + " is not ready for it. " + first.kind() + " " + first.name() + ": "
                                    + first.message())
                    .with("needs", needs);
        }
        return publications.publish(id, environment, given.revision(), note(given.note()), seen, current.name());
    }

    private static String note(String given) {
        String note = given == null ? "" : given.strip();
        if (note.length() > MOST_NOTE) {
            throw new Problem(400, "note-too-long", "A note has at most " + MOST_NOTE + " characters.");
        }
        return note;
    }

    /** Puts back into force what was before the last publication. */
    @POST
    @Needs(Right.BUILD)
    @Path("flows/{id}/publications/{environment}/take-back")
    public Publication takeBack(
            @PathParam("id") long id,
            @PathParam("environment") String environment,
            @HeaderParam("If-Match") String ifMatch,
            TakeBack given) {
        flow(id);
        current.mustRunIn(environment);
        String note = note(given == null ? null : given.note());
        return publications.takeBack(id, environment, note, Edits.based("publication", ifMatch), current.name());
    }

    /** Takes a flow out of force: its triggers there start nothing any more. */
    @POST
    @Needs(Right.BUILD)
    @Path("flows/{id}/publications/{environment}/end")
    public Publication end(
            @PathParam("id") long id,
            @PathParam("environment") String environment,
            @HeaderParam("If-Match") String ifMatch,
            TakeBack given) {
        flow(id);
        current.mustRunIn(environment);
        String note = note(given == null ? null : given.note());
        return publications.end(id, environment, note, Edits.based("publication", ifMatch), current.name());
    }
}
