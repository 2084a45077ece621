package wirekettle.server.alerts;

import io.quarkus.mailer.Mail;
import io.quarkus.mailer.Mailer;
import io.quarkus.runtime.ShutdownEvent;
import io.quarkus.runtime.StartupEvent;
import jakarta.annotation.Priority;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.eclipse.microprofile.config.inject.ConfigProperty;
import org.jboss.logging.Logger;
import wirekettle.connect.HostRule;
import wirekettle.server.hosts.Hosts;
import wirekettle.server.secrets.StoredSecrets;

/**
 * Sends what is to be told, on a thread of its own: a mail server or hook that is down is tried again, later and later,
 * for some days, and keeps nothing else waiting.
 */
@ApplicationScoped
class MessageSender {
    private static final Logger LOG = Logger.getLogger(MessageSender.class);
    private static final int LAST = 9_800;
    private static final int MOST_ATTEMPTS = 60;
    private static final long FIRST_SECONDS = 15;
    private static final long LONGEST_SECONDS = 3_600;
    private static final Duration PATIENCE = Duration.ofSeconds(20);

    @Inject
    AlertMapper mapper;

    @Inject
    Mailer mailer;

    @Inject
    Hosts hosts;

    @Inject
    StoredSecrets secrets;

    @ConfigProperty(name = "wirekettle.mail.host")
    Optional<String> mailHost;

    private final HttpClient client =
            HttpClient.newBuilder().connectTimeout(PATIENCE).build();
    private final ScheduledExecutorService thread = Executors.newSingleThreadScheduledExecutor(task -> {
        Thread its = new Thread(task, "alert-messages");
        its.setDaemon(true);
        return its;
    });

    void begin(@Observes @Priority(LAST) StartupEvent start) {
        thread.scheduleWithFixedDelay(this::send, 1, 1, TimeUnit.SECONDS);
    }

    void end(@Observes ShutdownEvent stop) {
        thread.shutdownNow();
    }

    private void send() {
        try {
            mapper.takeDue(MOST_ATTEMPTS).forEach(this::send);
        } catch (RuntimeException e) {
            LOG.debugf("messages are sent again in a moment: %s", e.getMessage());
        }
    }

    private void send(AlertMapper.Message message) {
        try {
            if (message.channel().equals("mail")) {
                mail(message);
            } else {
                hook(message);
            }
            mapper.sent(message.id());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } catch (IOException | RuntimeException e) {
            long pause = Math.min(LONGEST_SECONDS, FIRST_SECONDS << Math.min(10, message.attempts() - 1));
            Throwable root = e;
            while (root.getCause() != null && root.getCause() != root) {
                root = root.getCause();
            }
            mapper.failed(
                    message.id(),
                    String.valueOf(root.getMessage() == null ? root : root.getMessage()),
                    Instant.now().plusSeconds(pause));
        }
    }

    private void mail(AlertMapper.Message message) throws IOException {
        if (mailHost.filter(host -> !host.isBlank()).isEmpty()) {
            throw new IOException("no mail server is set up: start with WIREKETTLE_MAIL_HOST");
        }
        mailer.send(Mail.withText(
                message.target(),
                secrets.masking().mask(message.subject()),
                secrets.masking().mask(message.body())));
    }

    private void hook(AlertMapper.Message message) throws IOException, InterruptedException {
        URI target = URI.create(message.target());
        HostRule rule = hosts;
        rule.check(target);
        HttpRequest request = HttpRequest.newBuilder(target)
                .timeout(PATIENCE)
                .header("Content-Type", "application/json")
                .POST(HttpRequest.BodyPublishers.ofString(secrets.masking().mask(message.body())))
                .build();
        int status =
                client.send(request, HttpResponse.BodyHandlers.discarding()).statusCode();
        if (status / 100 != 2) {
            throw new IOException("the hook answered " + status);
        }
    }
}
