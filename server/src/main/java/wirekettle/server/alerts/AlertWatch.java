package wirekettle.server.alerts;

import io.quarkus.narayana.jta.QuarkusTransaction;
import io.quarkus.runtime.ShutdownEvent;
import io.quarkus.runtime.StartupEvent;
import jakarta.annotation.Priority;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.eclipse.microprofile.config.inject.ConfigProperty;
import org.jboss.logging.Logger;
import wirekettle.server.ledger.RunMapper;
import wirekettle.server.runs.RunEnded;
import wirekettle.server.settings.Expiries;
import wirekettle.server.triggers.TriggerRefused;
import wirekettle.server.triggers.WorkingDaysOf;

/** Looks at what rules are about: runs as they end, and again and again at what does not happen. */
@ApplicationScoped
class AlertWatch {
    private static final Logger LOG = Logger.getLogger(AlertWatch.class);
    private static final int LAST = 9_700;
    private static final Duration DAY = Duration.ofDays(1);
    private static final Set<String> WRONG = Set.of("failed", "stopped", "interrupted");

    @Inject
    AlertMapper mapper;

    @Inject
    Alerts alerts;

    @Inject
    RunMapper runs;

    @Inject
    Expiries expiries;

    @Inject
    WorkingDaysOf days;

    @ConfigProperty(name = "wirekettle.alert-seconds")
    int seconds;

    private final ScheduledExecutorService thread = Executors.newSingleThreadScheduledExecutor(task -> {
        Thread its = new Thread(task, "alert-watch");
        its.setDaemon(true);
        return its;
    });

    void begin(@Observes @Priority(LAST) StartupEvent start) {
        thread.scheduleWithFixedDelay(this::look, seconds, seconds, TimeUnit.SECONDS);
    }

    void end(@Observes ShutdownEvent stop) {
        thread.shutdownNow();
    }

    private static boolean about(AlertMapper.Rule rule, long flow, String environment) {
        return (rule.flowId() == null || rule.flowId() == flow)
                && (rule.environment() == null || rule.environment().equals(environment));
    }

    void ended(@Observes RunEnded end) {
        try {
            RunMapper.Row run = runs.byId(end.run());
            List<Alerts.News> news = new ArrayList<>();
            for (AlertMapper.Rule rule : mapper.active("failed,rejected")) {
                if (about(rule, run.flowId(), run.environment())) {
                    Alerts.News its = rule.kind().equals("failed") ? failed(rule, run) : rejected(rule, run);
                    if (its != null) {
                        news.add(its);
                    }
                }
            }
            alerts.tell(news);
        } catch (RuntimeException e) {
            LOG.errorf(e, "nobody was told of the end of run %d", end.run());
        }
    }

    private static String of(RunMapper.Row run) {
        return "Run " + run.id() + " of " + run.flowName() + " in " + run.environment();
    }

    private static String counts(RunMapper.Row run) {
        return run.read() + " records read: " + run.done() + " done, " + run.rejected() + " rejected, " + run.leftOut()
                + " left out, " + run.inDoubt() + " in doubt, " + run.heldBack() + " held back.";
    }

    private static Alerts.News failed(AlertMapper.Rule rule, RunMapper.Row run) {
        if (!WRONG.contains(run.state())) {
            return null;
        }
        String why = run.message() == null ? "" : run.message() + "\n\n";
        return news(
                rule, run, "failed " + run.id() + " " + run.state(), of(run) + " " + run.state(), why + counts(run));
    }

    private static Alerts.News rejected(AlertMapper.Rule rule, RunMapper.Row run) {
        AlertSpec spec = Alerts.spec(rule);
        boolean many = spec.count() != null && run.rejected() > spec.count();
        boolean share =
                spec.percent() != null && run.read() > 0 && run.rejected() * 100.0 / run.read() > spec.percent();
        if (!many && !share) {
            return null;
        }
        return news(rule, run, "rejected " + run.id(), of(run) + ": " + run.rejected() + " rejected", counts(run));
    }

    private static Alerts.News news(AlertMapper.Rule rule, RunMapper.Row run, String key, String subject, String body) {
        return new Alerts.News(rule, run.flowId(), run.environment(), run.id(), key, subject, body);
    }

    void refused(@Observes TriggerRefused refused) {
        List<Alerts.News> news = new ArrayList<>();
        for (AlertMapper.Rule rule : mapper.active("failed")) {
            if (about(rule, refused.flow(), refused.environment())) {
                String name = runs.flowName(refused.flow());
                news.add(new Alerts.News(
                        rule,
                        refused.flow(),
                        refused.environment(),
                        null,
                        "refused " + refused.flow() + " " + Instant.now(),
                        name + " was not started in " + refused.environment(),
                        refused.why()));
            }
        }
        alerts.tell(news);
    }

    private void look() {
        try {
            QuarkusTransaction.requiringNew().run(() -> {
                if (mapper.lookAlone()) {
                    List<Alerts.News> news = new ArrayList<>();
                    Instant now = Instant.now();
                    for (AlertMapper.Rule rule :
                            mapper.active("in-doubt,long,absent,no-file,on-hold,certificate,watermark")) {
                        look(rule, now, news);
                    }
                    alerts.tell(news);
                }
            });
        } catch (RuntimeException e) {
            LOG.debugf("alerts are looked for again in a moment: %s", e.getMessage());
        }
    }

