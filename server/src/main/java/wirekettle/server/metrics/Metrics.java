package wirekettle.server.metrics;

import io.micrometer.core.instrument.MeterRegistry;
import io.micrometer.core.instrument.MultiGauge;
import io.micrometer.core.instrument.Tags;
import io.quarkus.runtime.StartupEvent;
import io.quarkus.vertx.http.runtime.filters.Filters;
import io.vertx.ext.web.RoutingContext;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.function.Function;
import org.eclipse.microprofile.config.inject.ConfigProperty;
import org.jboss.logging.Logger;

/** Gives figures at {@code /q/metrics}: to this machine, or to whoever has the key. */
@ApplicationScoped
class Metrics {
    private static final Logger LOG = Logger.getLogger(Metrics.class);
    private static final String PATH = "/q/metrics";
    private static final int EARLY = 500;
    private static final long SECONDS = 10;

    @Inject
    MetricMapper mapper;

    @Inject
    MeterRegistry registry;

    @ConfigProperty(name = "wirekettle.metrics-key")
    Optional<String> key;

    private MultiGauge runs;
    private MultiGauge records;
    private MultiGauge alerts;
    private volatile long unsent;
    private final ScheduledExecutorService thread = Executors.newSingleThreadScheduledExecutor(task -> {
        Thread its = new Thread(task, "metrics");
        its.setDaemon(true);
        return its;
    });

    void begin(@Observes StartupEvent start) {
        runs = MultiGauge.builder("wirekettle.runs").register(registry);
        records = MultiGauge.builder("wirekettle.records").register(registry);
        alerts = MultiGauge.builder("wirekettle.alerts.open").register(registry);
        registry.gauge("wirekettle.messages.unsent", this, its -> its.unsent);
        thread.scheduleWithFixedDelay(this::count, 0, SECONDS, TimeUnit.SECONDS);
    }

    private void count() {
        try {
            set(runs, mapper.runs(), each -> Tags.of("environment", each.one(), "state", each.two()));
            set(
                    records,
                    mapper.records(),
                    each -> Tags.of("flow", each.one(), "environment", each.two(), "end", each.three()));
            set(alerts, mapper.alerts(), each -> Tags.of("kind", each.one()));
            unsent = mapper.unsent();
        } catch (RuntimeException e) {
            LOG.debugf("figures are counted again in a moment: %s", e.getMessage());
        }
    }

    private static void set(
            MultiGauge gauge, List<MetricMapper.Figure> figures, Function<MetricMapper.Figure, Tags> tags) {
        gauge.register(
                figures.stream()
                        .<MultiGauge.Row<?>>map(each -> MultiGauge.Row.of(tags.apply(each), each.count()))
                        .toList(),
                true);
    }

    void guard(@Observes Filters filters) {
        filters.register(this::guard, EARLY);
    }

    private void guard(RoutingContext context) {
        if (context.normalizedPath().startsWith(PATH) && !may(context)) {
            context.response().setStatusCode(403).end("The figures are for this machine, or for who has the key.\n");
        } else {
            context.next();
        }
    }

    private boolean may(RoutingContext context) {
        if (key.filter(its -> !its.isBlank()).isEmpty()) {
            String from = context.request().connection().remoteAddress().hostAddress();
            return from != null && (from.startsWith("127.") || from.equals("0:0:0:0:0:0:0:1") || from.equals("::1"));
        }
        String given = String.valueOf(context.request().getHeader("Authorization"));
        return MessageDigest.isEqual(
                given.getBytes(StandardCharsets.UTF_8), ("Bearer " + key.get()).getBytes(StandardCharsets.UTF_8));
    }
}
