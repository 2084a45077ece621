package wirekettle.server.contracts;

import jakarta.inject.Inject;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.Operation;
import wirekettle.core.fill.EmbeddedDocument;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.EmbeddedShape;
import wirekettle.core.schema.Picks;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.SheetPath;
import wirekettle.core.schema.Type;
import wirekettle.core.schema.TypeUse;
import wirekettle.core.soap.ExampleEnvelope;
import wirekettle.core.soap.MessageText;
import wirekettle.core.value.Name;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Problem;

/** Message sheets, what can be picked in them, and example messages. */
@Path("/api")
public class SheetResource {
    /** Above so many bytes of schemas an example is not checked: the JDK's validator would need too much memory. */
    private static final long MOST_BYTES_CHECKED = 6L << 20;

    @Inject
    ContractStore store;

    /** An example message and why it may not be valid. */
    @Schema(requiredProperties = {"text", "problems", "checked"})
    public record Example(String text, List<String> problems, boolean checked) {}

    /** What can be picked for a field; the path is the one the field has then. */
    @Schema(
            name = "PickChoice",
            requiredProperties = {"kind", "name", "namespace", "path", "documentation"})
    public record Choice(String kind, String name, String namespace, String path, String documentation) {}

    /** Returns the rows of a message's sheet that are in view. */
    @POST
    @Needs(Right.LOOK)
    @Path("contracts/{id}/sheet")
    public SheetView.Page sheet(@PathParam("id") long id, SheetView.Query query) {
        Contract contract = store.get(id);
        Message message = message(offered(id, query.service(), query.port(), query.operation()), query.message());
        String which = "reply".equals(query.message()) ? "reply" : "request";
        Map<String, EmbeddedShape> documents =
                query.documents() == null ? Map.of() : EmbeddedDocument.shapes(query.documents(), which);
        List<SheetField> roots = message.elements().stream()
                .map(element -> contract.sheet(element, documents))
                .toList();
        return SheetView.of(roots, query);
    }

    private static List<SheetField> sheets(Contract contract, Message message) {
        return message.elements().stream()
                .map((ElementDecl e) -> contract.sheet(e))
                .toList();
    }

    private Offered offered(long id, String service, String port, String operation) {
        return store.get(id).operation(service, port, operation).orElseThrow(() -> Problem.missing("operation"));
    }

    private static Message message(Offered offered, String message) {
        Operation operation = offered.operation();
        if (message != null && message.startsWith("fault:")) {
            return operation.faults().stream()
                    .filter(f -> f.name().equals(message.substring(6)))
                    .map(Operation.Fault::message)
                    .findFirst()
                    .orElseThrow(() -> Problem.missing("fault"));
        }
        if (message != null && message.startsWith("headerfault:")) {
            List<ElementDecl> elements = operation.input().headerFaults().stream()
                    .filter(e -> e.name().local().equals(message.substring(12)))
                    .toList();
            return new Message(message, List.of(), elements);
        }
        Message chosen = "reply".equals(message) ? operation.output() : operation.input();
        return chosen == null ? Message.EMPTY : chosen;
    }

    /** Returns the derived types and elements that can be picked for the field at a path. */
    @GET
    @Path("contracts/{id}/choices")
    public List<Choice> choices(
            @PathParam("id") long id,
            @QueryParam("service") String service,
            @QueryParam("port") String port,
            @QueryParam("operation") String operation,
            @QueryParam("message") String message,
            @QueryParam("path") String path) {
        Contract contract = store.get(id);
        for (SheetField root : sheets(contract, message(offered(id, service, port, operation), message))) {
            SheetField field = root.find(path);
            if (field != null) {
                return choices(contract, field, SheetPath.parse(path));
            }
        }
        throw Problem.missing("field");
    }

    private static List<Choice> choices(Contract contract, SheetField field, SheetPath path) {
        List<Choice> all = new ArrayList<>();
        String parent = path.parent().toString();
        int occurrence = path.last().occurrence();
        for (Name element : field.elementChoices()) {
            SheetPath.Step step = new SheetPath.Step(element, false, occurrence, null);
            String documentation = contract.schemas().element(element).documentation();
            all.add(new Choice("element", element.local(), element.namespace(), parent + step, documentation));
        }
        // an abstract element cannot stand there itself, whatever its type
        boolean element =
                field.picked() == null && all.stream().noneMatch(c -> c.path().equals(path.toString()));
        for (Name type : !all.isEmpty() && element ? List.<Name>of() : field.typeChoices()) {
            SheetPath.Step step = new SheetPath.Step(path.last().name(), false, occurrence, type);
            Type defined = contract.schemas().type(TypeUse.named(type));
            all.add(new Choice(
                    "type",
                    type.local(),
                    type.namespace(),
                    parent + step,
                    defined == null ? "" : defined.documentation()));
        }
        return all;
    }

    /** Returns an example of a message, minimal or complete, with what was picked. */
    @GET
    @Path("contracts/{id}/example")
    public Example example(
            @PathParam("id") long id,
            @QueryParam("service") String service,
            @QueryParam("port") String port,
            @QueryParam("operation") String operation,
            @QueryParam("message") String message,
            @QueryParam("complete") boolean complete,
            @QueryParam("pick") List<String> picks) {
        Contract contract = store.get(id);
        Offered offered = offered(id, service, port, operation);
        ExampleEnvelope made = ExampleEnvelope.of(
                contract, message(offered, message), complete, Picks.of(picks == null ? List.of() : picks));
        List<String> problems = new ArrayList<>(made.problems());
        long bytes =
                contract.documents().stream().mapToLong(d -> d.bytes().length).sum();
        boolean checked = bytes < MOST_BYTES_CHECKED;
        if (checked && problems.isEmpty()) {
            made.wrong(contract).forEach(p -> problems.add("not valid against the contract's own schemas: " + p));
        }
        boolean described = offered.operation().http() != null
                && offered.operation().http().described() != null
                && !made.body().isEmpty();
        Message its = message(offered, message);
        return new Example(
                described
                        ? MessageText.of(contract, offered, its, made.body().get(0))
                        : made.text(offered.port().soapVersion(), true),
                problems.stream().limit(20).toList(),
                checked);
    }
}
