package wirekettle.server.bench;

import com.fasterxml.jackson.core.type.TypeReference;
import jakarta.inject.Inject;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.Message;
import wirekettle.core.mapping.ByteOut;
import wirekettle.core.mapping.ConstantFills;
import wirekettle.core.mapping.Expressions;
import wirekettle.core.mapping.Fill;
import wirekettle.core.mapping.FillPlan;
import wirekettle.core.mapping.MappingProblem;
import wirekettle.core.mapping.Scope;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeComparison;
import wirekettle.core.value.NodeReader;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;
import wirekettle.server.contracts.ContractMapper;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.flows.Previewer;
import wirekettle.server.settings.Endpoints;
import wirekettle.server.settings.Hosts;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.web.Json;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** The bench: sheet and text of one request kept in step, calls and their history. */
@Path("/api")
public class BenchResource {
    @Inject
    ContractStore contracts;

    @Inject
    ContractMapper contractRows;

    @Inject
    BenchMapper mapper;

    @Inject
    BenchCalls calls;

    @Inject
    Endpoints endpoints;

    @Inject
    Hosts hosts;

    @Inject
    CurrentPerson current;

    private final Expressions expressions = new Expressions();

    /** One side of a request: the fills of its sheet, or its text. */
    @Schema(
            name = "BenchDraft",
            requiredProperties = {"contract", "port", "operation"})
    public record Draft(
            long contract,
            String service,
            String port,
            String operation,
            String endpoint,
            List<Fill> fills,
            String text) {}

    /** Something wrong with a field of the sheet. */
    @Schema(
            name = "BenchProblem",
            requiredProperties = {"field", "message"})
    public record FieldProblem(String field, String message) {}

    /**
     * Both sides of a request.
     *
     * @param fills the constants and picks of the sheet
     * @param text the envelope
     * @param fields what is wrong with fields
     * @param problems what is wrong with the text
     * @param line the line of the text that is no XML, 0 when it is
     */
    @Schema(
            name = "BenchRequest",
            requiredProperties = {"fills", "text", "fields", "problems", "line"})
    public record Both(List<Fill> fills, String text, List<FieldProblem> fields, List<String> problems, int line) {}

    /** A request to send. */
    @Schema(
            name = "BenchSend",
            requiredProperties = {"contract", "port", "operation", "endpoint", "environment", "text"})
    public record Send(
            long contract,
            String service,
            String port,
            String operation,
            String endpoint,
            String environment,
            String text,
            Boolean confirmed) {}

    /**
     * A call with what came back.
     *
     * @param state running, done, failed, cancelled
     * @param tidy the reply indented, when it is XML
     * @param values the reply's fields by path, when it is as the contract says
     * @param notes what in the reply has no row in its sheet
     */
    @Schema(
            name = "BenchCall",
            requiredProperties = {
                "id",
                "name",
                "state",
                "endpoint",
                "environment",
                "address",
                "request",
                "requestBytes",
                "status",
                "headers",
                "replyBytes",
                "millis",
                "calledBy",
                "calledAt",
                "values",
                "notes"
            })
    public record Call(
            long id,
            String name,
            String state,
            String endpoint,
            String environment,
            String address,
            String request,
            long requestBytes,
            int status,
            Map<String, String> headers,
            String reply,
            String tidy,
            long replyBytes,
            String failure,
            long millis,
            String calledBy,
            Instant calledAt,
            List<Fill> values,
            List<String> notes) {}

    /** A call's name. */
    @Schema(
            name = "BenchName",
            requiredProperties = {"name"})
    public record Name(String name) {}

    private Offered offered(long contract, String service, String port, String operation) {
        return contracts
                .get(contract)
                .operation(service, port, operation)
                .orElseThrow(() -> Problem.missing("operation"));
    }

