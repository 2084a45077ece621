package wirekettle.server.refresh;

import jakarta.inject.Inject;
import jakarta.transaction.Transactional;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractComparison;
import wirekettle.core.contract.ContractDocument;
import wirekettle.server.contracts.ContractMapper;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.contracts.ImportJobs;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Problem;

/** What a refreshed contract would change, and taking it in. */
@Path("/api")
public class RefreshResource {
    @Inject
    ImportJobs jobs;

    @Inject
    ContractStore store;

    @Inject
    ContractMapper contracts;

    @Inject
    FlowCarryOver flows;

    @Inject
    CurrentPerson current;

    /**
     * A refreshed contract beside the one in use.
     *
     * @param contract the contract's id
     * @param name its name
     * @param revision the revision in use
     * @param same whether the documents are the same, byte by byte
     * @param changes what differs, at most 2,000
     * @param flows every flow that calls it
     */
    @Schema(requiredProperties = {"contract", "name", "revision", "same", "changes", "flows"})
    public record Refresh(
            long contract,
            String name,
            int revision,
            boolean same,
            List<ContractComparison.Change> changes,
            List<FlowCarryOver.TouchedFlow> flows) {}

    /** What became of a refresh. */
    @Schema(
            name = "RefreshTaken",
            requiredProperties = {"contract", "revision", "flowsMoved"})
    public record Taken(long contract, int revision, int flowsMoved) {}

    private ImportJobs.Waiting waiting(long job) {
        ImportJobs.Waiting waiting = jobs.waiting(job);
        if (waiting == null) {
            throw new Problem(404, "not-waiting", "This refresh was taken in, or is too old: refresh again.");
        }
        return waiting;
    }

    /** Returns what an import that refreshes a contract would change. */
    @GET
    @Path("refreshes/{job}")
    public Refresh look(@PathParam("job") long job) {
        ImportJobs.Waiting waiting = waiting(job);
        ContractMapper.Row row = contracts.byId(waiting.contract());
        if (row == null) {
            throw Problem.missing("contract");
        }
        Contract before = store.get(row.id(), row.revision());
        List<ContractComparison.Change> changes = ContractComparison.of(before, waiting.read());
        return new Refresh(
                row.id(),
                row.name(),
                row.revision(),
                hashes(before).equals(hashes(waiting.read())),
                changes,
                flows.touched(row.name(), waiting.read(), changes));
    }

    private static List<String> hashes(Contract contract) {
        return contract.documents().stream().map(ContractDocument::hash).toList();
    }

    /** Takes a refreshed contract in as the next revision; fills that only have to move are moved. */
    @POST
    @Needs(Right.BUILD)
    @Path("refreshes/{job}")
    @Transactional
    public Taken take(@PathParam("job") long job) {
        ImportJobs.Waiting waiting = waiting(job);
        ContractMapper.Row row = contracts.byId(waiting.contract());
        if (row == null) {
            throw Problem.missing("contract");
        }
        String by = current.get().name();
        int revision = store.revise(row.id(), row.revision(), waiting.read(), waiting.source(), by);
        int moved = flows.carryOver(row.name(), waiting.read(), by);
        jobs.forget(job);
        return new Taken(row.id(), revision, moved);
    }
}
