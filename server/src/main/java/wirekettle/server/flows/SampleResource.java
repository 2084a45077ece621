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
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.connect.HostRule;
import wirekettle.core.assist.Everything;
import wirekettle.core.assist.MessageSuggestions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.PreparedFlow;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.run.RecordWork;
import wirekettle.core.request.ByteOut;
import wirekettle.core.schema.SheetField;
import wirekettle.core.soap.CallRoom;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.soap.Transport;
import wirekettle.core.soap.attachments.Attachments;
import wirekettle.core.value.Node;
import wirekettle.server.bench.BenchMapper;
import wirekettle.server.settings.Endpoints;
import wirekettle.server.settings.Hosts;
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

    /** A draft, the stage worked on, and the sample record. */
    @Schema(requiredProperties = {"file", "stage", "record", "environment"})
    public record Asked(
            FlowFile file, String stage, long record, String environment, Boolean confirmed, String samples) {}

    /** A draft, and the path of the element that becomes a row; null chooses it. */
    @Schema(requiredProperties = {"file"})
    public record EverythingAsked(FlowFile file, String rows) {}

    /** Everything in the three ways it can be written. */
    @Schema(
            name = "EverythingMade",
            requiredProperties = {"rows", "tables", "nested"})
    public record EverythingMade(Everything.Made rows, List<Everything.Table> tables, Everything.Nested nested) {}

    /** Returns every row's value for the sample, coverage, the message, and what is in reach. */
    @POST
    @Needs(Right.LOOK)
    @Path("flows/{id}/preview")
    public Preview preview(@PathParam("id") long id, Asked asked, @Context HttpServerRequest request) throws Exception {
        return WhileAsked.work(
                request,
                () -> previewer.preview(
                        id, asked.file(), asked.stage(), asked.record(), asked.environment(), asked.samples()));
    }

    /** A call of the bench, and the sample record it is the reply of, from 1. */
    @Schema(requiredProperties = {"call", "record"})
    public record KeptCall(long call, long record) {}

    /** Proposes fills for what has none: of the request, or of the record a Write stage makes. */
    @POST
    @Needs(Right.LOOK)
    @Path("flows/{id}/suggestions")
    public List<MessageSuggestions.Proposed> suggest(@PathParam("id") long id, Asked asked) throws IOException {
        PreparedFlow flow = context.prepare(asked.file());
        if (flow.read() == null || flow.offered() == null) {
            return List.of();
        }
        return flow.write(asked.stage()) == null
                ? suggestions.ofRequest(id, flow)
                : suggestions.ofRecord(id, flow, asked);
    }

    /** Builds the whole target record from the reply. */
    @POST
    @Needs(Right.LOOK)
    @Path("flows/{id}/everything")
    public EverythingMade everything(@PathParam("id") long id, EverythingAsked asked) {
        PreparedFlow flow = context.prepare(asked.file());
        SheetField reply = flow.replySheet();
        if (reply == null) {
            throw new Problem(
                    422, "no-reply", "The operation has no reply to make a record of; pick an operation first.");
        }
        String as = flow.call().as();
        return new EverythingMade(
                Everything.of(reply, as, asked.rows(), keptBody(id, flow)),
                Everything.tables(reply, as),
                Everything.nested(reply, as));
    }

    /** Returns the body of the last reply that was kept of a flow's call, null when there is none. */
    private Node keptBody(long id, PreparedFlow flow) {
        return kept.everywhere(id, flow.call().id()).stream()
                .filter(row -> row.failure() == null)
                .map(row -> Previewer.body(row, flow))
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
        Stage.Call stage = file.first(Stage.Call.class).orElse(null);
        if (stage == null || !call.operation().equals(stage.operation())) {
            throw new Problem(422, "other-operation", "This flow does not call " + call.operation() + ".");
        }
        kept.keep(
                id,
                stage.id(),
                Math.max(1, given.record()),
                String.valueOf(stage.endpoint()),
                call.environment(),
                Previewer.hash(call.request().getBytes(StandardCharsets.UTF_8)),
                call.sent() == null ? call.request() : call.sent(),
                call.status(),
                call.reply(),
                call.failure(),
                call.millis());
    }

    private Caller.Result called(Caller caller, byte[] request, PreparedFlow flow) {
        try (Attachments attachments = flow.keepsFiles() ? new Attachments() : null;
                MemoryBudget.Share share = memory.share()) {
            return caller.call(request, new CallRoom(attachments, share));
        }
    }

    /** Calls the service for one sample record and keeps the reply; what changes data must be confirmed. */
    @POST
    @Needs(Right.RUN)
    @Path("flows/{id}/sample-call")
    public Preview call(@PathParam("id") long id, Asked asked) throws IOException {
        current.mustRunIn(asked.environment());
        PreparedFlow flow = context.prepare(asked.file());
        FlowContext.Numbered record = context.record(flow.read(), asked.record());
        if (flow.request() == null || record == null) {
            throw new Problem(422, "not-ready", "Pick a dataset with records and an operation first.");
        }
        Stage.Call call = flow.call();
        Endpoints.Route route = context.route(flow, asked.environment());
        String address = route.reach().address();
        HostRule rule = hosts;
        rule.check(java.net.URI.create(address));
        RecordWork work =
                new RecordWork(flow, null, route.reach(), "sample", flow.read().dataset(), context.clock());
        ByteOut out = new ByteOut();
        Scope scope;
        try {
            scope = RecordWork.mapped(work.scope(record.number(), record.node()), flow.before());
        } catch (RecordWork.MapFailed e) {
            throw new Problem(422, "not-valid", "$" + e.stage().as() + " could not be made: " + e.getMessage());
        }
        List<MappingProblem> problems = flow.request().write(scope, out);
        if (!problems.isEmpty()) {
            throw new Problem(
                    422,
                    "not-valid",
                    "The message for this record is not ready: "
                            + problems.get(0).sentence());
        }
        if (!call.delivery().reads() && !Boolean.TRUE.equals(asked.confirmed())) {
            throw new Problem(
                            409,
                            "confirm-call",
                            call.operation() + " changes data. Really call “" + call.endpoint() + "” in "
                                    + asked.environment() + " for this record?")
                    .with("endpoint", call.endpoint())
                    .with("environment", asked.environment());
        }
        byte[] request = out.bytes();
        Caller caller = Caller.of(
                route.transport(),
                route.reach(),
                flow.contract(),
                flow.offered(),
                call.delivery().limits());
        long start = System.nanoTime();
        Caller.Result result = called(caller, request, flow);
        Transport.Answer answer = result.answer();
        kept.keep(
                id,
                call.id(),
                record.number(),
                String.valueOf(call.endpoint()),
                asked.environment(),
                previewer.hash(flow, scope),
                new String(
                        result.sent() == null ? route.reach().masking().mask(request) : result.sent(),
                        StandardCharsets.UTF_8),
                answer == null ? 0 : answer.status(),
                result.received() == null ? null : new String(result.received(), StandardCharsets.UTF_8),
                result.failure() == null ? null : result.failure().getMessage(),
                (System.nanoTime() - start) / 1_000_000);
        return previewer.preview(id, asked.file(), asked.stage(), asked.record(), asked.environment(), asked.samples());
    }
}