    /** Returns the text of a sheet, with what is wrong with it. */
    @POST
    @Path("bench/text")
    public Both text(Draft draft) {
        Contract contract = contracts.get(draft.contract());
        Offered offered = offered(draft.contract(), draft.service(), draft.port(), draft.operation());
        List<Fill> fills = draft.fills() == null ? List.of() : draft.fills();
        FillPlan plan = FillPlan.compile(
                contract,
                offered.operation().input(),
                offered.port().soapVersion(),
                fills,
                null,
                expressions,
                endpoints.style(draft.endpoint()));
        ByteOut out = new ByteOut();
        List<FieldProblem> problems = new ArrayList<>();
        plan.designProblems().forEach(p -> problems.add(problem(p)));
        for (MappingProblem problem : plan.write(Scope.empty(), out)) {
            FieldProblem said = problem(problem);
            if (problems.stream().noneMatch(p -> p.field().equals(said.field()))) {
                problems.add(said);
            }
        }
        return new Both(fills, Previewer.tidy(out.bytes()), problems, List.of(), 0);
    }

    private static FieldProblem problem(MappingProblem problem) {
        return new FieldProblem(problem.field(), problem.message());
    }

    /** Returns the sheet of a text, with what of it has no place there. */
    @POST
    @Path("bench/fills")
    public Both fills(Draft draft) {
        Offered offered = offered(draft.contract(), draft.service(), draft.port(), draft.operation());
        String text = draft.text() == null ? "" : draft.text();
        try {
            ConstantFills.Read read = ConstantFills.of(
                    contracts.get(draft.contract()),
                    offered.operation().input(),
                    offered.port().soapVersion(),
                    text);
            Both sheet = text(new Draft(
                    draft.contract(),
                    draft.service(),
                    draft.port(),
                    draft.operation(),
                    draft.endpoint(),
                    read.fills(),
                    null));
            return new Both(read.fills(), text, sheet.fields(), read.problems(), 0);
        } catch (XmlProblem e) {
            String place = "line " + e.line() + " column " + e.column() + ": " + e.getMessage();
            return new Both(List.of(), text, List.of(), List.of(place), Math.max(1, e.line()));
        }
    }

    /** Sends a text as it is; an operation that changes data must be confirmed. */
    @POST
    @Path("bench/calls")
    public Call send(Send asked) {
        Offered offered = offered(asked.contract(), asked.service(), asked.port(), asked.operation());
        if (!offered.port().callable() || !offered.operation().kind().callable()) {
            throw new Problem(422, "not-callable", "This operation is shown, but cannot be called.");
        }
        String address = endpoints.address(asked.endpoint(), asked.environment());
        try {
            hosts.check(java.net.URI.create(address));
        } catch (wirekettle.connect.HostRefused e) {
            throw new Problem(422, "host-not-allowed", e.getMessage()).with("host", e.host());
        } catch (IllegalArgumentException e) {
            throw new Problem(422, "bad-address", "“" + address + "” is no address that can be called.");
        }
        String contract = contractRows.byId(asked.contract()).name();
        boolean reads = contracts.effect(contract, offered.operation()).equals("reads");
        if (!reads && !Boolean.TRUE.equals(asked.confirmed())) {
            throw new Problem(
                            409,
                            "confirm-call",
                            asked.operation() + " changes data. Really call “" + asked.endpoint() + "” in "
                                    + asked.environment() + "?")
                    .with("endpoint", asked.endpoint())
                    .with("environment", asked.environment());
        }
        long id = mapper.add(
                asked.contract(),
                offered.service().name(),
                offered.port().name(),
                offered.operation().key(),
                asked.endpoint(),
                asked.environment(),
                address,
                asked.text(),
                current.get().name());
        calls.send(id, offered, address, asked.text());
        return call(id);
    }

    /** Returns a call with what came back. */
    @GET
    @Path("bench/calls/{id}")
    public Call call(@PathParam("id") long id) {
        BenchMapper.Row row = mapper.byId(id);
        if (row == null) {
            throw Problem.missing("call");
        }
        return call(row, true);
    }

