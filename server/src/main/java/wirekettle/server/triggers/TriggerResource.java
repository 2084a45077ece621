package wirekettle.server.triggers;

import jakarta.inject.Inject;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.HeaderParam;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import java.nio.file.FileSystems;
import java.time.Instant;
import java.util.List;
import java.util.regex.PatternSyntaxException;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.schedule.Schedule;
import wirekettle.server.environments.Environments;
import wirekettle.server.flows.FlowMapper;
import wirekettle.server.ledger.RunMapper;
import wirekettle.server.publish.Publication;
import wirekettle.server.publish.Publications;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Edits;
import wirekettle.server.web.Json;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** Triggers: what starts published flows by itself. */
@Path("/api")
public class TriggerResource {
    private static final List<String> KINDS = List.of("clock", "file", "flow", "http", "queue");
    private static final int SHOWN = 5;
    private static final int MOST_REST = 3_600;

    @Inject
    TriggerMapper mapper;

    @Inject
    Triggers triggers;

    @Inject
    Clock clock;

    @Inject
    Following following;

    @Inject
    FolderWatch folders;

    @Inject
    CallerChecks callers;

    @Inject
    QueueChecks queues;

    @Inject
    FlowMapper flows;

    @Inject
    RunMapper runs;

    @Inject
    Publications publications;

    @Inject
    Environments environments;

    @Inject
    CurrentPerson current;

    /**
     * A trigger.
     *
     * @param kind clock, file, flow, http or queue
     * @param words what it waits for, in words
     * @param next when it is due next; only clocks are
     * @param waiting whether it was due and waits for a run to end
     * @param inForce the revision it starts, null where nothing is in force
     * @param last what it did last, or null
     */
    @Schema(
            name = "Trigger",
            requiredProperties = {
                "id",
                "flowId",
                "flowName",
                "environment",
                "kind",
                "spec",
                "active",
                "version",
                "words",
                "next",
                "waiting",
                "changedAt",
                "changedBy"
            })
    public record View(
            Long id,
            Long flowId,
            String flowName,
            String environment,
            String kind,
            TriggerSpec spec,
            boolean active,
            int version,
            String words,
            List<Instant> next,
            boolean waiting,
            Integer inForce,
            TriggerMapper.Event last,
            Instant changedAt,
            String changedBy) {}

    /** A trigger as it is wanted. */
    @Schema(name = "NewTrigger")
    public record Wanted(String environment, String kind, TriggerSpec spec, Boolean active) {}

    /** When a clock is due: in words, and the next times. */
    @Schema(
            name = "Times",
            requiredProperties = {"words", "next"})
    public record Times(String words, List<Instant> next) {}

    private View view(TriggerMapper.Row row) {
        TriggerSpec spec = Triggers.spec(row);
        Publication inForce = publications.inForce(row.flowId(), row.environment());
        List<TriggerMapper.Event> last = mapper.events(row.id(), 1, 0);
        return new View(
                row.id(),
                row.flowId(),
                row.flowName(),
                row.environment(),
                row.kind(),
                spec,
                row.active(),
                row.version(),
                words(row.kind(), spec),
                row.active() && row.kind().equals("clock") ? times(spec).next() : List.of(),
                row.waiting(),
                inForce == null ? null : inForce.revision(),
                last.isEmpty() ? null : last.get(0),
                row.changedAt(),
                row.changedBy());
    }

    private String words(String kind, TriggerSpec spec) {
        return switch (kind) {
            case "clock" -> times(spec).words();
            case "file" -> "when a file"
                    + (spec.pattern() == null || spec.pattern().isBlank() ? "" : " like " + spec.pattern())
                    + " comes to " + spec.folder();
            case "http" -> "when a caller asks at /serve/" + spec.path();
            case "queue" -> "when a message comes to " + spec.queue().name() + " at "
                    + spec.queue().endpoint();
            default -> {
                FlowMapper.Row flow = spec.after() == null ? null : flows.byId(spec.after());
                yield "after " + (flow == null ? "a flow that is gone" : flow.name());
            }
        };
    }

    private Times times(TriggerSpec spec) {
        try {
            Schedule schedule = triggers.schedule(spec);
            String days = spec.days() == null || spec.days().isBlank()
                    ? ""
                    : Boolean.TRUE.equals(spec.postponed())
                            ? ", otherwise at the next opening of " + spec.days()
                            : ", on " + spec.days();
            return new Times(schedule.words() + days, schedule.next(Instant.now(), SHOWN));
        } catch (Problem e) {
            return new Times(e.getMessage(), List.of());
        }
    }

    /** Returns triggers by flow, or by when they are due next. */
    @GET
    @Path("triggers")
    public Page<View> list(
            @QueryParam("flow") long flow,
            @QueryParam("q") String q,
            @QueryParam("sort") String sort,
            @QueryParam("page") Integer page,
            @QueryParam("size") Integer size) {
        String order =
                "next".equals(sort) ? "t.due_at nulls last, lower(f.name)" : "lower(f.name), t.environment, t.id";
        return new Page<>(
                mapper.page(flow, Page.like(q), order, Page.size(size), Page.offset(page, size)).stream()
                        .map(this::view)
                        .toList(),
                mapper.count(flow, Page.like(q)));
    }

    /** Returns when a clock would be due. */
    @POST
    @Needs(Right.LOOK)
    @Path("triggers/times")
    public Times would(TriggerSpec spec) {
        triggers.schedule(spec);
        return times(spec);
    }