    private void look(AlertMapper.Rule rule, Instant now, List<Alerts.News> news) {
        AlertSpec spec = Alerts.spec(rule);
        long flow = rule.flowId() == null ? 0 : rule.flowId();
        switch (rule.kind()) {
            case "in-doubt" -> each(
                    rule,
                    mapper.doubtful(
                            flow, now.minus(minutes(spec)), rule.changedAt().minus(DAY)),
                    news,
                    "doubt",
                    run -> run.count() + " records in doubt since " + run.since());
            case "on-hold" -> each(
                    rule,
                    mapper.onHold(flow, now.minus(minutes(spec))),
                    news,
                    "hold",
                    run -> "on hold since " + run.since() + ": " + run.text());
            case "watermark" -> each(
                    rule,
                    mapper.still(flow, now.minus(Duration.ofHours(spec.hours()))),
                    news,
                    "mark",
                    mark -> "its watermark stands at " + mark.text() + " since " + mark.since());
            case "long" -> longer(rule, spec, now, news);
            case "certificate" -> certificates(rule, spec, now, news);
            default -> absent(rule, spec, now, news);
        }
    }

    private static Duration minutes(AlertSpec spec) {
        return Duration.ofMinutes(spec.minutes() == null ? 0 : spec.minutes());
    }

    private static void each(
            AlertMapper.Rule rule,
            List<AlertMapper.Told> told,
            List<Alerts.News> news,
            String key,
            java.util.function.Function<AlertMapper.Told, String> words) {
        for (AlertMapper.Told each : told) {
            if (rule.environment() == null || rule.environment().equals(each.environment())) {
                String what = each.id() == null ? "" : "Run " + each.id() + " of ";
                news.add(new Alerts.News(
                        rule,
                        each.flowId(),
                        each.environment(),
                        each.id(),
                        key + " "
                                + (each.id() == null
                                        ? each.flowId() + " " + each.since()
                                        : each.id() + " " + each.since()),
                        what + each.flowName() + " in " + each.environment() + ": " + words.apply(each),
                        ""));
            }
        }
    }

    private void longer(AlertMapper.Rule rule, AlertSpec spec, Instant now, List<Alerts.News> news) {
        for (AlertMapper.Told run : mapper.going(rule.flowId() == null ? 0 : rule.flowId())) {
            if (rule.environment() != null && !rule.environment().equals(run.environment())) {
                continue;
            }
            Double usual = spec.percent() == null ? null : mapper.usualSeconds(run.flowId(), run.environment());
            double most = spec.minutes() != null
                    ? spec.minutes() * 60.0
                    : usual == null ? Double.MAX_VALUE : usual * spec.percent() / 100.0;
            long seconds = Duration.between(run.since(), now).toSeconds();
            if (seconds > most) {
                news.add(new Alerts.News(
                        rule,
                        run.flowId(),
                        run.environment(),
                        run.id(),
                        "long " + run.id(),
                        "Run " + run.id() + " of " + run.flowName() + " in " + run.environment()
                                + " takes longer than usual",
                        "It has been going on for " + seconds / 60 + " minutes"
                                + (usual == null ? "." : "; usually it takes " + Math.round(usual / 60) + ".")));
            }
        }
    }

    private void certificates(AlertMapper.Rule rule, AlertSpec spec, Instant now, List<Alerts.News> news) {
        Instant until = now.plus(Duration.ofDays(spec.daysBefore() == null ? 14 : spec.daysBefore()));
        for (Expiries.Expiry each : expiries.until(until)) {
            boolean its = rule.environment() == null || each.where().contains(" in " + rule.environment());
            if (its) {
                news.add(new Alerts.News(
                        rule,
                        null,
                        rule.environment(),
                        null,
                        "certificate " + each.name() + " " + each.validUntil() + " " + each.ended(),
                        "The " + each.what() + " " + each.name() + (each.ended() ? " has ended" : " ends soon"),
                        "Valid until " + each.validUntil()
                                + (each.where().isEmpty() ? "." : ", used by " + each.where() + ".")));
            }
        }
    }

    /** Something was expected by a time of the day, and has not come. */
    private void absent(AlertMapper.Rule rule, AlertSpec spec, Instant now, List<Alerts.News> news) {
        ZoneId zone = ZoneId.of(spec.zone() == null ? "UTC" : spec.zone());
        LocalDate today = LocalDate.ofInstant(now, zone);
        Instant due = today.atTime(LocalTime.parse(spec.by())).atZone(zone).toInstant();
        boolean passed = !due.isAfter(now)
                && due.isAfter(rule.changedAt())
                && due.plus(DAY).isAfter(now);
        if (!passed || rule.flowId() == null || rule.environment() == null || !days.on(spec.days(), today)) {
            return;
        }
        boolean file = rule.kind().equals("no-file");
        long there = file
                ? mapper.files(rule.flowId(), rule.environment(), due.minus(DAY), due)
                : mapper.done(rule.flowId(), rule.environment(), due.minus(DAY), due);
        if (there == 0) {
            news.add(new Alerts.News(
                    rule,
                    rule.flowId(),
                    rule.environment(),
                    null,
                    rule.kind() + " " + due,
                    file
                            ? "No file has come for " + rule.flowName() + " in " + rule.environment()
                            : rule.flowName() + " did not happen in " + rule.environment(),
                    (file ? "A file was expected by " : "A run was to be done by ") + spec.by() + " (" + zone.getId()
                            + ") on " + today + ". In the 24 hours before there was none."));
        }
    }
}
