package wirekettle.server.contracts;

import jakarta.inject.Inject;
import jakarta.ws.rs.Consumes;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import jakarta.ws.rs.core.MediaType;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import org.jboss.resteasy.reactive.RestForm;
import org.jboss.resteasy.reactive.multipart.FileUpload;
import wirekettle.connect.DocumentFile;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.Operation;
import wirekettle.core.flow.FlowBundle;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.ExampleMessage;
import wirekettle.core.schema.SheetField;
import wirekettle.core.soap.Envelopes;
import wirekettle.core.value.Node;
import wirekettle.core.xml.Finding;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** Contracts: import, list, sheets, examples, documents. */
@Path("/api")
public class ContractResource {
    @Inject
    ContractMapper mapper;

    @Inject
    ContractStore store;

    @Inject
    ImportJobs jobs;

    @Inject
    CurrentPerson current;

    /** A contract in the list. */
    @Schema(
            name = "ContractSummary",
            requiredProperties = {"id", "name", "source", "importedAt", "services", "operations", "errors", "warnings"})
    public record Summary(
            long id,
            String name,
            String source,
            Instant importedAt,
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
                "address",
                "key",
                "style",
                "use",
                "action",
                "effect",
                "confirmed",
                "faults",
                "oneWay",
                "callable",
                "documentation"
            })
    public record OfferedOperation(
            String service,
            String port,
            String soapVersion,
            String address,
            String key,
            String style,
            String use,
            String action,
            String effect,
            boolean confirmed,
            List<String> faults,
            boolean oneWay,
            boolean callable,
            String documentation) {}

    /** A document of a contract. */
    @Schema(requiredProperties = {"name", "sha256", "bytes"})
    public record Document(String name, String sha256, int bytes) {}

    /** A whole contract. */
    @Schema(
            name = "Contract",
            requiredProperties = {"id", "name", "source", "importedAt", "operations", "documents", "findings", "types"})
    public record Whole(
            long id,
            String name,
            String source,
            Instant importedAt,
            List<OfferedOperation> operations,
            List<Document> documents,
            List<Finding> findings,
            int types) {}

    /** Where to import from: an address, or pasted text. */
    public record ImportFrom(String address, String text) {}

    /** An operation's effect, reads or changes. */
    @Schema(requiredProperties = {"operation", "effect"})
    public record EffectChange(String operation, String effect) {}

    /** An example message and why it may not be valid. */
    @Schema(requiredProperties = {"text", "problems"})
    public record Example(String text, List<String> problems) {}

    /** Returns contracts by name. */
    @GET
    @Path("contracts")
    public Page<Summary> list(
            @QueryParam("q") String q, @QueryParam("page") Integer page, @QueryParam("size") Integer size) {
        List<Summary> items = new ArrayList<>();
        for (ContractMapper.Row row : mapper.page(Page.like(q), Page.size(size), Page.offset(page, size))) {
            Contract contract = store.get(row.id());
            items.add(new Summary(
                    row.id(),
                    row.name(),
                    row.source(),
                    row.importedAt(),
                    contract.services().size(),
                    contract.operations().size(),
                    count(contract, Finding.Severity.ERROR),
                    count(contract, Finding.Severity.WARNING)));
        }
        return new Page<>(items, mapper.count(Page.like(q)));
    }

    private static long count(Contract contract, Finding.Severity severity) {
        return contract.findings().stream()
                .filter(f -> f.severity() == severity)
                .count();
    }

    /** Starts an import from an address or pasted text. */
    @POST
    @Path("imports")
    public ImportJobs.Job start(ImportFrom from) {
        if (from.address() != null && !from.address().isBlank()) {
            return jobs.address(from.address().strip());
        }
        if (from.text() == null || from.text().isBlank()) {
            throw new Problem(400, "nothing-given", "Give an address or paste the text of a WSDL.");
        }
        GivenDocuments given =
                new GivenDocuments().add("pasted.wsdl", from.text().getBytes(StandardCharsets.UTF_8));
        return jobs.given(given, "pasted text");
    }

    /** Starts an import from files or a zip. */
    @POST
    @Path("imports/files")
    @Consumes(MediaType.MULTIPART_FORM_DATA)
    public ImportJobs.Job files(@RestForm(FileUpload.ALL) List<FileUpload> files) throws IOException {
        GivenDocuments given = new GivenDocuments();
        List<String> names = new ArrayList<>();
        for (FileUpload file : files) {
            names.add(file.fileName());
            if (file.fileName().toLowerCase(java.util.Locale.ROOT).endsWith(".zip")) {
                FlowBundle.unzip(Files.newInputStream(file.uploadedFile())).forEach(given::add);
            } else {
                given.add(file.fileName(), DocumentFile.read(file.uploadedFile()));
            }
        }
        if (names.isEmpty()) {
            throw new Problem(400, "nothing-given", "Give at least one file.");
        }
        return jobs.given(given, String.join(", ", names));
    }

    /** Returns where an import stands. */
    @GET
    @Path("imports/{id}")
    public ImportJobs.Job progress(@PathParam("id") long id) {
        ImportJobs.Job job = jobs.get(id);
        if (job == null) {
            throw Problem.missing("import");
        }
        return job;
    }

    /** Asks an import to end. */
    @POST
    @Path("imports/{id}/cancel")
    public void cancel(@PathParam("id") long id) {
        jobs.cancel(id);
    }

    /** Returns a whole contract. */
    @GET
    @Path("contracts/{id}")
    public Whole whole(@PathParam("id") long id) {
        ContractMapper.Row row = row(id);
        Contract contract = store.get(id);
        Map<String, String> effects = new HashMap<>();
        mapper.effects(id).forEach(e -> effects.put(e.operation(), e.effect()));
        List<OfferedOperation> operations =
                contract.operations().stream().map(o -> offered(o, effects)).toList();
        List<Document> documents = contract.documents().stream()
                .map(d -> new Document(d.name(), d.hash(), d.bytes().length))
                .toList();
        return new Whole(
                id,
                row.name(),
                row.source(),
                row.importedAt(),
                operations,
                documents,
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
                offered.port().address(),
                operation.key(),
                operation.style(),
                operation.use(),
                operation.action(),
                confirmed == null ? proposed : confirmed,
                confirmed != null,
                operation.faults().stream().map(Operation.Fault::name).toList(),
                operation.output() == null,
                offered.port().soapVersion() != null,
                operation.documentation());
    }

    /** Confirms whether an operation reads or changes data. */
    @PUT
    @Path("contracts/{id}/effects")
    public Whole confirm(@PathParam("id") long id, EffectChange change) {
        row(id);
        if (!List.of("reads", "changes").contains(change.effect())) {
            throw new Problem(400, "bad-effect", "An operation either reads or changes.");
        }
        mapper.confirm(id, change.operation(), change.effect(), current.get().name());
        return whole(id);
    }

    private Message message(long id, String service, String port, String operation, String message) {
        Operation found = offered(id, service, port, operation).operation();
        if (message != null && message.startsWith("fault:")) {
            return found.faults().stream()
                    .filter(f -> f.name().equals(message.substring(6)))
                    .map(Operation.Fault::message)
                    .findFirst()
                    .orElseThrow(() -> Problem.missing("fault"));
        }
        Message chosen = "reply".equals(message) ? found.output() : found.input();
        return chosen == null ? Message.EMPTY : chosen;
    }

    private Offered offered(long id, String service, String port, String operation) {
        return store.get(id).operation(service, port, operation).orElseThrow(() -> Problem.missing("operation"));
    }

    /** Returns the sheet of a message: request, reply or fault:NAME; below one path when given. */
    @GET
    @Path("contracts/{id}/sheet")
    public List<SheetRow> sheet(
            @PathParam("id") long id,
            @QueryParam("service") String service,
            @QueryParam("port") String port,
            @QueryParam("operation") String operation,
            @QueryParam("message") String message,
            @QueryParam("path") String path) {
        Contract contract = store.get(id);
        Message chosen = message(id, service, port, operation, message);
        List<ElementDecl> elements = new ArrayList<>(chosen.headers());
        elements.addAll(chosen.body());
        List<SheetField> roots = elements.stream().map(contract::sheet).toList();
        if (path == null || path.isEmpty()) {
            return SheetRow.of(roots);
        }
        for (SheetField root : roots) {
            SheetField found = root.find(path);
            if (found != null) {
                return SheetRow.of(found.children());
            }
        }
        throw Problem.missing("field");
    }

    /** Returns an example of a message, minimal or complete. */
    @GET
    @Path("contracts/{id}/example")
    public Example example(
            @PathParam("id") long id,
            @QueryParam("service") String service,
            @QueryParam("port") String port,
            @QueryParam("operation") String operation,
            @QueryParam("message") String message,
            @QueryParam("complete") boolean complete) {
        Contract contract = store.get(id);
        Message chosen = message(id, service, port, operation, message);
        List<String> problems = new ArrayList<>();
        List<Node> headers = examples(contract, chosen.headers(), complete, problems);
        List<Node> body = examples(contract, chosen.body(), complete, problems);
        var version = offered(id, service, port, operation).port().soapVersion();
        return new Example(Envelopes.write(version, headers, body, true), problems);
    }

    private static List<Node> examples(
            Contract contract, List<ElementDecl> elements, boolean complete, List<String> problems) {
        List<Node> nodes = new ArrayList<>();
        for (ElementDecl element : elements) {
            ExampleMessage.Result result = ExampleMessage.of(element, contract.schemas(), complete);
            problems.addAll(result.problems());
            nodes.add(result.root());
        }
        return nodes;
    }

    /** Returns a document's text. */
    @GET
    @Path("contracts/{id}/documents/{position}")
    @jakarta.ws.rs.Produces(MediaType.TEXT_PLAIN)
    public String document(@PathParam("id") long id, @PathParam("position") int position) {
        List<wirekettle.core.contract.ContractDocument> documents =
                store.get(id).documents();
        if (position < 0 || position >= documents.size()) {
            throw Problem.missing("document");
        }
        return new String(documents.get(position).bytes(), StandardCharsets.UTF_8);
    }

    /** Removes a contract. */
    @DELETE
    @Path("contracts/{id}")
    public void remove(@PathParam("id") long id) {
        store.remove(id);
    }
}