    private TriggerMapper.Row row(long id) {
        TriggerMapper.Row row = mapper.byId(id);
        if (row == null) {
            throw Problem.missing("trigger");
        }
        return row;
    }

    private TriggerSpec checked(long id, long flow, String environment, String kind, TriggerSpec given) {
        TriggerSpec spec =
                given == null ? Json.read("{}", new com.fasterxml.jackson.core.type.TypeReference<>() {}) : given;
        switch (kind) {
            case "clock" -> {
                Schedule schedule = triggers.schedule(spec);
                if (schedule.next(Instant.now()) == null) {
                    throw new Problem(
                            400,
                            "never-due",
                            "It would never be due: the days it names do not come, or its times lie outside the opening hours of its working days.");
                }
            }
            case "file" -> file(spec);
            case "http" -> callers.check(id, flows.byId(flow).name(), spec);
            case "queue" -> queues.check(id, environment, spec);
            default -> {
                if (spec.after() == null || flows.byId(spec.after()) == null) {
                    throw new Problem(400, "no-flow", "Say after which flow it starts.");
                }
                following.mustEnd(id, flow, environment, spec.after());
            }
        }
        return spec;
    }

    private void file(TriggerSpec spec) {
        try {
            folders.folder(spec);
            if (spec.pattern() != null) {
                FileSystems.getDefault().getPathMatcher("glob:" + spec.pattern());
            }
        } catch (java.io.IOException e) {
            throw new Problem(400, "no-folder", Triggers.sentence(e.getMessage()));
        } catch (PatternSyntaxException e) {
            throw new Problem(
                    400, "bad-pattern", "“" + spec.pattern() + "” is no pattern of names: write it as in loans-*.csv.");
        }
        if (spec.restSeconds() != null && (spec.restSeconds() < 1 || spec.restSeconds() > MOST_REST)) {
            throw new Problem(400, "bad-rest", "A file rests for 1 to " + MOST_REST + " seconds.");
        }
    }

    /** Adds a trigger to a flow. */
    @POST
    @Needs(Right.BUILD)
    @Path("flows/{flow}/triggers")
    public View add(@PathParam("flow") long flow, Wanted given) {
        if (flows.byId(flow) == null) {
            throw Problem.missing("flow");
        }
        String environment = environments.named(given.environment()).name();
        current.mustRunIn(environment);
        if (!KINDS.contains(String.valueOf(given.kind()))) {
            throw new Problem(400, "bad-kind", "A trigger is one of " + String.join(", ", KINDS) + ".");
        }
        TriggerSpec spec = checked(0, flow, environment, given.kind(), given.spec());
        boolean active = !Boolean.FALSE.equals(given.active());
        long id = mapper.add(flow, environment, given.kind(), Json.write(spec), active, current.name());
        clock.set(row(id), Instant.now());
        return view(row(id));
    }

    /** Changes a trigger; If-Match carries the version that is changed. Who saves it lends it the right to run. */
    @PUT
    @Needs(Right.BUILD)
    @Path("triggers/{id}")
    public View change(@PathParam("id") long id, @HeaderParam("If-Match") String ifMatch, Wanted given) {
        TriggerMapper.Row known = row(id);
        int based = Edits.based("version", ifMatch);
        current.mustRunIn(known.environment());
        TriggerSpec spec = given.spec() == null ? Triggers.spec(known) : given.spec();
        boolean active = given.active() == null ? known.active() : given.active();
        spec = checked(id, known.flowId(), known.environment(), known.kind(), spec);
        if (mapper.change(id, based, Json.write(spec), active, current.name()) == 0) {
            throw Edits.meanwhile("version", known.changedBy(), known.version(), based)
                    .with("theirs", view(known));
        }
        clock.set(row(id), Instant.now());
        return view(row(id));
    }

    /** Removes a trigger; what it started stays. */
    @DELETE
    @Needs(Right.BUILD)
    @Path("triggers/{id}")
    public void remove(@PathParam("id") long id) {
        TriggerMapper.Row row = row(id);
        current.mustRunIn(row.environment());
        clock.remove(id);
        mapper.remove(id);
    }

    /** Starts what a trigger starts, now. */
    @POST
    @Needs(Right.RUN)
    @Path("triggers/{id}/run")
    public RunMapper.Row run(@PathParam("id") long id) {
        TriggerMapper.Row row = row(id);
        current.mustRunIn(row.environment());
        if (row.kind().equals("http")) {
            throw new Problem(
                    409,
                    "answers-callers",
                    "It runs when callers ask at /serve/" + Triggers.spec(row).path() + ": ask there.");
        }
        if (row.kind().equals("queue")) {
            throw new Problem(
                    409,
                    "takes-messages",
                    "It runs when messages come to "
                            + Triggers.spec(row).queue().name() + ": send one.");
        }
        Long run = triggers.start(row, null, true);
        if (run == null) {
            throw new Problem(
                    409,
                    "not-started",
                    Triggers.sentence(mapper.events(id, 1, 0).get(0).message()));
        }
        return runs.byId(run);
    }

    /** Returns what a trigger did, the newest first. */
    @GET
    @Path("triggers/{id}/events")
    public Page<TriggerMapper.Event> events(
            @PathParam("id") long id, @QueryParam("page") Integer page, @QueryParam("size") Integer size) {
        row(id);
        return new Page<>(mapper.events(id, Page.size(size), Page.offset(page, size)), mapper.eventCount(id));
    }
}
