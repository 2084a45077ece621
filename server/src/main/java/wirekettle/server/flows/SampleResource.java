package wirekettle.server.flows;

import io.vertx.core.http.HttpServerRequest;
import jakarta.inject.Inject;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.core.Context;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.connect.HostRule;
import wirekettle.core.assist.Everything;
import wirekettle.core.assist.MessageSuggestions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.Compiled;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.CompiledMap;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.run.SampleWalk;
import wirekettle.core.request.ByteOut;
import wirekettle.core.schema.SheetField;
import wirekettle.core.soap.CallRoom;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.soap.Transport;
import wirekettle.core.soap.attachments.Attachments;
import wirekettle.core.value.Node;
import wirekettle.server.bench.BenchMapper;
import wirekettle.server.hosts.Hosts;
import wirekettle.server.settings.Endpoints;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Problem;
import wirekettle.server.web.WhileAsked;

/** What the flow page asks while a flow is worked on: previews, suggestions, a real call for one sample. */
@Path("/api")
public class SampleResource {
    @Inject
    FlowContext context;

    @Inject
    FlowRecords flowRecords;

    @Inject
    Previewer previewer;

    @Inject
    KeptReplyMapper kept;

    @Inject
    Hosts hosts;

    @Inject
    BenchMapper benchCalls;

    @Inject
    CurrentPerson current;

    @Inject
    MemoryBudget memory;

    @Inject
    FlowMapper flows;

    @Inject
    Suggestions suggestions;

    @Inject
    Samples samples;

    /**
     * A draft, the stage worked on, and the sample record.
     *
     * @param confirmed whether a call that changes data is really meant
     * @param samples what coverage is computed over: first or random
     * @param suppose calls that are supposed to fail, and how: fault, timeout or connection
     * @param upTo whether the calls before the stage that have no kept reply are made too
     * @param items which items of the sample are shown, from 1, by the ids of their Splits; the first when left out
     */
    @Schema(requiredProperties = {"file", "stage", "record", "environment"})
    public record SampleRequest(
            FlowFile file,
            String stage,
            long record,
            String environment,
            Boolean confirmed,
            String samples,
            Map<String, FailureClass> suppose,
            Boolean upTo,
            Map<String, Integer> items) {
        /** Asks of the first items of the sample. */
        SampleRequest(
                FlowFile file,
                String stage,
                long record,
                String environment,
                Boolean confirmed,
                String samples,
                Map<String, FailureClass> suppose,
                Boolean upTo) {
            this(file, stage, record, environment, confirmed, samples, suppose, upTo, null);
        }
    }

    /**
     * A draft, and the path of the element that becomes a row; null chooses it.
     *
     * @param stage the stage that is to make it: its nearest call before it gives the reply; null for the first call
     */
    @Schema(requiredProperties = {"file"})
    public record EverythingAsked(FlowFile file, String rows, String stage) {}

    /** Everything in the three ways it can be written. */
    @Schema(
            name = "EverythingMade",
            requiredProperties = {"rows", "tables", "nested"})
    public record EverythingMade(Everything.Made rows, List<Everything.Table> tables, Everything.Nested nested) {}

    /** Returns every row's value for the sample, coverage, the message, and what is in reach. */
    @POST
    @Needs(Right.LOOK)
    @Path("flows/{id}/preview")
    public Preview preview(@PathParam("id") long id, SampleRequest asked, @Context HttpServerRequest request)
            throws Exception {
        return WhileAsked.work(request, () -> previewer.preview(id, asked));
    }

    /** A call of the bench, and the sample record it is the reply of, from 1. */
    @Schema(requiredProperties = {"call", "record"})
    public record KeptCall(long call, long record) {}

    /** Proposes fills for what has none: of the request, or of the record a Write stage makes. */
    @POST
    @Needs(Right.LOOK)
    @Path("flows/{id}/suggestions")
    public List<MessageSuggestions.Proposed> suggest(@PathParam("id") long id, SampleRequest asked) throws IOException {
        CompiledFlow flow = context.compile(asked.file());
        Compiled stage = flow.stage(asked.stage());
        if (flow.source() == null) {
            return List.of();
        }
        if (stage instanceof CompiledCall call) {
            return call.offered() == null ? List.of() : suggestions.ofRequest(id, flow, call, asked.environment());
        }
        MadeRecord maker = MadeRecord.of(flow, asked.stage());
        return maker == null ? List.of() : suggestions.ofRecord(id, flow, maker.made(), asked);
    }

