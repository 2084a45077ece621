package wirekettle.server.hosts;

import jakarta.inject.Inject;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.QueryParam;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Problem;

/** The hosts that may be reached. */
@Path("/api")
public class HostResource {
    @Inject
    HostMapper mapper;

    @Inject
    Hosts hosts;

    @Inject
    CurrentPerson current;

    /** A host to allow. */
    @Schema(requiredProperties = {"host"})
    public record NewHost(String host) {}

    /** Returns the allowed hosts. */
    @GET
    @Path("allowed-hosts")
    public List<AllowedHost> allowed() {
        return mapper.hosts();
    }

    /** Allows a host. */
    @POST
    @Needs(Right.MANAGE)
    @Path("allowed-hosts")
    public List<AllowedHost> allow(NewHost given) {
        String host = given.host() == null ? "" : given.host().strip();
        if (!host.matches("(\\*\\.)?[\\p{L}\\p{N}._-]+(:\\d{1,5})?|\\[[0-9a-fA-F:]+](:\\d{1,5})?")) {
            throw new Problem(400, "bad-host", "“" + host + "” is no host, host:port or *.domain.");
        }
        mapper.allow(host, current.get().name());
        hosts.changed();
        return mapper.hosts();
    }

    /** Allows a host no longer. */
    @DELETE
    @Needs(Right.MANAGE)
    @Path("allowed-hosts")
    public List<AllowedHost> disallow(@QueryParam("host") String host) {
        mapper.disallow(host);
        hosts.changed();
        return mapper.hosts();
    }
}
