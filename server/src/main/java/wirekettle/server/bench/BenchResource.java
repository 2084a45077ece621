package wirekettle.server.bench;

import com.fasterxml.jackson.core.type.TypeReference;
import jakarta.inject.Inject;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.Produces;
import jakarta.ws.rs.QueryParam;
import jakarta.ws.rs.core.Response;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.Message;
import wirekettle.core.fill.Fill;
import wirekettle.core.request.ConstantFills;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.MessageText;
import wirekettle.core.soap.Reply;
import wirekettle.core.xml.XmlProblem;
import wirekettle.server.contracts.ContractMapper;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.environments.Environments;
import wirekettle.server.hosts.Hosts;
import wirekettle.server.secrets.StoredSecrets;
import wirekettle.server.settings.Endpoints;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Json;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** The bench: calls made by hand and their history. */
@Path("/api")
public class BenchResource {
    @Inject
    Environments environments;

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
    StoredSecrets secrets;

    @Inject
    CurrentPerson current;

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
     * @param notes what in the reply has no row in its sheet, and what else is odd about it
     * @param sent what really went out, secrets masked
     * @param sentHeaders the HTTP headers that were set, secrets masked
     * @param cause why it failed, in two or three words
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
                "notes",
                "sentHeaders",
                "attachments"
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
            List<String> notes,
            String sent,
            Map<String, String> sentHeaders,
            Long firstByteMillis,
            Long nameMillis,
            Long connectMillis,
            Long tlsMillis,
            String cause,
            List<Attachment> attachments) {}

    /** What travelled beside the envelope of a reply. */
    @Schema(
            name = "BenchAttachment",
            requiredProperties = {"position", "id", "type", "bytes"})
    public record Attachment(int position, String id, String type, long bytes) {}

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

    /** Sends a text as it is; an operation that changes data must be confirmed. */
    @POST
    @Needs(Right.RUN)
    @Path("bench/calls")
    public Call send(Send asked) {
        current.mustRunIn(asked.environment());
        Offered offered = offered(asked.contract(), asked.service(), asked.port(), asked.operation());
        if (!offered.port().callable() || !offered.operation().kind().callable()) {
            throw new Problem(422, "not-callable", "This operation is shown, but cannot be called.");
        }
        String contract = contractRows.byId(asked.contract()).name();
        boolean its = contract.equals(asked.endpoint()) && asked.environment().equals(environments.first());
        if (its && !offered.port().address().isBlank()) {
            // a contract nobody set an address for is tried where it says it is
            endpoints.addressUnlessSet(
                    contract, asked.environment(), offered.port().address());
        }
        Endpoints.Route route = endpoints.route(asked.endpoint(), asked.environment());
        String address = route.reach().address();
        try {
            hosts.check(java.net.URI.create(address));
        } catch (wirekettle.connect.HostRefused e) {
            throw new Problem(422, "host-not-allowed", e.getMessage()).with("host", e.host());
        } catch (IllegalArgumentException e) {
            throw new Problem(422, "bad-address", "“" + address + "” is no address that can be called.");
        }
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
                secrets.masking().mask(asked.text()),
                current.get().name());
        calls.probe(id, route);
        calls.send(id, contracts.get(asked.contract()), offered, route, asked.text());
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

    private ConstantFills.Result read(BenchMapper.Row row, Offered offered, Message output) throws XmlProblem {
        Contract contract = contracts.get(row.contractId());
        // read as a run reads it: references inside it are resolved
        Reply reply = Caller.reread(offered.operation(), row.reply().getBytes(StandardCharsets.UTF_8));
        return ConstantFills.of(contract, output, reply);
    }

    private Call call(BenchMapper.Row row, boolean whole) {
        List<Fill> values = List.of();
        List<String> notes = List.of();
        String tidy = null;
        if (whole && row.reply() != null) {
            tidy = MessageText.tidy(row.reply().getBytes(StandardCharsets.UTF_8));
            Offered offered = contracts
                    .get(row.contractId())
                    .operation(row.service(), row.port(), row.operation())
                    .orElse(null);
            Message output = offered == null ? null : offered.operation().output();
            if (output != null && row.failure() == null) {
                try {
                    ConstantFills.Result read = read(row, offered, output);
                    values = new ArrayList<>(read.fills());
                    values.addAll(read.any());
                    notes = new ArrayList<>(read.problems());
                } catch (XmlProblem e) {
                    notes = List.of("the reply cannot be shown as a sheet: " + e.getMessage());
                }
            }
        }
        if (row.note() != null) {
            notes = new ArrayList<>(notes);
            notes.add(row.note());
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
                notes,
                whole ? row.sent() : null,
                Json.read(row.sentHeaders(), new TypeReference<Map<String, String>>() {}),
                row.firstByteMillis(),
                row.nameMillis(),
                row.connectMillis(),
                row.tlsMillis(),
                row.cause(),
                whole
                        ? mapper.attachments(row.id()).stream()
                                .map(a -> new Attachment(a.position(), a.contentId(), a.type(), a.bytes().length))
                                .toList()
                        : List.of());
    }

    /** Returns the content of what travelled beside the envelope of a reply. */
    @GET
    @Path("bench/calls/{id}/attachments/{position}")
    @Produces("*/*")
    public Response attachment(@PathParam("id") long id, @PathParam("position") int position) {
        BenchMapper.AttachmentRow found = mapper.attachments(id).stream()
                .filter(a -> a.position() == position)
                .findFirst()
                .orElseThrow(() -> Problem.missing("attachment"));
        String name = found.contentId().replaceAll("[^A-Za-z0-9._-]+", "-");
        // never shown in place: what a service sends must not run in the browser as ours
        return Response.ok(found.bytes(), "application/octet-stream")
                .header("Content-Disposition", "attachment; filename=\"" + (name.isEmpty() ? "part" : name) + "\"")
                .header("X-Content-Type-Options", "nosniff")
                .build();
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

    private void mine(long id) {
        BenchMapper.Row row = mapper.byId(id);
        if (row == null) {
            throw Problem.missing("call");
        }
        current.mustOwn(row.calledBy(), "This call");
    }

    /** Asks a call that is going on to end. */
    @POST
    @Needs(Right.RUN)
    @Path("bench/calls/{id}/cancel")
    public void cancel(@PathParam("id") long id) {
        mine(id);
        calls.cancel(id);
    }

    /** Gives a call a name, by which it is found again. */
    @PUT
    @Needs(Right.RUN)
    @Path("bench/calls/{id}")
    public Call name(@PathParam("id") long id, Name given) {
        if (given.name() == null || given.name().length() > 80) {
            throw new Problem(400, "bad-name", "A name has at most 80 characters.");
        }
        mine(id);
        mapper.name(id, given.name().strip());
        return call(id);
    }

    /** Removes a call from the history. */
    @DELETE
    @Needs(Right.RUN)
    @Path("bench/calls/{id}")
    public void remove(@PathParam("id") long id) {
        mine(id);
        mapper.remove(id);
    }
}
