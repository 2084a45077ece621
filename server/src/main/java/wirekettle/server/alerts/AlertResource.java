package wirekettle.server.alerts;

import jakarta.inject.Inject;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.HeaderParam;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import java.io.IOException;
import java.net.URI;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.connect.HostRule;
import wirekettle.server.environments.Environments;
import wirekettle.server.flows.FlowMapper;
import wirekettle.server.hosts.Hosts;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.triggers.WorkingDaysOf;
import wirekettle.server.web.Edits;
import wirekettle.server.web.Json;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** Alert rules, what they raised, and the messages about it. */
@Path("/api")
public class AlertResource {
    private static final List<String> KINDS = List.of(
            "failed", "rejected", "in-doubt", "long", "absent", "no-file", "on-hold", "certificate", "watermark");
    private static final int MOST_NOTE = 2_000;
    private static final int MOST_MAILS = 20;

    @Inject
    AlertMapper mapper;

    @Inject
    Environments environments;

    @Inject
    FlowMapper flows;

    @Inject
    WorkingDaysOf days;

    @Inject
    CurrentPerson current;

    @Inject
    Hosts hosts;

    /**
     * A rule.
     *
     * @param flowId the flow it is about, null for every one
     * @param environment the environment it is about, null for every one
     */
    @Schema(
            name = "AlertRule",
            requiredProperties = {"id", "kind", "spec", "active", "version", "changedAt", "changedBy"})
    public record View(
            Long id,
            Long flowId,
            String flowName,
            String environment,
            String kind,
            AlertSpec spec,
            Boolean active,
            Integer version,
            Instant changedAt,
            String changedBy) {
        static View of(AlertMapper.Rule rule) {
            return new View(
                    rule.id(),
                    rule.flowId(),
                    rule.flowName(),
                    rule.environment(),
                    rule.kind(),
                    Alerts.spec(rule),
                    rule.active(),
                    rule.version(),
                    rule.changedAt(),
                    rule.changedBy());
        }
    }

    /** A rule as it is wanted. */
    @Schema(name = "NewAlertRule")
    public record Wanted(Long flowId, String environment, String kind, AlertSpec spec, Boolean active) {}

    /** What somebody says who has seen an alert. */
    @Schema(name = "Acknowledgement")
    public record Seen(String note) {}

    /** Returns rules; those of a flow with the ones for every flow. */
    @GET
    @Path("alert-rules")
    public Page<View> rules(
            @QueryParam("flow") long flow,
            @QueryParam("q") String q,
            @QueryParam("page") Integer page,
            @QueryParam("size") Integer size) {
        String like = Page.like(q);
        return new Page<>(
                mapper.rules(flow, like, Page.size(size), Page.offset(page, size)).stream()
                        .map(View::of)
                        .toList(),
                mapper.ruleCount(flow, like));
    }

    private AlertMapper.Rule rule(long id) {
        AlertMapper.Rule rule = mapper.rule(id);
        if (rule == null) {
            throw Problem.missing("alert rule");
        }
        return rule;
    }

    private static void needs(boolean there, String what) {
        if (!there) {
            throw new Problem(400, "bad-rule", "Say " + what + ".");
        }
    }

    private static boolean positive(Integer number, int most) {
        return number != null && number >= 1 && number <= most;
    }

    private void check(Long flow, String environment, String kind, AlertSpec spec) throws IOException {
        if (!KINDS.contains(String.valueOf(kind))) {
            throw new Problem(400, "bad-kind", "A rule is one of " + String.join(", ", KINDS) + ".");
        }
        if (flow != null && flows.byId(flow) == null) {
            throw Problem.missing("flow");
        }
        if (environment != null) {
            environments.named(environment);
        }
        switch (kind) {
            case "rejected" -> needs(
                    spec.count() != null && spec.count() >= 0 || positive(spec.percent(), 100),
                    "more than how many records, or more than how many percent of them");
            case "in-doubt", "on-hold" -> needs(positive(spec.minutes(), 100_000), "for how many minutes");
            case "long" -> needs(
                    positive(spec.minutes(), 100_000) || positive(spec.percent(), 10_000),
                    "after how many minutes, or at how many percent of the usual time");
            case "watermark" -> needs(positive(spec.hours(), 10_000), "for how many hours");
            case "certificate" -> needs(positive(spec.daysBefore(), 3_650), "how many days before");
            case "absent", "no-file" -> {
                needs(flow != null && environment != null, "of which flow, and in which environment");
                needs(spec.by() != null, "by what time of the day");
            }
            default -> {
                // an end that failed needs nothing more
            }
        }
        times(spec);
        channels(spec);
    }

    private void times(AlertSpec spec) {
        try {
            if (spec.zone() != null) {
                ZoneId.of(spec.zone());
            }
            for (String time : new String[] {spec.by(), spec.quietFrom(), spec.quietTo()}) {
                if (time != null) {
                    LocalTime.parse(time);
                }
            }
        } catch (DateTimeException e) {
            throw new Problem(400, "bad-time", "Times are written 07:00, zones Europe/Vienna. " + e.getMessage() + ".");
        }
        needs((spec.quietFrom() == null) == (spec.quietTo() == null), "both from when and until when it is quiet");
        if (spec.days() != null && !spec.days().isBlank() && !days.known(spec.days())) {
            throw new Problem(400, "no-working-days", "There are no working days called “" + spec.days() + "”.");
        }
    }

