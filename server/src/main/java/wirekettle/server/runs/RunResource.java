package wirekettle.server.runs;

import com.fasterxml.jackson.core.type.TypeReference;
import io.smallrye.mutiny.Multi;
import io.smallrye.mutiny.infrastructure.Infrastructure;
import jakarta.inject.Inject;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.Produces;
import jakarta.ws.rs.QueryParam;
import jakarta.ws.rs.core.MediaType;
import jakarta.ws.rs.core.Response;
import jakarta.ws.rs.core.StreamingOutput;
import java.io.IOException;
import java.nio.file.Files;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.concurrent.atomic.AtomicBoolean;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import org.jboss.resteasy.reactive.RestStreamElementType;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.run.End;
import wirekettle.core.soap.MessageText;
import wirekettle.server.environments.Environments;
import wirekettle.server.flows.FlowMapper;
import wirekettle.server.ledger.CorrectionMapper;
import wirekettle.server.ledger.LedgerMapper;
import wirekettle.server.ledger.PaceMapper;
import wirekettle.server.ledger.RunMapper;
import wirekettle.server.publish.Publication;
import wirekettle.server.publish.Publications;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.uses.Uses;
import wirekettle.server.web.Json;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** Runs: start, watch, cancel, the ledger, downloads. */
@Path("/api")
public class RunResource {
    private static final int MOST_REASON = 2_000;

    @Inject
    Environments environments;

    @Inject
    RunMapper runs;

    @Inject
    LedgerMapper ledger;

    @Inject
    FlowMapper flows;

    @Inject
    Runner runner;

    @Inject
    GoingRuns going;

    @Inject
    CurrentPerson current;

    @Inject
    Uses uses;

    @Inject
    Publications publications;

    @Inject
    Downloads downloads;

    @Inject
    CorrectionMapper corrections;

    @Inject
    PaceMapper pace;

    /**
     * How to run.
     *
     * @param environment the environment
     * @param limit how many records, 0 or null for all
     * @param revision the revision that is meant, where the flow may have been saved meanwhile; null for the newest
     * @param published whether the revision in force there is meant, as triggers run it
     * @param confirmed whether a second run beside one that goes on is meant
     * @param pilot whether it pauses at the limit, to go on with the rest
     */
    @Schema(requiredProperties = {"environment"})
    public record Start(
            String environment, Long limit, Integer revision, Boolean published, Boolean confirmed, Boolean pilot) {}

    /** How to cancel: whether what was written so far takes the place of what the files held before. */
    @Schema(name = "RunCancel")
    public record Cancel(Boolean takeResults) {}

    /** Counts of one stage of a run. */
    @Schema(
            name = "RunStage",
            requiredProperties = {"entered", "ended", "calls"})
    public record StageCounts(long entered, long ended, long calls) {}

    /**
     * Where a run stands.
     *
     * @param perSecond records that end a second
     * @param secondsLeft how long it will take, null when nobody knows
     * @param onHold why it does nothing at the moment, null when it does
     * @param open rejected and held-back records that were not sent again or discarded
     * @param doubtful records in doubt of which nobody has said what became of them
     * @param stages counts by stage
     */
    @Schema(
            name = "RunState",
            requiredProperties = {"run", "perSecond", "open", "doubtful", "stages"})
    public record State(
            RunMapper.Row run,
            double perSecond,
            Long secondsLeft,
            String onHold,
            long open,
            long doubtful,
            Map<String, StageCounts> stages) {}

    /**
     * One record's whole way.
     *
     * @param stages the stages it came to, in order; empty where that was not kept
     * @param items how its items ended that are not simply done, at most a thousand
     * @param batches the places it had in batches
     * @param numbers the numbers of series drawn for it
     * @param settlement what somebody said of it, or null
     * @param sentAgainIn the run that sent it again, or null
     */
    @Schema(requiredProperties = {"line", "stages", "passages", "attempts", "exchanges", "items", "batches", "numbers"})
    public record Way(
            LedgerMapper.Line line,
            List<String> stages,
            List<LedgerMapper.PassageLine> passages,
            List<LedgerMapper.AttemptLine> attempts,
            List<LedgerMapper.ExchangeLine> exchanges,
            List<ItemLine> items,
            List<BatchedLine> batches,
            List<LedgerMapper.NumberLine> numbers,
            CorrectionMapper.Settlement settlement,
            Long sentAgainIn) {}

