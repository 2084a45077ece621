package wirekettle.server.settings;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.security.cert.X509Certificate;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.security.Certificates;
import wirekettle.core.soap.security.KeyUnreadable;
import wirekettle.server.secrets.SecretMapper;

/** Keys and certificates that end soon, or have ended. */
@ApplicationScoped
public class Expiries {
    /** How long before its end a certificate is listed. */
    private static final Duration SOON = Duration.ofDays(30);

    @Inject
    SettingsMapper settings;

    @Inject
    SecretMapper secrets;

    /**
     * A key or certificate near its end.
     *
     * @param what key or certificate
     * @param name the secret's name, or whom the certificate names
     * @param where where it is used, empty when nowhere
     * @param validUntil its end
     * @param ended whether that has passed
     */
    @Schema(requiredProperties = {"what", "name", "where", "validUntil", "ended"})
    public record Expiry(String what, String name, String where, Instant validUntil, boolean ended) {}

    /** Returns what ends within thirty days or has ended, the earliest first. */
    public List<Expiry> soon() {
        return until(Instant.now().plus(SOON));
    }

    /** Returns what ends by a moment or has ended, the earliest first. */
    public List<Expiry> until(Instant end) {
        Instant now = Instant.now();
        List<Expiry> found = new ArrayList<>();
        List<Endpoint> endpoints = settings.endpoints();
        for (SecretMapper.Row secret : secrets.all()) {
            if (secret.validUntil() != null && secret.validUntil().isBefore(end)) {
                List<String> users = new ArrayList<>();
                endpoints.forEach(endpoint -> endpoint.environments().forEach((environment, way) -> {
                    if (way.settings().secrets().contains(secret.name())) {
                        users.add(endpoint.name() + " in " + environment);
                    }
                }));
                found.add(new Expiry(
                        "key",
                        secret.name(),
                        String.join(", ", users),
                        secret.validUntil(),
                        secret.validUntil().isBefore(now)));
            }
        }
        endpoints.forEach(endpoint -> endpoint.environments()
                .forEach((environment, way) ->
                        certificates(way.settings(), endpoint.name() + " in " + environment, now, end, found)));
        found.sort(Comparator.comparing(Expiry::validUntil));
        return found;
    }

    private static void certificates(
            EndpointSettings settings, String where, Instant now, Instant end, List<Expiry> found) {
        List<String> pems = new ArrayList<>(settings.tls().trusted());
        pems.addAll(settings.security().verifyReplies());
        try {
            for (X509Certificate certificate : Certificates.ofPems(pems)) {
                Instant until = certificate.getNotAfter().toInstant();
                if (until.isBefore(end)) {
                    found.add(new Expiry(
                            "certificate", Certificates.owner(certificate), where, until, until.isBefore(now)));
                }
            }
        } catch (KeyUnreadable e) {
            // kept settings were checked; what cannot be read any more is told when it is used
        }
    }
}
