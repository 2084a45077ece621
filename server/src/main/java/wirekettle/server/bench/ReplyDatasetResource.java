package wirekettle.server.bench;

import de.siegmar.fastcsv.writer.CsvWriter;
import jakarta.inject.Inject;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import java.io.IOException;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.xml.XmlProblem;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.datasets.DatasetResource;
import wirekettle.server.datasets.NewDatasets;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Problem;

/** Replies of the bench kept as datasets. */
@Path("/api/datasets")
public class ReplyDatasetResource {
    @Inject
    BenchMapper calls;

    @Inject
    ContractStore contracts;

    @Inject
    NewDatasets added;

    @Inject
    DatasetResource datasets;

    /** A reply to keep as a dataset. */
    @Schema(
            name = "NewDatasetFromReply",
            requiredProperties = {"call", "name"})
    public record NewFromReply(long call, String name) {}

    /** Adds what a call of the bench brought back as a dataset: a row for each of its repeated fields. */
    @POST
    @Needs(Right.BUILD)
    @Path("replies")
    public DatasetResource.Dataset reply(NewFromReply given) throws IOException {
        BenchMapper.Row call = calls.byId(given.call());
        Contract contract = call == null ? null : contracts.get(call.contractId());
        Offered offered = contract == null
                ? null
                : contract.operation(call.service(), call.port(), call.operation())
                        .orElse(null);
        if (offered == null
                || call.reply() == null
                || call.failure() != null
                || offered.operation().output() == null) {
            throw new Problem(422, "no-reply", "This call has no reply to keep as a dataset.");
        }
        List<String[]> rows;
        try {
            rows = ReplyRows.of(contract, offered, call.reply());
        } catch (XmlProblem e) {
            throw new Problem(422, "no-reply", "The reply cannot be read: " + e.getMessage());
        }
        return datasets.one(added.keep(given.name(), target -> {
                    try (CsvWriter csv = CsvWriter.builder().build(target)) {
                        rows.forEach(csv::writeRecord);
                    }
                })
                .id());
    }
}
