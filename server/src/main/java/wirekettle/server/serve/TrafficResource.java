package wirekettle.server.serve;

import com.fasterxml.jackson.core.type.TypeReference;
import com.fasterxml.jackson.databind.JsonNode;
import jakarta.inject.Inject;
import jakarta.ws.rs.DefaultValue;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.server.ledger.AnswerTimes;
import wirekettle.server.publish.Publication;
import wirekettle.server.publish.Publications;
import wirekettle.server.runs.Runner;
import wirekettle.server.triggers.TriggerMapper;
import wirekettle.server.triggers.Triggers;
import wirekettle.server.web.Json;
import wirekettle.server.web.Problem;

/** What callers asked and got over time. */
@Path("/api")
public class TrafficResource {
    private static final int HOUR = 60;
    private static final int DAY = 24 * HOUR;
    private static final int LONGEST = 31 * DAY;
    private static final int MOST_STEPS = 120;

    @Inject
    TrafficMapper mapper;

    @Inject
    TriggerMapper triggers;

    @Inject
    Publications publications;

    /**
     * A step in time.
     *
     * @param requests how many were answered in it
     * @param failed those answered by a status of 400 and above
     * @param median the time within which half of them were answered, in milliseconds; null for none
     * @param most the time within which 95 of a hundred were
     * @param nearlyAll the time within which 99 of a hundred were
     */
    @Schema(
            name = "TrafficStep",
            requiredProperties = {"at", "requests", "failed"})
    public record Step(Instant at, long requests, long failed, Double median, Double most, Double nearlyAll) {}

    /** Answers of one status. */
    @Schema(
            name = "TrafficStatus",
            requiredProperties = {"status", "requests"})
    public record Status(int status, long requests, Double median) {}

    /** What one caller asked; its name is empty for one without a key. */
    @Schema(
            name = "TrafficCaller",
            requiredProperties = {"caller", "requests", "failed"})
    public record Caller(String caller, long requests, long failed, Double median, Instant last) {}

    /**
     * What callers asked and got.
     *
     * @param seconds how long a step is
     */
    @Schema(
            name = "Traffic",
            requiredProperties = {"seconds", "requests", "failed", "steps", "statuses", "callers"})
    public record Traffic(
            int seconds,
            long requests,
            long failed,
            Double median,
            Double most,
            Double nearlyAll,
            List<Step> steps,
            List<Status> statuses,
            List<Caller> callers) {}

    private record Counts(TrafficMapper.Row row, List<Long> answered) {
        private long requests() {
            return answered.stream().mapToLong(Long::longValue).sum();
        }

        private boolean failed() {
            return row.status() >= 400;
        }
    }

    /** Sums of counts. */
    private static final class Sum {
        private final Long[] answered = AnswerTimes.none();
        private long requests;
        private long failed;
        private Instant last;

        private void add(Counts counts) {
            for (int i = 0; i < answered.length; i++) {
                answered[i] += counts.answered().get(i);
            }
            requests += counts.requests();
            failed += counts.failed() ? counts.requests() : 0;
            last = counts.row().at();
        }

        private Double within(double share) {
            return AnswerTimes.within(List.of(answered), share);
        }
    }

    private TriggerMapper.Row trigger(long id) {
        TriggerMapper.Row trigger = triggers.byId(id);
        if (trigger == null || !Runner.Begun.takes(trigger.kind())) {
            throw Problem.missing("trigger");
        }
        return trigger;
    }

    /** Returns what a trigger's flow takes and gives, as an OpenAPI 3.1 document: of the revision in force. */
    @GET
    @Path("triggers/{id}/openapi")
    public JsonNode openApi(@PathParam("id") long id) {
        TriggerMapper.Row trigger = trigger(id);
        if (!trigger.kind().equals(Runner.Begun.CALLERS)) {
            throw Problem.missing("address");
        }
        Publication inForce = publications.inForce(trigger.flowId(), trigger.environment());
        FlowFile file = inForce == null ? null : publications.file(inForce);
        if (file == null || file.source().map(read -> read.input() == null).orElse(true)) {
            throw new Problem(
                    409, "not-in-force", "Nothing that answers callers is in force in " + trigger.environment() + ".");
        }
        return OpenApi.of(Triggers.spec(trigger), inForce.revision(), file, ServeRoutes.PREFIX);
    }

    /** Returns what callers of a trigger asked and got in the last minutes, an hour where nothing is said. */
    @GET
    @Path("triggers/{id}/traffic")
    public Traffic traffic(@PathParam("id") long id, @QueryParam("minutes") @DefaultValue("60") int minutes) {
        trigger(id);
        if (minutes < 1 || minutes > LONGEST) {
            throw new Problem(400, "out-of-range", "There are 1 to " + LONGEST + " minutes.");
        }
        int seconds = 60 * Math.max(1, (int) Math.ceil(minutes / (double) MOST_STEPS));
        Instant from = Instant.now().minusSeconds(60L * minutes);
        List<Counts> all = new ArrayList<>();
        for (TrafficMapper.Row row : mapper.rows(id, from, seconds)) {
            all.add(new Counts(row, Json.read(row.answered(), new TypeReference<>() {})));
        }
        Sum whole = new Sum();
        all.forEach(whole::add);
        return new Traffic(
                seconds,
                whole.requests,
                whole.failed,
                whole.within(0.5),
                whole.within(0.95),
                whole.within(0.99),
                steps(sums(all, TrafficMapper.Row::at), from, seconds),
                sums(all, TrafficMapper.Row::status).entrySet().stream()
                        .map(each -> new Status(
                                each.getKey(),
                                each.getValue().requests,
                                each.getValue().within(0.5)))
                        .sorted(Comparator.comparingLong(Status::requests).reversed())
                        .toList(),
                sums(all, TrafficMapper.Row::caller).entrySet().stream()
                        .map(each -> caller(each.getKey(), each.getValue()))
                        .sorted(Comparator.comparingLong(Caller::requests).reversed())
                        .toList());
    }

    /** Every step of the time, those nobody asked in, too. */
    private static List<Step> steps(Map<Instant, Sum> sums, Instant from, int seconds) {
        List<Step> steps = new ArrayList<>();
        long first = from.getEpochSecond() / seconds * seconds;
        for (long at = first; at <= Instant.now().getEpochSecond(); at += seconds) {
            Instant step = Instant.ofEpochSecond(at);
            steps.add(step(step, sums.getOrDefault(step, new Sum())));
        }
        return steps;
    }

    private static Step step(Instant at, Sum its) {
        return new Step(at, its.requests, its.failed, its.within(0.5), its.within(0.95), its.within(0.99));
    }

    private static Caller caller(String name, Sum its) {
        return new Caller(name, its.requests, its.failed, its.within(0.5), its.last);
    }

    private static <T> Map<T, Sum> sums(List<Counts> all, Function<TrafficMapper.Row, T> by) {
        Map<T, Sum> sums = new LinkedHashMap<>();
        all.forEach(each ->
                sums.computeIfAbsent(by.apply(each.row()), key -> new Sum()).add(each));
        return sums;
    }
}
