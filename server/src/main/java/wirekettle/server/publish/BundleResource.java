package wirekettle.server.publish;

import jakarta.inject.Inject;
import jakarta.transaction.Transactional;
import jakarta.ws.rs.Consumes;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.core.MediaType;
import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import org.jboss.resteasy.reactive.RestForm;
import org.jboss.resteasy.reactive.multipart.FileUpload;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractDocument;
import wirekettle.core.flow.file.DatasetSpec;
import wirekettle.core.flow.file.FlowBundle;
import wirekettle.core.flow.file.FlowDifference;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.value.CodeTable;
import wirekettle.core.value.Series;
import wirekettle.server.codes.CodeTableMapper;
import wirekettle.server.contracts.ContractMapper;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.datasets.DatasetMapper;
import wirekettle.server.datasets.DatasetResource;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.datasets.NewDatasets;
import wirekettle.server.environments.Environments;
import wirekettle.server.flows.FlowMapper;
import wirekettle.server.series.SeriesMapper;
import wirekettle.server.settings.Endpoints;
import wirekettle.server.settings.SettingsMapper;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Json;
import wirekettle.server.web.Problem;

/** Takes flow bundles of other installations in, after showing what differs from what is here. */
@Path("/api")
public class BundleResource {
    private static final String HERE = "here";
    private static final String OTHER = "differs";

    @Inject
    FlowMapper flows;

    @Inject
    ContractStore contracts;

    @Inject
    ContractMapper contractRows;

    @Inject
    DatasetMapper datasets;

    @Inject
    NewDatasets newDatasets;

    @Inject
    CodeTableMapper codes;

    @Inject
    SeriesMapper series;

    @Inject
    SettingsMapper settings;

    @Inject
    Endpoints endpoints;

    @Inject
    Environments environments;

    @Inject
    CurrentPerson current;

    /**
     * What a bundle would change here.
     *
     * @param name the flow's name
     * @param flowId the flow of that name here, null where there is none
     * @param revision its newest revision
     * @param stages differences of the flow; all of it is new where it is not here
     * @param uses what it uses that is not here, or differs: before is what is here, after what becomes of it
     */
    @Schema(
            name = "BundleComparison",
            requiredProperties = {"name", "stages", "uses"})
    public record Comparison(
            String name,
            Long flowId,
            Integer revision,
            List<FlowDifference> stages,
            List<PublishResource.UseChange> uses) {}

    /** What a bundle became. */
    @Schema(
            name = "BundleTaken",
            requiredProperties = {"flowId", "revision"})
    public record Taken(long flowId, int revision) {}

    private static FlowBundle bundle(FileUpload file) {
        if (file == null) {
            throw new Problem(400, "no-file", "Give the zip of a flow bundle.");
        }
        try {
            return FlowBundle.read(file.uploadedFile());
        } catch (IOException e) {
            throw new Problem(422, "bad-bundle", file.fileName() + ": " + e.getMessage() + ".");
        }
    }

    /** Shows what taking a bundle in would change. */
    @POST
    @Needs(Right.LOOK)
    @Path("bundles/comparison")
    @Consumes(MediaType.MULTIPART_FORM_DATA)
    public Comparison compare(@RestForm("file") FileUpload file) {
        FlowBundle bundle = bundle(file);
        FlowMapper.Row row = flows.byName(bundle.flow().name());
        FlowFile before = row == null
                ? new FlowFile(FlowFile.FORMAT, bundle.flow().name(), List.of(), null)
                : FlowFile.parse(flows.file(row.id(), row.revision()));
        List<PublishResource.UseChange> uses = new ArrayList<>();
        bundle.contracts().forEach((name, contract) -> {
            String here = contractRows.byName(name) == null
                    ? null
                    : contracts.hash(name).equals(hash(contract)) ? HERE : OTHER;
            use("contract", name, here, here == null ? "is added" : "becomes its next revision", uses);
        });
        bundle.datasets()
                .keySet()
                .forEach(name -> use(
                        "dataset", name, datasets.byName(name) == null ? null : HERE, "is added, without rows", uses));
        bundle.endpoints()
                .keySet()
                .forEach(name -> use(
                        "endpoint",
                        name,
                        settings.endpoint(name) == null ? null : HERE,
                        "is added, with its address in " + environments.first(),
                        uses));
        bundle.codeTables()
                .keySet()
                .forEach(name -> use("code table", name, codes.byName(name) == null ? null : HERE, "is added", uses));
        bundle.series()
                .keySet()
                .forEach(name -> use("series", name, series.byName(name) == null ? null : HERE, "is added", uses));
        for (String name : bundle.values().keySet()) {
            boolean known = environments.valueNames().contains(name);
            use("value", name, known ? HERE : null, "has to be set in Settings, Environments", uses);
        }
        return new Comparison(
                bundle.flow().name(),
                row == null ? null : row.id(),
                row == null ? null : row.revision(),
                FlowDifference.between(before, bundle.flow()),
                uses);
    }