    private void channels(AlertSpec spec) throws IOException {
        if (spec.mail().size() > MOST_MAILS) {
            throw new Problem(400, "too-many", "A rule writes to at most " + MOST_MAILS + " addresses.");
        }
        for (String mail : spec.mail()) {
            if (!mail.matches("[^@\\s,;<>]+@[^@\\s,;<>]+")) {
                throw new Problem(400, "bad-mail", "“" + mail + "” is no mail address.");
            }
        }
        if (spec.hook() != null && !spec.hook().isBlank()) {
            try {
                URI hook = URI.create(spec.hook());
                needs(
                        hook.getHost() != null
                                && String.valueOf(hook.getScheme()).startsWith("http"),
                        "an http address of the hook");
                HostRule rule = hosts;
                rule.check(hook);
            } catch (IllegalArgumentException e) {
                throw new Problem(400, "bad-hook", "“" + spec.hook() + "” is no address.");
            }
        }
    }

    private static AlertSpec spec(AlertSpec given) {
        return given == null
                ? new AlertSpec(null, null, null, null, null, null, null, null, null, null, null, null)
                : given;
    }

    /** Adds a rule. */
    @POST
    @Needs(Right.BUILD)
    @Path("alert-rules")
    public View add(Wanted given) throws IOException {
        AlertSpec spec = spec(given.spec());
        check(given.flowId(), given.environment(), given.kind(), spec);
        boolean active = !Boolean.FALSE.equals(given.active());
        long id =
                mapper.add(given.flowId(), given.environment(), given.kind(), Json.write(spec), active, current.name());
        return View.of(rule(id));
    }

    /** Changes a rule; If-Match carries the version that is changed. */
    @PUT
    @Needs(Right.BUILD)
    @Path("alert-rules/{id}")
    public View change(@PathParam("id") long id, @HeaderParam("If-Match") String ifMatch, Wanted given)
            throws IOException {
        AlertMapper.Rule known = rule(id);
        int based = Edits.based("version", ifMatch);
        AlertSpec spec = given.spec() == null ? Alerts.spec(known) : given.spec();
        String environment = given.spec() == null ? known.environment() : given.environment();
        check(known.flowId(), environment, known.kind(), spec);
        boolean active = given.active() == null ? known.active() : given.active();
        if (mapper.change(id, based, environment, Json.write(spec), active, current.name()) == 0) {
            throw Edits.meanwhile("version", known.changedBy(), known.version(), based)
                    .with("theirs", View.of(known));
        }
        return View.of(rule(id));
    }

    /** Removes a rule; what it raised stays. */
    @DELETE
    @Needs(Right.BUILD)
    @Path("alert-rules/{id}")
    public void remove(@PathParam("id") long id) {
        rule(id);
        mapper.remove(id);
    }

    /** Sends a message as the rule would, so that one sees that it comes. */
    @POST
    @Needs(Right.BUILD)
    @Path("alert-rules/{id}/try")
    public void tryOut(@PathParam("id") long id) {
        AlertMapper.Rule rule = rule(id);
        AlertSpec spec = Alerts.spec(rule);
        String subject = "A try of the rule " + rule.kind();
        String body = current.name() + " tried whether this comes.\n";
        spec.mail().forEach(mail -> mapper.write("mail", mail, subject, body, Instant.now()));
        if (spec.hook() != null && !spec.hook().isBlank()) {
            mapper.write("hook", spec.hook(), subject, Json.write(java.util.Map.of("try", body)), Instant.now());
        }
    }

    /** Returns alerts, the newest first; open are those nobody has acknowledged. */
    @GET
    @Path("alerts")
    public Page<AlertMapper.Alert> alerts(
            @QueryParam("flow") long flow,
            @QueryParam("open") boolean open,
            @QueryParam("q") String q,
            @QueryParam("page") Integer page,
            @QueryParam("size") Integer size) {
        String like = Page.like(q);
        return new Page<>(
                mapper.alerts(flow, open, like, Page.size(size), Page.offset(page, size)),
                mapper.alertCount(flow, open, like));
    }

    /** Notes that the person asking looks after an alert. */
    @POST
    @Needs(Right.RUN)
    @Path("alerts/{id}/acknowledge")
    public AlertMapper.Alert acknowledge(@PathParam("id") long id, Seen given) {
        AlertMapper.Alert alert = mapper.alert(id);
        if (alert == null) {
            throw Problem.missing("alert");
        }
        String note = given == null || given.note() == null ? "" : given.note().strip();
        if (note.length() > MOST_NOTE) {
            throw new Problem(400, "note-too-long", "A note has at most " + MOST_NOTE + " characters.");
        }
        if (mapper.acknowledge(id, current.name(), note) == 0) {
            throw new Problem(409, "seen-already", alert.acknowledgedBy() + " looks after it already.");
        }
        return mapper.alert(id);
    }

    /** Returns messages, the newest first, with what became of them. */
    @GET
    @Path("alert-messages")
    public Page<AlertMapper.Message> messages(@QueryParam("page") Integer page, @QueryParam("size") Integer size) {
        return new Page<>(mapper.messages(Page.size(size), Page.offset(page, size)), mapper.messageCount());
    }
}
