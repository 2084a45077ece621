package wirekettle.server.flows;

import jakarta.inject.Inject;
import jakarta.transaction.Transactional;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.HeaderParam;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.Produces;
import jakarta.ws.rs.QueryParam;
import jakarta.ws.rs.core.Response;
import java.io.IOException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.fill.MessageStyle;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.DatasetSpec;
import wirekettle.core.flow.file.EndpointSpec;
import wirekettle.core.flow.file.FlowBundle;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.datasets.DatasetMapper;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.environments.Environments;
import wirekettle.server.ledger.RunMapper;
import wirekettle.server.settings.Endpoint;
import wirekettle.server.settings.Endpoints;
import wirekettle.server.settings.SettingsMapper;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.uses.Uses;
import wirekettle.server.web.Edits;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** Flows: list, save with revisions, bundle. */
@Path("/api")
public class FlowResource {
    @Inject
    FlowMapper mapper;

    @Inject
    RunMapper runs;

    @Inject
    FlowContext context;

    @Inject
    FlowRecords flowRecords;

    @Inject
    ContractStore contracts;

    @Inject
    DatasetMapper datasets;

    @Inject
    SettingsMapper settings;

    @Inject
    CurrentPerson current;

    @Inject
    Uses uses;

    @Inject
    AcceptedWires accepted;

    @Inject
    Endpoints endpoints;

    @Inject
    Environments environments;

    /** A flow in the list, with its last run. */
    @Schema(
            name = "FlowSummary",
            requiredProperties = {"id", "name", "revision", "changedAt", "changedBy"})
    public record Summary(
            long id, String name, int revision, Instant changedAt, String changedBy, RunMapper.Row lastRun) {}

    /** A flow with its file. */
    @Schema(
            name = "Flow",
            requiredProperties = {"id", "revision", "file", "problems", "records"})
    public record FlowView(
            long id, int revision, FlowFile file, List<FlowProblem> problems, long records, RunMapper.Row lastRun) {}

    /** What a new flow starts with; all but the name may be left out. */
    @Schema(requiredProperties = {"name"})
    public record NewFlow(
            String name,
            String dataset,
            String contract,
            String service,
            String port,
            String operation,
            FlowFile file) {}

    /** Returns flows by name; sort is name or changed. */
    @GET
    @Path("flows")
    public Page<Summary> list(
            @QueryParam("q") String q,
            @QueryParam("sort") String sort,
            @QueryParam("page") Integer page,
            @QueryParam("size") Integer size) {
        String order = "name".equals(sort) ? "lower(name)" : "changed_at desc";
        List<Summary> items = new ArrayList<>();
        for (FlowMapper.Row row : mapper.page(Page.like(q), order, Page.size(size), Page.offset(page, size))) {
            items.add(new Summary(
                    row.id(), row.name(), row.revision(), row.changedAt(), row.changedBy(), runs.last(row.id())));
        }
        return new Page<>(items, mapper.count(Page.like(q)));
    }

    /** Adds a flow: from a whole file, or its first stages from what is named. */
    @POST
    @Needs(Right.BUILD)
    @Path("flows")
    @Transactional
    public FlowView create(NewFlow given) {
        String name = Edits.name("A flow", given.file() != null ? given.file().name() : given.name());
        Edits.free("flow", name, mapper.byName(name));
        FlowFile file = given.file() != null
                ? given.file()
                : NewFlows.of(name, given, endpoints, contracts, environments.first());
        long id = mapper.add(name, current.get().name());
        mapper.keep(id, 1, file.text(), current.get().name());
        return whole(id);
    }

    FlowFile file(long id) {
        FlowMapper.Row row = mapper.byId(id);
        if (row == null) {
            throw Problem.missing("flow");
        }
        return FlowFile.parse(mapper.file(id, row.revision()));
    }

    /** Returns a flow as it is now. */
    @GET
    @Path("flows/{id}")
    public FlowView whole(@PathParam("id") long id) {
        FlowMapper.Row row = mapper.byId(id);
        if (row == null) {
            throw Problem.missing("flow");
        }
        FlowFile file = FlowFile.parse(mapper.file(id, row.revision()));
        CompiledFlow compiled = context.compile(file);
        return new FlowView(
                id,
                row.revision(),
                file,
                compiled.problems(),
                flowRecords.records(file.source().orElse(null)),
                runs.last(id));
    }

    /** Returns how far a flow has read the operation that gives its records, by environment. */
    @GET
    @Path("flows/{id}/watermarks")
    public List<RunMapper.Watermark> watermarks(@PathParam("id") long id) {
        return runs.watermarks(id);
    }

    /** A watermark; none lets the flow read from the beginning. */
    @Schema(requiredProperties = {"environment"})
    public record NewWatermark(String environment, String value) {}

