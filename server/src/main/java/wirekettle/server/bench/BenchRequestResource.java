package wirekettle.server.bench;

import static java.nio.charset.StandardCharsets.UTF_8;

import jakarta.inject.Inject;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import java.util.ArrayList;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.request.ByteOut;
import wirekettle.core.request.ConstantFills;
import wirekettle.core.request.FillPlan;
import wirekettle.core.soap.HttpText;
import wirekettle.core.soap.MessageText;
import wirekettle.core.xml.XmlProblem;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.settings.Endpoints;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Problem;

/** The sheet and the text of one request, kept in step. */
@Path("/api")
public class BenchRequestResource {
    @Inject
    ContractStore contracts;

    @Inject
    Endpoints endpoints;

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

    private Offered offered(long contract, String service, String port, String operation) {
        return contracts
                .get(contract)
                .operation(service, port, operation)
                .orElseThrow(() -> Problem.missing("operation"));
    }

    /** Returns the text of a sheet, with what is wrong with it. */
    @POST
    @Needs(Right.LOOK)
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
                MappingContext.of(expressions).with(endpoints.style(draft.endpoint())));
        ByteOut out = new ByteOut();
        List<FieldProblem> problems = new ArrayList<>();
        plan.designProblems().forEach(p -> problems.add(problem(p)));
        for (MappingProblem problem : plan.write(Scope.empty(), out)) {
            FieldProblem said = problem(problem);
            if (problems.stream().noneMatch(p -> p.field().equals(said.field()))) {
                problems.add(said);
            }
        }
        return new Both(fills, text(contract, offered, out.bytes()), problems, List.of(), 0);
    }

    private static String text(Contract contract, Offered offered, byte[] message) {
        boolean described =
                offered.operation().http() != null && offered.operation().http().described() != null;
        try {
            return described
                    ? HttpText.of(contract, offered, MessageText.node(new String(message, UTF_8)), true)
                            .text()
                    : MessageText.tidy(message);
        } catch (XmlProblem e) {
            return MessageText.tidy(message);
        }
    }

    private static ConstantFills.Result read(Contract contract, Offered offered, String text) throws XmlProblem {
        return HttpText.is(offered, text)
                ? ConstantFills.of(
                        contract,
                        offered.operation().input(),
                        HttpText.parse(text).message(contract, offered))
                : ConstantFills.of(
                        contract, offered.operation().input(), offered.port().soapVersion(), text);
    }

    private static FieldProblem problem(MappingProblem problem) {
        return new FieldProblem(problem.field(), problem.message());
    }

    /** Returns the sheet of a text, with what of it has no place there. */
    @POST
    @Needs(Right.LOOK)
    @Path("bench/fills")
    public Both fills(Draft draft) {
        Offered offered = offered(draft.contract(), draft.service(), draft.port(), draft.operation());
        String text = draft.text() == null ? "" : draft.text();
        try {
            ConstantFills.Result read = read(contracts.get(draft.contract()), offered, text);
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
}