    /** Builds the whole target record from the reply. */
    @POST
    @Needs(Right.LOOK)
    @Path("flows/{id}/everything")
    public EverythingMade everything(@PathParam("id") long id, EverythingAsked asked) {
        CompiledFlow flow = context.compile(asked.file());
        CompiledCall call = FlowContext.call(flow, asked.stage());
        SheetField reply = call == null ? null : call.reply();
        if (reply == null) {
            throw new Problem(
                    422, "no-reply", "The operation has no reply to make a record of; pick an operation first.");
        }
        String as = call.stage().as();
        return new EverythingMade(
                Everything.of(reply, as, asked.rows(), keptBody(id, call)),
                Everything.tables(reply, as),
                Everything.nested(reply, as));
    }

    /** Returns the body of the last reply that was kept of a call, null when there is none. */
    private Node keptBody(long id, CompiledCall call) {
        return kept.everywhere(id, call.id()).stream()
                .filter(row -> row.failure() == null)
                .map(row -> Previewer.body(row, call))
                .filter(java.util.Objects::nonNull)
                .findFirst()
                .orElse(null);
    }

    /** Keeps the reply of a call of the bench as the sample reply of a record; it counts as of another request. */
    @POST
    @Needs(Right.BUILD)
    @Path("flows/{id}/kept-replies")
    public void keep(@PathParam("id") long id, KeptCall given) {
        BenchMapper.Row call = benchCalls.byId(given.call());
        FlowMapper.Row flow = flows.byId(id);
        if (call == null || flow == null) {
            throw Problem.missing(call == null ? "call" : "flow");
        }
        FlowFile file = FlowFile.parse(flows.file(id, flow.revision()));
        CallStage stage = file.all(CallStage.class).stream()
                .filter(each -> call.operation().equals(each.operation()))
                .findFirst()
                .orElse(null);
        if (stage == null) {
            throw new Problem(422, "other-operation", "This flow does not call " + call.operation() + ".");
        }
        kept.keep(
                id,
                stage.id(),
                Math.max(1, given.record()),
                "",
                String.valueOf(stage.endpoint()),
                call.environment(),
                Previewer.hash(call.request().getBytes(StandardCharsets.UTF_8)),
                call.sent() == null ? call.request() : call.sent(),
                call.status(),
                call.reply(),
                call.failure(),
                call.millis());
    }

    private Caller.Result called(Caller caller, byte[] request, CompiledFlow flow) {
        try (Attachments attachments = flow.keepsFiles() ? new Attachments() : null;
                MemoryBudget.Share share = memory.share()) {
            return caller.call(request, new CallRoom(attachments, share));
        }
    }

    /** Calls the service for one sample record and keeps the reply; what changes data must be confirmed. */
    @POST
    @Needs(Right.RUN)
    @Path("flows/{id}/sample-call")
    public Preview call(@PathParam("id") long id, SampleRequest asked) throws IOException {
        current.mustRunIn(asked.environment());
        CompiledFlow flow = context.compile(asked.file());
        FlowRecords.Numbered record = flow.source() == null
                ? null
                : flowRecords.record(flowRecords.of(flow, id, asked.environment()), asked.record());
        CompiledCall wanted = FlowContext.call(flow, asked.stage());
        if (wanted == null || wanted.request() == null || record == null) {
            throw new Problem(422, "not-ready", "Pick a dataset with records and an operation first.");
        }
        SampleWalk walk = walk(id, flow, record, asked);
        while (walk.at(wanted.id()) == null && Boolean.TRUE.equals(asked.upTo())) {
            CompiledCall missing = missing(flow, walk);
            if (missing == null || missing.id().equals(wanted.id())) {
                break;
            }
            call(id, flow, missing, walk.last(), walk.lastPath(), record, asked);
            walk = walk(id, flow, record, asked);
        }
        if (walk.at(wanted.id()) == null) {
            throw notReached(flow, wanted, walk);
        }
        if (!waitsAt(wanted, flow, walk)) {
            call(id, flow, wanted, walk.at(wanted.id()), walk.path(wanted.id()), record, asked);
        }
        // each item of the record that waits for a reply of its own
        String called = null;
        while (waitsAt(wanted, flow, walk) && !walk.lastPath().equals(called)) {
            called = walk.lastPath();
            call(id, flow, wanted, walk.last(), called, record, asked);
            walk = walk(id, flow, record, asked);
        }
        return previewer.preview(id, asked);
    }

