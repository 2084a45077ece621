package wirekettle.server.settings;

import jakarta.inject.Inject;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import java.security.cert.X509Certificate;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.connect.Probe;
import wirekettle.core.fill.MessageStyle;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.security.Certificates;
import wirekettle.core.soap.security.KeyUnreadable;
import wirekettle.server.environments.Environments;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.uses.Uses;
import wirekettle.server.web.Json;
import wirekettle.server.web.Problem;

/** Endpoints: their addresses and settings by environment, and the test of one. */
@Path("/api")
public class EndpointResource {
    @Inject
    EndpointTrials trials;

    @Inject
    Environments environments;

    @Inject
    SettingsMapper settings;

    @Inject
    Endpoints endpoints;

    @Inject
    Uses uses;

    /** What is changed of an endpoint: what is left out stays as it is. */
    @Schema(requiredProperties = {"name"})
    public record EndpointChange(String name, Map<String, String> addresses, MessageStyle style) {}

    /** A certificate's data, and its text. */
    @Schema(
            name = "Certificate",
            requiredProperties = {"subject", "issuer", "validFrom", "validUntil", "fingerprint", "pem"})
    public record Shown(
            String subject, String issuer, Instant validFrom, Instant validUntil, String fingerprint, String pem) {
        static Shown of(X509Certificate certificate) {
            return certificate == null
                    ? null
                    : new Shown(
                            Certificates.owner(certificate),
                            Certificates.issuer(certificate),
                            certificate.getNotBefore().toInstant(),
                            certificate.getNotAfter().toInstant(),
                            Certificates.fingerprint(certificate),
                            Certificates.pem(certificate));
        }
    }

    /** PEM text to look at. */
    @Schema(requiredProperties = {"pem"})
    public record PemText(String pem) {}

    /** A try to reach an endpoint: an address and settings that need not be kept yet. */
    @Schema(
            name = "EndpointTrial",
            requiredProperties = {"address", "settings"})
    public record Trial(String address, EndpointSettings settings) {}

    /** One step of a test. */
    @Schema(
            name = "EndpointStep",
            requiredProperties = {"name", "works", "detail", "millis"})
    public record Step(String name, boolean works, String detail, long millis) {}

    /** What a test found. */
    @Schema(
            name = "EndpointTestResult",
            requiredProperties = {"works", "steps"})
    public record Tested(boolean works, List<Step> steps, Shown certificate) {}

    /** Returns the endpoints. */
    @GET
    @Path("endpoints")
    public List<Endpoint> endpoints() {
        return settings.endpoints().stream().map(this::withSimulator).toList();
    }

    private Endpoint withSimulator(Endpoint endpoint) {
        if (endpoint.simulator() != null) {
            String address = endpoints.address(endpoint, Environments.SIMULATOR);
            EndpointSettings kept = endpoint.way(Environments.SIMULATOR).settings();
            endpoint.environments().put(Environments.SIMULATOR, new Endpoint.Way(address, kept));
        }
        return endpoint;
    }

    /** Adds or changes an endpoint. */
    @PUT
    @Needs(Right.MANAGE)
    @Path("endpoints")
    public Endpoint save(EndpointChange given) {
        String name = given.name() == null ? "" : given.name().strip();
        if (name.isEmpty() || name.length() > 120) {
            throw new Problem(400, "bad-name", "An endpoint needs a name of at most 120 characters.");
        }
        settings.add(name);
        if (given.addresses() != null) {
            given.addresses().forEach((environment, address) -> {
                environments.named(environment);
                String at = address == null ? "" : address.strip();
                Endpoint before = settings.endpoint(name);
                endpoints.mustBeAllowed(at, before.way(environment).settings());
                settings.address(name, environment, at);
            });
        }
        if (given.style() != null) {
            settings.style(name, Json.write(given.style()));
        }
        return withSimulator(settings.endpoint(name));
    }

    private Endpoint byId(long id) {
        return settings.endpoints().stream()
                .filter(endpoint -> endpoint.id() == id)
                .findFirst()
                .orElseThrow(() -> Problem.missing("endpoint"));
    }

    /** Sets where an endpoint is in an environment and what reaching it takes. */
    @PUT
    @Needs(Right.MANAGE)
    @Path("endpoints/{id}/environments/{environment}")
    public Endpoint reach(@PathParam("id") long id, @PathParam("environment") String environment, Trial given) {
        Endpoint endpoint = byId(id);
        environments.named(environment);
        EndpointSettings wanted = given.settings() == null ? EndpointSettings.PLAIN : given.settings();
        List<String> problems = SettingsCheck.problems(wanted);
        if (!problems.isEmpty()) {
            throw new Problem(422, "bad-settings", String.join(" ", problems)).with("problems", problems);
        }
        String address = given.address() == null ? "" : given.address().strip();
        endpoints.mustBeAllowed(address, wanted);
        settings.save(endpoint.name(), environment, address);
        settings.settings(endpoint.name(), environment, Json.write(wanted));
        return withSimulator(settings.endpoint(endpoint.name()));
    }

    /** Tries step by step to reach an endpoint as given; nothing that could change data is asked of it. */
    @POST
    @Needs(Right.MANAGE)
    @Path("endpoints/{id}/test")
    public Tested test(@PathParam("id") long id, Trial given) {
        Endpoint endpoint = byId(id);
        EndpointSettings wanted = given.settings() == null ? EndpointSettings.PLAIN : given.settings();
        List<String> problems = SettingsCheck.problems(wanted);
        if (!problems.isEmpty()) {
            throw new Problem(422, "bad-settings", String.join(" ", problems)).with("problems", problems);
        }
        String address = given.address() == null ? "" : given.address().strip();
        Endpoints.Route route = endpoints.route(address, wanted);
        Probe probe = trials.of(endpoint.name(), route);
        List<Step> steps = new ArrayList<>();
        for (Probe.Step step : probe.steps()) {
            String detail = route.reach().masking().mask(step.detail());
            steps.add(new Step(step.name(), step.works(), detail, step.millis()));
        }
        return new Tested(probe.works(), steps, Shown.of(probe.shown()));
    }

    /** Returns what stands in certificates. */
    @POST
    @Needs(Right.LOOK)
    @Path("certificates")
    public List<Shown> certificates(PemText given) {
        try {
            return Certificates.ofPem(given.pem()).stream().map(Shown::of).toList();
        } catch (KeyUnreadable e) {
            throw new Problem(422, "bad-certificate", e.getMessage() + ".");
        }
    }

    /** Removes an endpoint. */
    @DELETE
    @Needs(Right.MANAGE)
    @Path("endpoints/{id}")
    public void remove(@PathParam("id") long id) {
        Endpoint endpoint = byId(id);
        uses.mustBeFree(Uses.Kind.ENDPOINT, endpoint.name(), "The endpoint “" + endpoint.name() + "”");
        settings.removeEndpoint(id);
    }
}