    /**
     * The place a record had in a batch.
     *
     * @param first the record under which what the batch did is kept
     * @param path where in that record
     * @param position its position, from 1
     * @param of how many records there were
     * @param said what was said of it, null when nothing was
     * @param passages what the batch did, empty where it is this record's own
     * @param attempts the tries of its calls, empty where they are this record's own
     * @param exchanges the exchanges kept of it, empty where they are this record's own
     */
    @Schema(requiredProperties = {"stage", "first", "path", "position", "of", "passages", "attempts", "exchanges"})
    public record BatchedLine(
            String stage,
            Long first,
            String path,
            Integer position,
            Integer of,
            String said,
            List<LedgerMapper.PassageLine> passages,
            List<LedgerMapper.AttemptLine> attempts,
            List<LedgerMapper.ExchangeLine> exchanges) {}

    /** How an item of a record ended, where that is not simply done. */
    @Schema(requiredProperties = {"path", "ended"})
    public record ItemLine(String path, End ended, String stage, String message) {}

    /** Starts a run of the flow's newest revision, or of the one in force. */
    @POST
    @Needs(Right.RUN)
    @Path("flows/{flow}/runs")
    public RunMapper.Row start(@PathParam("flow") long flow, Start start) throws IOException {
        FlowMapper.Row row = flows.byId(flow);
        if (row == null) {
            throw Problem.missing("flow");
        }
        environments.named(start.environment());
        current.mustRunIn(start.environment());
        Publication inForce =
                Boolean.TRUE.equals(start.published()) ? publications.inForce(flow, start.environment()) : null;
        if (Boolean.TRUE.equals(start.published()) && inForce == null) {
            throw new Problem(
                    409,
                    "not-in-force",
                    "Nothing of this flow is in force in " + start.environment() + ": publish it.");
        }
        if (inForce == null && start.revision() != null && start.revision() != (int) row.revision()) {
            throw new Problem(
                            409,
                            "changed-meanwhile",
                            row.changedBy() + " saved revision " + row.revision()
                                    + " meanwhile; what you see is revision " + start.revision()
                                    + ": look at the newest before running it.")
                    .with("revision", row.revision());
        }
        int revision = inForce == null ? row.revision() : inForce.revision();
        FlowFile file = FlowFile.parse(flows.file(flow, revision));
        if (!Boolean.TRUE.equals(start.confirmed()) && changes(file)) {
            List<Long> going = uses.going(Uses.Kind.FLOW, row.name());
            if (!going.isEmpty()) {
                throw new Problem(
                                409,
                                "confirm-run",
                                "Run " + going.get(0)
                                        + " of this flow goes on, and its call changes data: a second run beside"
                                        + " it may change everything twice. Start it all the same?")
                        .with("runs", going);
            }
        }
        long limit = start.limit() == null ? 0 : start.limit();
        boolean pilot = Boolean.TRUE.equals(start.pilot()) && limit > 0;
        Runner.RunRequest wanted = new Runner.RunRequest(
                start.environment(),
                limit,
                pilot,
                current.name(),
                Runner.Begun.BY_HAND,
                inForce == null ? null : inForce.contracts());
        long id = runner.start(flow, revision, file, wanted);
        return runs.byId(id);
    }

    private static boolean changes(FlowFile file) {
        return file.all(CallStage.class).stream()
                .anyMatch(call -> !call.delivery().reads());
    }

    /** Returns runs, the newest first. */
    @GET
    @Path("runs")
    public Page<RunMapper.Row> list(
            @QueryParam("flow") long flow,
            @QueryParam("q") String q,
            @QueryParam("state") String state,
            @QueryParam("page") Integer page,
            @QueryParam("size") Integer size) {
        String like = Page.like(q);
        String wanted = state == null || state.isBlank() ? "%" : state;
        return new Page<>(
                runs.page(flow, like, wanted, Page.size(size), Page.offset(page, size)),
                runs.count(flow, like, wanted));
    }

    private RunMapper.Row row(long id) {
        RunMapper.Row row = runs.byId(id);
        if (row == null) {
            throw Problem.missing("run");
        }
        return row;
    }

    /** Returns where a run stands. */
    @GET
    @Path("runs/{id}")
    public State one(@PathParam("id") long id) {
        return state(row(id));
    }

    private State state(RunMapper.Row row) {
        Instant end = row.endedAt() == null ? Instant.now() : row.endedAt();
        double seconds = Math.max(0.001, Duration.between(row.startedAt(), end).toMillis() / 1000.0);
        double rate = row.ended() / seconds;
        boolean running = row.state().equals("running");
        Long left = running && rate > 0 ? (long) Math.ceil(Math.max(0, row.total() - row.ended()) / rate) : null;
        String hold = running ? going.onHold(row.id()) : null;
        return new State(
                row,
                rate,
                left,
                hold,
                running ? 0 : row.open(),
                running ? 0 : row.doubtful(),
                Json.read(row.stages(), new TypeReference<>() {}));
    }

