package wirekettle.server.contracts;

import jakarta.inject.Inject;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import jakarta.ws.rs.core.MediaType;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.contract.Advice;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.ContractComparison;
import wirekettle.core.contract.ContractDocument;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.Operation;
import wirekettle.core.xml.Finding;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.uses.Uses;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** Contracts: list, whole, revisions, documents. */
@Path("/api")
public class ContractResource {
    @Inject
    ContractMapper mapper;

    @Inject
    ContractStore store;

    @Inject
    CurrentPerson current;

    @Inject
    Uses uses;

    /** A contract in the list. */
    @Schema(
            name = "ContractSummary",
            requiredProperties = {
                "id",
                "name",
                "source",
                "importedAt",
                "revision",
                "services",
                "operations",
                "errors",
                "warnings"
            })
    public record Summary(
            long id,
            String name,
            String source,
            Instant importedAt,
            int revision,
            int services,
            int operations,
            long errors,
            long warnings) {}

    /** One operation as offered at a port. */
    @Schema(
            requiredProperties = {
                "service",
                "port",
                "soapVersion",
                "protocol",
                "address",
                "key",
                "style",
                "use",
                "action",
                "effect",
                "confirmed",
                "kind",
                "faults",
                "headerFaults",
                "attachments",
                "oneWay",
                "callable",
                "documentation"
            })
    public record OfferedOperation(
            String service,
            String port,
            String soapVersion,
            String protocol,
            String address,
            String key,
            String style,
            String use,
            String action,
            String effect,
            boolean confirmed,
            String kind,
            List<String> faults,
            List<String> headerFaults,
            List<String> attachments,
            boolean oneWay,
            boolean callable,
            String documentation) {}

    /** What a port says of itself. */
    @Schema(
            name = "ContractPort",
            requiredProperties = {"service", "name", "protocol", "address", "documentation", "advice"})
    public record PortAbout(
            String service, String name, String protocol, String address, String documentation, List<Advice> advice) {}

    /** A document of a contract. */
    @Schema(requiredProperties = {"name", "sha256", "bytes"})
    public record Document(String name, String sha256, int bytes) {}

    /** A revision of a contract. */
    @Schema(
            name = "ContractRevision",
            requiredProperties = {"revision", "source", "madeAt", "madeBy"})
    public record Revision(int revision, String source, Instant madeAt, String madeBy) {}

    /** A whole contract. */
    @Schema(
            name = "Contract",
            requiredProperties = {
                "id",
                "name",
                "source",
                "importedAt",
                "revision",
                "operations",
                "ports",
                "documents",
                "findings",
                "types"
            })
    public record ContractView(
            long id,
            String name,
            String source,
            Instant importedAt,
            int revision,
            List<OfferedOperation> operations,
            List<PortAbout> ports,
            List<Document> documents,
            List<Finding> findings,
            int types) {}

    /** An operation's effect, reads or changes. */
    @Schema(requiredProperties = {"operation", "effect"})
    public record EffectChange(String operation, String effect) {}

    /** Returns contracts by name; sort is name or imported. */
    @GET
    @Path("contracts")
    public Page<Summary> list(
            @QueryParam("q") String q,
            @QueryParam("sort") String sort,
            @QueryParam("page") Integer page,
            @QueryParam("size") Integer size) {
        String order = "imported".equals(sort) ? "imported_at desc" : "lower(name)";
        List<Summary> items = new ArrayList<>();
        for (ContractMapper.Row row : mapper.page(Page.like(q), order, Page.size(size), Page.offset(page, size))) {
            ContractStore.Counts counts = store.counts(row.id(), row.revision());
            items.add(new Summary(
                    row.id(),
                    row.name(),
                    row.source(),
                    row.importedAt(),
                    row.revision(),
                    counts.services(),
                    counts.operations(),
                    counts.errors(),
                    counts.warnings()));
        }
        return new Page<>(items, mapper.count(Page.like(q)));
    }