    private Call call(BenchMapper.Row row, boolean whole) {
        List<Fill> values = List.of();
        List<String> notes = List.of();
        String tidy = null;
        if (whole && row.reply() != null) {
            tidy = Previewer.tidy(row.reply().getBytes(StandardCharsets.UTF_8));
            Offered offered = contracts
                    .get(row.contractId())
                    .operation(row.service(), row.port(), row.operation())
                    .orElse(null);
            Message output = offered == null ? null : offered.operation().output();
            if (output != null && row.failure() == null) {
                try {
                    ConstantFills.Read read = ConstantFills.of(
                            contracts.get(row.contractId()),
                            output,
                            offered.port().soapVersion(),
                            row.reply());
                    values = read.fills();
                    notes = read.problems();
                } catch (XmlProblem e) {
                    notes = List.of("the reply cannot be shown as a sheet: " + e.getMessage());
                }
            }
        }
        return new Call(
                row.id(),
                row.name(),
                row.state(),
                row.endpoint(),
                row.environment(),
                row.address(),
                row.request(),
                row.request().getBytes(StandardCharsets.UTF_8).length,
                row.status(),
                Json.read(row.headers(), new TypeReference<Map<String, String>>() {}),
                whole ? row.reply() : null,
                tidy,
                row.replyBytes(),
                row.failure(),
                row.millis(),
                row.calledBy(),
                row.calledAt(),
                values,
                notes);
    }

    /** Returns the calls of an operation, the newest first. */
    @GET
    @Path("bench/calls")
    public Page<Call> history(
            @QueryParam("contract") long contract,
            @QueryParam("port") String port,
            @QueryParam("operation") String operation,
            @QueryParam("q") String q,
            @QueryParam("page") Integer page,
            @QueryParam("size") Integer size) {
        String like = Page.like(q);
        List<Call> items =
                mapper.page(contract, port, operation, like, Page.size(size), Page.offset(page, size)).stream()
                        .map(row -> call(row, false))
                        .toList();
        return new Page<>(items, mapper.count(contract, port, operation, like));
    }

    /**
     * What differs between two calls.
     *
     * @param request differences of what was sent
     * @param reply differences of what came back
     * @param problems why a side could not be compared
     */
    @Schema(
            name = "BenchComparison",
            requiredProperties = {"request", "reply", "problems"})
    public record Comparison(
            List<NodeComparison.Difference> request, List<NodeComparison.Difference> reply, List<String> problems) {}

    /** Compares two calls by structure; the content of ignored names does not matter. */
    @GET
    @Path("bench/comparison")
    public Comparison compare(
            @QueryParam("one") long one, @QueryParam("other") long other, @QueryParam("ignore") List<String> ignore) {
        BenchMapper.Row before = mapper.byId(one);
        BenchMapper.Row after = mapper.byId(other);
        if (before == null || after == null) {
            throw Problem.missing("call");
        }
        Set<String> ignored = ignore == null ? Set.of() : Set.copyOf(ignore);
        List<String> problems = new ArrayList<>();
        return new Comparison(
                differences("requests", before.request(), after.request(), ignored, problems),
                differences("replies", before.reply(), after.reply(), ignored, problems),
                problems);
    }

    private static List<NodeComparison.Difference> differences(
            String what, String before, String after, Set<String> ignored, List<String> problems) {
        if (before == null || after == null) {
            if (before != after) {
                problems.add("Only one of the calls has a reply.");
            }
            return List.of();
        }
        try {
            return NodeComparison.of(node(before), node(after), ignored);
        } catch (XmlProblem e) {
            problems.add("The " + what + " cannot be compared by structure: one of them is no XML (" + e.getMessage()
                    + ").");
            return List.of();
        }
    }

    private static Node node(String text) throws XmlProblem {
        return NodeReader.read(
                new ByteArrayInputStream(text.getBytes(StandardCharsets.UTF_8)), "message", XmlLimits.MESSAGES);
    }

    /** Asks a call that is going on to end. */
    @POST
    @Path("bench/calls/{id}/cancel")
    public void cancel(@PathParam("id") long id) {
        calls.cancel(id);
    }

    /** Gives a call a name, by which it is found again. */
    @PUT
    @Path("bench/calls/{id}")
    public Call name(@PathParam("id") long id, Name given) {
        if (given.name() == null || given.name().length() > 80) {
            throw new Problem(400, "bad-name", "A name has at most 80 characters.");
        }
        mapper.name(id, given.name().strip());
        return call(id);
    }

    /** Removes a call from the history. */
    @DELETE
    @Path("bench/calls/{id}")
    public void remove(@PathParam("id") long id) {
        mapper.remove(id);
    }
}