    /** Tells whether the sample, or an item of it, comes no further than a call because nothing is kept of that. */
    private static boolean waitsAt(CompiledCall call, CompiledFlow flow, SampleWalk walk) {
        CompiledCall missing = missing(flow, walk);
        return missing != null && missing.id().equals(call.id());
    }

    private SampleWalk walk(long id, CompiledFlow flow, FlowRecords.Numbered record, SampleRequest asked) {
        return samples.walk(
                flow, new KeptReplies(kept, id, flow, asked.environment(), asked.suppose()), record, asked.items());
    }

    /** Returns the call at which the sample ends because nothing is kept of it, or null. */
    private static CompiledCall missing(CompiledFlow flow, SampleWalk walk) {
        return walk.end() == null && flow.stage(walk.endedAt()) instanceof CompiledCall call ? call : null;
    }

    private static Problem notReached(CompiledFlow flow, CompiledCall wanted, SampleWalk walk) {
        if (walk.failure() != null) {
            return new Problem(
                    422,
                    "not-valid",
                    (flow.stage(walk.failure().stage()) instanceof CompiledMap map
                                    ? "$" + map.stage().as() + " could not be made: "
                                    : "This record does not come so far: ")
                            + walk.failure().message());
        }
        CompiledCall missing = missing(flow, walk);
        String why = missing == null
                ? "it takes another way, or a filter leaves it out."
                : "nothing is kept of " + missing.stage().operation() + " for it yet: call that first.";
        return new Problem(
                422,
                "not-reached",
                "This record does not come to " + wanted.stage().operation() + ": " + why);
    }

    private void call(
            long id,
            CompiledFlow flow,
            CompiledCall call,
            Scope scope,
            String path,
            FlowRecords.Numbered record,
            SampleRequest asked)
            throws IOException {
        Endpoints.Route route = context.route(call, asked.environment());
        HostRule rule = hosts;
        rule.check(java.net.URI.create(route.reach().address()));
        ByteOut out = new ByteOut();
        List<MappingProblem> problems =
                call.request().write(scope.knowing(route.reach().secrets().ofFills()), out);
        if (!problems.isEmpty()) {
            throw new Problem(
                    422,
                    "not-valid",
                    "The message for this record is not ready: "
                            + problems.get(0).sentence());
        }
        if (!call.stage().delivery().reads() && !Boolean.TRUE.equals(asked.confirmed())) {
            throw new Problem(
                            409,
                            "confirm-call",
                            call.stage().operation() + " changes data. Really call “"
                                    + call.stage().endpoint() + "” in " + asked.environment() + " for this record?")
                    .with("endpoint", call.stage().endpoint())
                    .with("environment", asked.environment());
        }
        byte[] request = out.bytes();
        Caller caller = Caller.of(
                route.transport(),
                route.reach(),
                call.contract(),
                call.offered(),
                call.stage().delivery().limits());
        long start = System.nanoTime();
        Caller.Result result = called(caller, request, flow);
        Transport.Answer answer = result.answer();
        kept.keep(
                id,
                call.id(),
                KeptReplies.under(flow, record.number(), path),
                path,
                String.valueOf(call.stage().endpoint()),
                asked.environment(),
                previewer.hash(call, scope),
                new String(
                        result.sent() == null ? route.reach().masking().mask(request) : result.sent(),
                        StandardCharsets.UTF_8),
                answer == null ? 0 : answer.status(),
                result.received() == null ? null : new String(result.received(), StandardCharsets.UTF_8),
                result.failure() == null ? null : result.failure().getMessage(),
                (System.nanoTime() - start) / 1_000_000);
    }
}