    /** Streams where a run stands, twice a second, until it has ended. */
    @GET
    @Path("runs/{id}/events")
    @Produces(MediaType.SERVER_SENT_EVENTS)
    @RestStreamElementType(MediaType.APPLICATION_JSON)
    public Multi<State> events(@PathParam("id") long id) {
        row(id);
        AtomicBoolean ended = new AtomicBoolean();
        return Multi.createFrom()
                .ticks()
                .startingAfter(Duration.ofMillis(1))
                .every(Duration.ofMillis(500))
                .onOverflow()
                .drop()
                .emitOn(Infrastructure.getDefaultWorkerPool())
                .map(tick -> state(row(id)))
                .select()
                .first(state -> !ended.getAndSet(!state.run().state().equals("running")));
    }

    /** Asks a run to end; what is done is kept. */
    @POST
    @Needs(Right.RUN)
    @Path("runs/{id}/cancel")
    public RunMapper.Row cancel(@PathParam("id") long id, Cancel how) {
        RunMapper.Row row = row(id);
        current.mustRunIn(row.environment());
        going.cancel(id, how != null && Boolean.TRUE.equals(how.takeResults()));
        return row(id);
    }

    /** Asks a run to pause; what is on its way is waited for. */
    @POST
    @Needs(Right.RUN)
    @Path("runs/{id}/pause")
    public RunMapper.Row pause(@PathParam("id") long id) {
        current.mustRunIn(row(id).environment());
        going.pause(id);
        return row(id);
    }

    /** Ends a run of callers: what came is answered, the next caller begins another. */
    @POST
    @Needs(Right.RUN)
    @Path("runs/{id}/finish")
    public RunMapper.Row finish(@PathParam("id") long id) {
        current.mustRunIn(row(id).environment());
        going.finish(id);
        return row(id);
    }

    /** Lets a run that was paused or interrupted go on where it was. */
    @POST
    @Needs(Right.RUN)
    @Path("runs/{id}/resume")
    public RunMapper.Row resume(@PathParam("id") long id) throws IOException {
        current.mustRunIn(row(id).environment());
        runner.resume(id);
        return row(id);
    }

    /**
     * How a run went over time.
     *
     * @param steps its steps
     * @param before the steps of the run of the same flow before it, empty for none
     * @param beforeId that run
     * @param slowest the records whose calls took longest
     */
    @Schema(
            name = "RunPace",
            requiredProperties = {"steps", "before", "slowest"})
    public record RunPace(
            List<PaceMapper.Step> steps, List<PaceMapper.Step> before, Long beforeId, List<PaceMapper.Slow> slowest) {}

    /** Returns how a run went over time, beside the run before it. */
    @GET
    @Path("runs/{id}/pace")
    public RunPace pace(@PathParam("id") long id) {
        row(id);
        Long before = pace.before(id);
        return new RunPace(
                pace.steps(id),
                before == null ? List.of() : pace.steps(before),
                before,
                Json.read(pace.slowest(id), new TypeReference<>() {}));
    }

    /** Finds records of all runs by their business key; a star stands for any text. */
    @GET
    @Path("records")
    public Page<CorrectionMapper.Found> find(
            @QueryParam("key") String key, @QueryParam("page") Integer page, @QueryParam("size") Integer size) {
        if (key == null || key.isBlank()) {
            throw new Problem(400, "no-key", "Say which key, as in HC-20481 or HC-204*.");
        }
        String like = key.strip()
                .replace("\\", "\\\\")
                .replace("%", "\\%")
                .replace("_", "\\_")
                .replace('*', '%');
        return new Page<>(
                corrections.ofKey(like, Page.size(size), Page.offset(page, size)), corrections.ofKeyCount(like));
    }

    /** Returns ledger lines by end, cause, stage and text. */
    @GET
    @Path("runs/{id}/records")
    public Page<LedgerMapper.Line> records(
            @PathParam("id") long id,
            @QueryParam("ended") String ended,
            @QueryParam("cause") String cause,
            @QueryParam("stage") String stage,
            @QueryParam("q") String q,
            @QueryParam("page") Integer page,
            @QueryParam("size") Integer size) {
        String end = any(ended);
        String why = any(cause);
        String at = any(stage);
        return new Page<>(
                ledger.page(id, end, why, at, Page.like(q), Page.size(size), Page.offset(page, size)),
                ledger.count(id, end, why, at, Page.like(q)));
    }

    private static String any(String wanted) {
        return wanted == null || wanted.isBlank() ? "%" : wanted;
    }