    private static void use(
            String kind, String name, String here, String becomes, List<PublishResource.UseChange> into) {
        if (!HERE.equals(here)) {
            into.add(new PublishResource.UseChange(kind, name, here == null ? "not here" : here, becomes));
        }
    }

    private static String hash(Contract contract) {
        return contract.documents().stream()
                .map(ContractDocument::hash)
                .map(sha256 -> sha256.substring(0, 12))
                .collect(Collectors.joining("+"));
    }

    /** Takes a bundle in: what is not here is added, a contract that differs and the flow become next revisions. */
    @POST
    @Needs(Right.BUILD)
    @Path("bundles")
    @Consumes(MediaType.MULTIPART_FORM_DATA)
    @Transactional
    public Taken take(@RestForm("file") FileUpload file) {
        FlowBundle bundle = bundle(file);
        for (Map.Entry<String, Contract> each : bundle.contracts().entrySet()) {
            contract(each.getKey(), each.getValue());
        }
        bundle.datasets().values().forEach(this::dataset);
        bundle.endpoints().forEach((name, spec) -> {
            if (settings.endpoint(name) == null) {
                endpoints.addressUnlessSet(name, environments.first(), spec.address());
            }
        });
        bundle.codeTables().values().forEach(this::codeTable);
        bundle.series().values().forEach(this::series);
        String name = bundle.flow().name();
        FlowMapper.Row row = flows.byName(name);
        long id = row == null ? flows.add(name, current.name()) : row.id();
        int revision = row == null ? 1 : row.revision() + 1;
        if (row != null && flows.advance(id, row.revision(), name, current.name()) == 0) {
            throw new Problem(409, "changed-meanwhile", "Somebody saved the flow meanwhile: compare again.");
        }
        flows.keep(id, revision, bundle.flow().text(), current.name());
        return new Taken(id, revision);
    }

    private void contract(String name, Contract contract) {
        ContractMapper.Row row = contractRows.byName(name);
        if (row == null) {
            contracts.add(contract, name, "a flow bundle", current.name());
        } else if (!contracts.hash(name).equals(hash(contract))) {
            contracts.revise(row.id(), row.revision(), contract, "a flow bundle", current.name());
        }
    }

    private void dataset(DatasetSpec spec) {
        if (datasets.byName(spec.name()) != null) {
            return;
        }
        long id = newDatasets.add(new DatasetResource.NewDataset(
                spec.name(), spec.kind(), spec.table(), spec.query(), spec.csv(), spec.queue()));
        DatasetSpec made = DatasetStore.spec(datasets.byId(id));
        datasets.spec(
                id,
                Json.write(new DatasetSpec(
                        made.name(),
                        made.kind(),
                        made.file(),
                        spec.csv() == null ? made.csv() : spec.csv(),
                        made.connection(),
                        made.table(),
                        made.query(),
                        spec.layout(),
                        made.queue())));
    }

    private void codeTable(CodeTable table) {
        if (codes.byName(table.name()) == null) {
            codes.add(table.name(), table.otherwise(), Json.write(table.entries()), current.name());
        }
    }

    private void series(Series its) {
        if (series.byName(its.name()) == null) {
            series.add(its.name(), its.gapless(), its.start(), its.pattern(), its.yearly(), its.zone(), current.name());
        }
    }
}
