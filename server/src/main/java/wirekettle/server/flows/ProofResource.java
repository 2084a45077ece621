package wirekettle.server.flows;

import jakarta.inject.Inject;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Problem;

/** Proofs of a mapping over samples: started, watched, cancelled. */
@Path("/api")
public class ProofResource {
    @Inject
    ProofJobs jobs;

    @Inject
    CurrentPerson current;

    /**
     * A draft and what counts as its samples.
     *
     * @param samples first, random or all
     * @param stage the call whose message is proved, null for the first
     * @param environment the environment whose kept replies stand for the calls before it
     */
    @Schema(requiredProperties = {"file", "samples"})
    public record ProofAsked(FlowFile file, String samples, String stage, String environment) {}

    /** Starts a proof and returns where it stands. */
    @POST
    @Needs(Right.LOOK)
    @Path("flows/{id}/proofs")
    public ProofJobs.State start(@PathParam("id") long id, ProofAsked asked) {
        return state(jobs.start(id, asked, current.name() + " " + id));
    }

    /** Returns where a proof stands. */
    @GET
    @Path("proofs/{proof}")
    public ProofJobs.State state(@PathParam("proof") long proof) {
        ProofJobs.State state = jobs.state(proof);
        if (state == null) {
            throw Problem.missing("proof");
        }
        return state;
    }

    /** Ends a proof; what it found so far stays. */
    @DELETE
    @Needs(Right.LOOK)
    @Path("proofs/{proof}")
    public void cancel(@PathParam("proof") long proof) {
        jobs.cancel(proof);
    }
}