    /** Returns causes with how many records each has. */
    @GET
    @Path("runs/{id}/causes")
    public List<LedgerMapper.Cause> causes(@PathParam("id") long id) {
        return ledger.causes(id);
    }

    /** Returns one record's whole way. */
    @GET
    @Path("runs/{id}/records/{ordinal}")
    public Way way(@PathParam("id") long id, @PathParam("ordinal") long ordinal) {
        LedgerMapper.Line line = ledger.line(id, ordinal);
        if (line == null) {
            throw Problem.missing("record");
        }
        List<LedgerMapper.ExchangeLine> exchanges =
                ledger.exchanges(id, ordinal).stream().map(RunResource::tidy).toList();
        String items = ledger.items(id, ordinal);
        return new Way(
                line,
                stages(row(id), ordinal),
                ledger.passages(id, ordinal),
                ledger.attempts(id, ordinal),
                exchanges,
                items == null ? List.of() : Json.read(items, new TypeReference<>() {}),
                batches(id, ordinal),
                numbers(id, ordinal),
                corrections.settlement(id, ordinal),
                corrections.sentAgainIn(id, ordinal));
    }

    private List<LedgerMapper.NumberLine> numbers(long run, long ordinal) {
        String kept = ledger.numbers(run, ordinal);
        return kept == null ? List.of() : Json.read(kept, new TypeReference<>() {});
    }

    private List<BatchedLine> batches(long run, long ordinal) {
        String kept = ledger.batches(run, ordinal);
        List<LedgerMapper.BatchLine> all = kept == null ? List.of() : Json.read(kept, new TypeReference<>() {});
        List<BatchedLine> lines = new ArrayList<>();
        for (LedgerMapper.BatchLine each : all) {
            boolean its = each.first() == ordinal;
            lines.add(new BatchedLine(
                    each.stage(),
                    each.first(),
                    each.path(),
                    each.position(),
                    each.of(),
                    each.said(),
                    its ? List.of() : ledger.passagesAt(run, each.first(), each.path()),
                    its ? List.of() : ledger.attemptsAt(run, each.first(), each.path()),
                    its
                            ? List.of()
                            : ledger.exchangesAt(run, each.first(), each.path()).stream()
                                    .map(RunResource::tidy)
                                    .toList()));
        }
        return lines;
    }

    private static LedgerMapper.ExchangeLine tidy(LedgerMapper.ExchangeLine its) {
        return new LedgerMapper.ExchangeLine(
                its.path(),
                its.stage(),
                its.number(),
                its.address(),
                tidy(its.request()),
                its.status(),
                tidy(its.reply()));
    }

    private List<String> stages(RunMapper.Row run, long ordinal) {
        String entered = ledger.entered(run.id(), ordinal);
        if (entered == null || entered.isEmpty()) {
            return List.of();
        }
        List<Stage> all =
                FlowFile.parse(flows.file(run.flowId(), run.flowRevision())).all();
        return Arrays.stream(entered.split(" "))
                .map(number -> all.get(Integer.parseInt(number)).id())
                .distinct()
                .toList();
    }

    private static String tidy(String text) {
        return text == null ? null : MessageText.tidy(text.getBytes(java.nio.charset.StandardCharsets.UTF_8));
    }

    /** Returns what a run wrote as its results, see {@link FlowFile#results}: rows as CSV, documents as JSON or XML. */
    @GET
    @Path("runs/{id}/results")
    @Produces({"text/csv", "application/json", "application/xml"})
    public Response results(@PathParam("id") long id) throws IOException {
        RunMapper.Row row = row(id);
        java.nio.file.Path file = row.outputFile() == null ? null : java.nio.file.Path.of(row.outputFile());
        if (file == null || !Files.exists(file)) {
            throw new Problem(404, "no-file", "This run wrote to a table, or its file is gone.");
        }
        StreamingOutput body = out -> Files.copy(file, out);
        String ending = file.toString().replaceFirst(".*\\.", ".");
        String type = ending.equals(".csv") ? "text/csv" : "application/" + ending.substring(1);
        return Response.ok(body, type)
                .header("Content-Disposition", "attachment; filename=\"run-" + id + "-results" + ending + "\"")
                .build();
    }

    /** Returns the records a run did not write, with the reason, as CSV. */
    @GET
    @Path("runs/{id}/rejects")
    @Produces("text/csv")
    public Response rejects(@PathParam("id") long id) {
        row(id);
        return Response.ok((StreamingOutput) out -> downloads.rejects(id, out))
                .header("Content-Disposition", "attachment; filename=\"run-" + id + "-rejects.csv\"")
                .build();
    }
}
