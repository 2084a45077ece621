package wirekettle.server.settings;

import jakarta.inject.Inject;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.mapping.MessageStyle;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.web.Json;
import wirekettle.server.web.Problem;

/** Allowed hosts and endpoints. */
@Path("/api")
public class SettingsResource {
    @Inject
    SettingsMapper settings;

    @Inject
    Hosts hosts;

    @Inject
    CurrentPerson current;

    /** A host to allow. */
    @Schema(requiredProperties = {"host"})
    public record NewHost(String host) {}

    /** An endpoint's addresses, and how messages are written for it; a style left out stays as it is. */
    @Schema(requiredProperties = {"name", "testAddress", "liveAddress"})
    public record EndpointChange(String name, String testAddress, String liveAddress, MessageStyle style) {}

    /** Returns the allowed hosts. */
    @GET
    @Path("allowed-hosts")
    public List<AllowedHost> allowed() {
        return settings.hosts();
    }

    /** Allows a host. */
    @POST
    @Path("allowed-hosts")
    public List<AllowedHost> allow(NewHost given) {
        current.mustBeTrusted();
        String host = given.host() == null ? "" : given.host().strip();
        if (!host.matches("(\\*\\.)?[\\p{L}\\p{N}._-]+(:\\d{1,5})?|\\[[0-9a-fA-F:]+](:\\d{1,5})?")) {
            throw new Problem(400, "bad-host", "“" + host + "” is no host, host:port or *.domain.");
        }
        settings.allow(host, current.get().name());
        hosts.changed();
        return settings.hosts();
    }

    /** Allows a host no longer. */
    @DELETE
    @Path("allowed-hosts")
    public List<AllowedHost> disallow(@QueryParam("host") String host) {
        current.mustBeTrusted();
        settings.disallow(host);
        hosts.changed();
        return settings.hosts();
    }

    /** Returns the endpoints. */
    @GET
    @Path("endpoints")
    public List<Endpoint> endpoints() {
        return settings.endpoints();
    }

    /** Adds or changes an endpoint. */
    @PUT
    @Path("endpoints")
    public Endpoint save(EndpointChange given) {
        if (given.name() == null || given.name().isBlank()) {
            throw new Problem(400, "bad-name", "An endpoint needs a name.");
        }
        settings.save(given.name().strip(), text(given.testAddress()), text(given.liveAddress()));
        if (given.style() != null) {
            settings.style(given.name().strip(), Json.write(given.style()));
        }
        return settings.endpoint(given.name().strip());
    }

    private static String text(String address) {
        return address == null ? "" : address.strip();
    }

    /** Removes an endpoint. */
    @DELETE
    @Path("endpoints/{id}")
    public void remove(@PathParam("id") long id) {
        settings.removeEndpoint(id);
    }
}