    /** Says how far a flow has read its operation in an environment: its next run asks from there. */
    @PUT
    @Needs(Right.RUN)
    @Path("flows/{id}/watermarks")
    public List<RunMapper.Watermark> move(@PathParam("id") long id, NewWatermark given) {
        if (mapper.byId(id) == null) {
            throw Problem.missing("flow");
        }
        if (given == null || given.environment() == null) {
            throw new Problem(400, "no-environment", "Say in which environment.");
        }
        current.mustRunIn(given.environment());
        if (given.value() == null || given.value().isBlank()) {
            runs.forgetWatermark(id, given.environment());
        } else {
            runs.moveWatermark(id, given.environment(), given.value().strip());
        }
        return runs.watermarks(id);
    }

    /** Returns the file of a revision, from 1: every one that was ever saved is kept. */
    @GET
    @Path("flows/{id}/revisions/{revision}")
    public FlowFile revision(@PathParam("id") long id, @PathParam("revision") int revision) {
        String file = mapper.file(id, revision);
        if (file == null) {
            throw Problem.missing("revision");
        }
        return FlowFile.parse(file);
    }

    /** Saves a new revision; If-Match carries the revision it is based on, a newer one answers 409 with both. */
    @PUT
    @Needs(Right.BUILD)
    @Path("flows/{id}")
    @Transactional
    public FlowView save(@PathParam("id") long id, @HeaderParam("If-Match") String ifMatch, FlowFile file) {
        FlowMapper.Row row = mapper.byId(id);
        if (row == null) {
            throw Problem.missing("flow");
        }
        int based = Edits.based("revision", ifMatch);
        Edits.name("A flow", file.name());
        if (file.stages() == null || file.stages().isEmpty()) {
            throw new Problem(400, "no-stages", "A flow needs stages: send the whole flow file.");
        }
        if (mapper.advance(id, based, file.name(), current.get().name()) == 0) {
            throw Edits.meanwhile("revision", row.changedBy(), row.revision(), based)
                    .with("theirs", file(id))
                    .with("yours", file)
                    .with("revision", row.revision());
        }
        mapper.keep(id, based + 1, file.text(), current.get().name());
        accepted.keep(file);
        return whole(id);
    }

    /** Archives a flow whose runs' ledgers stay; removes one that never ran. */
    @DELETE
    @Needs(Right.BUILD)
    @Path("flows/{id}")
    @Transactional
    public void remove(@PathParam("id") long id) {
        FlowMapper.Row row = mapper.byId(id);
        if (row == null) {
            throw Problem.missing("flow");
        }
        current.mustOwn(mapper.madeBy(id), "The flow “" + row.name() + "”");
        uses.mustBeFree(Uses.Kind.FLOW, row.name(), "The flow “" + row.name() + "”");
        if (mapper.remove(id) == 0) {
            mapper.archive(id);
        }
    }

    private void keep(String dataset, Map<String, DatasetSpec> into) {
        DatasetMapper.Row row = dataset == null ? null : datasets.byName(dataset);
        if (row != null) {
            into.put(dataset, DatasetStore.spec(row));
        }
    }

    private EndpointSpec endpoint(String name, String environment) {
        Endpoint endpoint = settings.endpoint(name);
        if (endpoint == null) {
            return new EndpointSpec(name, "", null, null);
        }
        EndpointSettings its = endpoint.way(environment).settings();
        return new EndpointSpec(
                name,
                endpoint.address(environment),
                endpoint.style().equals(MessageStyle.PLAIN) ? null : endpoint.style(),
                its.equals(EndpointSettings.PLAIN) ? null : its);
    }

    /** The values a flow uses, as they are in an environment; empty where it has none of the name. */
    private Map<String, String> valuesOf(FlowFile file, String environment) {
        Map<String, String> known = context.values(environment);
        Map<String, String> used = new HashMap<>();
        file.values().forEach(name -> used.put(name, known.getOrDefault(name, "")));
        return used;
    }

    /** Returns the flow as a bundle that runs from a shell. */
    @GET
    @Path("flows/{id}/bundle")
    @Produces("application/zip")
    public Response bundle(@PathParam("id") long id, @QueryParam("environment") String environment) throws IOException {
        FlowFile file = file(id);
        Map<String, DatasetSpec> specs = new HashMap<>();
        Map<String, EndpointSpec> endpoints = new HashMap<>();
        for (Stage stage : file.all()) {
            keep(stage.dataset(), specs);
            if (stage instanceof CallStage call && call.endpoint() != null) {
                endpoints.put(call.endpoint(), endpoint(call.endpoint(), environment));
            }
        }
        file.folders().forEach(name -> keep(name, specs));
        byte[] zip = new FlowBundle(
                        file,
                        context.contractsOf(file),
                        specs,
                        endpoints,
                        context.mapping(file).tables(),
                        context.mapping(file).series(),
                        valuesOf(file, environment))
                .zip();
        String name = file.name().replaceAll("[^A-Za-z0-9]+", "-").toLowerCase(java.util.Locale.ROOT);
        return Response.ok(zip)
                .header("Content-Disposition", "attachment; filename=\"" + name + ".zip\"")
                .build();
    }
}
