package wirekettle.core.flow.compile;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Expressions;
import wirekettle.core.fill.EmbeddedDocument;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.FilledBy;
import wirekettle.core.fill.MessageStyle;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.Paging;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.record.ReplyDocuments;
import wirekettle.core.request.FillPlan;
import wirekettle.core.schema.SheetField;

/**
 * A compiled Call stage.
 *
 * @param contract the contract called, null when it is not there
 * @param offered the operation called, null when it is not there
 * @param request the plan of the request, null when there is no operation
 * @param tests the conditions under which a reply counts as failed
 * @param documents the documents to open in replies
 * @param reply the sheet of the reply's body with the documents in its fields, null when there is none
 * @param pages how it asks for page after page, null for one call
 * @param undo what reverses it; without stages for nothing
 */
public record CompiledCall(
        Frame frame,
        Contract contract,
        Offered offered,
        FillPlan request,
        List<Test> tests,
        ReplyDocuments documents,
        SheetField reply,
        CompiledPaging pages,
        CompiledBlock undo)
        implements Compiled {
    /** A compiled condition. */
    public record Test(Delivery.Condition condition, Expressions.Compiled expression) {}

    static CompiledCall of(CallStage stage, Reach reach, Compilation at) {
        Contract contract = at.around().contracts().get(String.valueOf(stage.contract()));
        Offered offered = null;
        if (contract == null) {
            at.problem(stage.id(), "the contract “" + stage.contract() + "” is not there: import it");
        } else {
            offered = contract.operation(stage.service(), stage.port(), stage.operation())
                    .orElse(null);
            callable(stage, offered, at);
        }
        boolean paged = stage.pages() != null && stage.pages().by() != Paging.By.ONCE;
        Reach asking = paged ? reach.with(CompiledPaging.page(stage)) : reach;
        at.places().put(stage.id(), asking);
        at.checkWires(stage.id(), stage.fills(), asking);
        if (offered == null) {
            Reach after = at.making(stage, reach, "the reply", new Shape.Open());
            ReplyDocuments none = new ReplyDocuments(List.of());
            Frame frame = at.frame(stage, reach, after);
            return new CompiledCall(frame, contract, null, null, List.of(), none, null, null, undo(stage, after, at));
        }
        ReplyDocuments documents = documents(stage, at);
        String endpoint = stage.endpoint() == null ? "" : stage.endpoint();
        FillPlan request = FillPlan.compile(
                contract,
                offered.operation().input(),
                offered.port().soapVersion(),
                stage.fills(),
                asking.names(),
                at.around()
                        .context()
                        .with(at.around().styles().getOrDefault(endpoint, MessageStyle.PLAIN))
                        .with(stage.documents()));
        at.say(stage.id(), request.designProblems());
        SheetField reply = reply(stage, contract, offered);
        Shape shape = reply == null ? new Shape.Open() : new Shape.OfSheet(reply);
        Reach after = at.making(stage, reach, "the reply", shape);
        if (stage.delivery().memorySeconds() != null && !stage.delivery().reads()) {
            at.problem(stage.id(), "what changes data cannot be answered from memory");
        }
        Frame frame = at.frame(stage, reach, after, new Shape.OfFault(contract, offered.operation()));
        CompiledPaging pages = CompiledPaging.of(stage, reach, after, at);
        CompiledBlock undo = undo(stage, after, at);
        return new CompiledCall(
                frame, contract, offered, request, tests(stage, after, at), documents, reply, pages, undo);
    }

    private static CompiledBlock undo(CallStage stage, Reach after, Compilation at) {
        if (!stage.undo().isEmpty() && stage.delivery().reads()) {
            at.problem(stage.id(), "an operation that only reads has nothing to take back: remove its undo");
        }
        for (Stage each : stage.undo()) {
            reversing(each, stage, at);
        }
        return at.block(stage.undo(), stage.undo().isEmpty() ? after : at.failing(after));
    }

    private static void reversing(Stage stage, CallStage undone, Compilation at) {
        if (stage instanceof AnswerStage) {
            at.problem(stage.id(), "an Answer cannot stand where " + undone.operation() + " is taken back");
        }
        if (stage instanceof CallStage call && !call.undo().isEmpty()) {
            at.problem(stage.id(), "what takes something back cannot be taken back itself: remove its undo");
        }
        stage.inside().forEach(inner -> reversing(inner, undone, at));
    }

    private static void callable(CallStage stage, Offered offered, Compilation at) {
        if (offered == null) {
            at.problem(
                    stage.id(),
                    "the contract has no operation " + stage.operation() + " at port " + stage.port()
                            + ": pick another");
        } else if (!offered.port().callable() || !offered.operation().kind().callable()) {
            at.problem(
                    stage.id(),
                    "operation " + stage.operation() + " cannot be called: "
                            + (offered.port().callable()
                                    ? offered.operation().kind().label()
                                    : "its port speaks neither SOAP nor HTTP"));
        }
    }

    private static ReplyDocuments documents(CallStage stage, Compilation at) {
        List<EmbeddedDocument> sound = new ArrayList<>();
        for (EmbeddedDocument document : stage.documents()) {
            try {
                document.shape();
                sound.add(document);
            } catch (IllegalArgumentException e) {
                at.problems().add(new FlowProblem(stage.id(), document.path(), null, e.getMessage()));
            }
        }
        return new ReplyDocuments(sound);
    }

    private static List<Test> tests(CallStage stage, Reach after, Compilation at) {
        List<Test> tests = new ArrayList<>();
        for (Delivery.Condition condition : stage.delivery().failedWhen()) {
            try {
                tests.add(new Test(
                        condition, at.around().context().expressions().compile(condition.expression(), after.names())));
            } catch (ExpressionProblem e) {
                at.problems()
                        .add(new FlowProblem(
                                stage.id(), null, condition.id(), "counts as failed when: " + e.getMessage()));
            }
        }
        return List.copyOf(tests);
    }

    private static SheetField reply(CallStage stage, Contract contract, Offered offered) {
        return offered.operation().output() == null
                        || offered.operation().output().body().isEmpty()
                ? null
                : contract.sheet(
                        offered.operation().output().body().get(0),
                        EmbeddedDocument.shapes(stage.documents(), "reply"));
    }

    /** Returns the sheets of the request's parts with the documents in their fields. */
    public List<SheetField> requestSheets() {
        return offered == null
                ? List.of()
                : offered.operation().input().elements().stream()
                        .map(e -> contract.sheet(e, EmbeddedDocument.shapes(stage().documents(), "request")))
                        .toList();
    }

    /** Returns the names of the secrets that its fills send, and that their expressions ask for. */
    public Set<String> secrets() {
        Set<String> names = SecretUses.of(stage().fills());
        for (Fill fill : stage().fills()) {
            if (fill.by() instanceof FilledBy.Secret secret) {
                names.add(secret.name());
            }
        }
        return names;
    }

    /** Returns the names of the secrets with the keys its fills sign with. */
    public Set<String> keys() {
        Set<String> names = new LinkedHashSet<>();
        for (Fill fill : stage().fills()) {
            if (fill.by() instanceof FilledBy.Signature signature && signature.key() != null) {
                names.add(signature.key());
            }
        }
        return names;
    }

    @Override
    public boolean usable() {
        return request != null && (pages == null || pages.rows() != null);
    }

    @Override
    public CallStage stage() {
        return (CallStage) frame.stage();
    }
}