    /** Returns a whole contract. */
    @GET
    @Path("contracts/{id}")
    public ContractView whole(@PathParam("id") long id) {
        ContractMapper.Row row = row(id);
        Contract contract = store.get(id, row.revision());
        Map<String, String> effects = new HashMap<>();
        mapper.effects(id).forEach(e -> effects.put(e.operation(), e.effect()));
        List<PortAbout> ports = new ArrayList<>();
        contract.services().forEach(s -> s.ports()
                .forEach(p -> ports.add(
                        new PortAbout(s.name(), p.name(), p.protocol(), p.address(), p.documentation(), p.advice()))));
        return new ContractView(
                id,
                row.name(),
                row.source(),
                row.importedAt(),
                row.revision(),
                contract.operations().stream().map(o -> offered(o, effects)).toList(),
                ports,
                contract.documents().stream()
                        .map(d -> new Document(d.name(), d.hash(), d.bytes().length))
                        .toList(),
                contract.findings(),
                contract.schemas().typeCount());
    }

    private ContractMapper.Row row(long id) {
        ContractMapper.Row row = mapper.byId(id);
        if (row == null) {
            throw Problem.missing("contract");
        }
        return row;
    }

    private static OfferedOperation offered(Offered offered, Map<String, String> effects) {
        Operation operation = offered.operation();
        String confirmed = effects.get(operation.key());
        String proposed = operation.proposedEffect().name().toLowerCase(java.util.Locale.ROOT);
        return new OfferedOperation(
                offered.service().name(),
                offered.port().name(),
                offered.port().soapVersion() == null
                        ? ""
                        : offered.port().soapVersion().label(),
                offered.port().protocol(),
                offered.port().address(),
                operation.key(),
                operation.style(),
                operation.use(),
                operation.action(),
                confirmed == null ? proposed : confirmed,
                confirmed != null,
                operation.kind().label(),
                operation.faults().stream().map(Operation.Fault::name).toList(),
                operation.input().headerFaults().stream()
                        .map(e -> e.name().local())
                        .toList(),
                operation.input().attachments().stream()
                        .map(Message.Attachment::part)
                        .toList(),
                operation.output() == null,
                offered.port().callable() && operation.kind().callable(),
                operation.documentation());
    }

    /** Confirms whether an operation reads or changes data. */
    @PUT
    @Needs(Right.BUILD)
    @Path("contracts/{id}/effects")
    public ContractView confirm(@PathParam("id") long id, EffectChange change) {
        row(id);
        if (!List.of("reads", "changes").contains(change.effect())) {
            throw new Problem(400, "bad-effect", "An operation either reads or changes.");
        }
        mapper.confirm(id, change.operation(), change.effect(), current.get().name());
        return whole(id);
    }

    /** Returns a contract's revisions, the newest first. */
    @GET
    @Path("contracts/{id}/revisions")
    public List<Revision> revisions(@PathParam("id") long id) {
        row(id);
        return mapper.revisions(id).stream()
                .map(r -> new Revision(r.revision(), r.source(), r.madeAt(), r.madeBy()))
                .toList();
    }

    /** Returns what differs between two revisions of a contract. */
    @GET
    @Path("contracts/{id}/changes")
    public List<ContractComparison.Change> changes(
            @PathParam("id") long id, @QueryParam("from") int from, @QueryParam("to") int to) {
        return ContractComparison.of(store.get(id, from), store.get(id, to));
    }

    /** Returns a document's text, as it was decoded. */
    @GET
    @Path("contracts/{id}/documents/{position}")
    @jakarta.ws.rs.Produces(MediaType.TEXT_PLAIN)
    public String document(@PathParam("id") long id, @PathParam("position") int position) {
        List<ContractDocument> documents = store.get(id).documents();
        if (position < 0 || position >= documents.size()) {
            throw Problem.missing("document");
        }
        return documents.get(position).text();
    }

    /** Removes a contract. */
    @DELETE
    @Needs(Right.BUILD)
    @Path("contracts/{id}")
    public void remove(@PathParam("id") long id) {
        ContractMapper.Row row = row(id);
        current.mustOwn(mapper.madeBy(id), "The contract “" + row.name() + "”");
        uses.mustBeFree(Uses.Kind.CONTRACT, row.name(), "The contract “" + row.name() + "”");
        store.remove(id);
    }
}
