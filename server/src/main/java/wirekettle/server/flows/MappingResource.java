package wirekettle.server.flows;

import jakarta.inject.Inject;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import java.io.IOException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.assist.ExpressionHelp;
import wirekettle.core.assist.ExpressionTrial;
import wirekettle.core.assist.ShapeGuess;
import wirekettle.core.assist.SubtreeDifferences;
import wirekettle.core.fill.EmbeddedDocument;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.SheetPath;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Node;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Problem;

/** What the fill sheet asks while it is filled: expressions tried, shapes learned, trees compared. */
@Path("/api")
public class MappingResource {
    @Inject
    FlowContext context;

    @Inject
    Previewer previewer;

    @Inject
    KeptReplyMapper kept;

    /**
     * An expression to try, and the target it is for.
     *
     * @param suppose stages supposed to fail, for what stands in their lanes; may be left out
     * @param items which items of the sample are shown; may be left out
     */
    @Schema(requiredProperties = {"file", "stage", "record", "environment", "expression"})
    public record Tried(
            FlowFile file,
            String stage,
            long record,
            String environment,
            String expression,
            String target,
            Map<String, FailureClass> suppose,
            Map<String, Integer> items) {}

    /** What became of an expression: its value for the sample, or what is wrong and where. */
    @Schema(
            name = "ExpressionTold",
            requiredProperties = {"hints"})
    public record ExpressionResult(
            String value, String problem, int line, int column, List<ExpressionHelp.Hint> hints) {}

    /** Tries an expression on the sample record. */
    @POST
    @Needs(Right.LOOK)
    @Path("flows/{id}/expression")
    public ExpressionResult tried(@PathParam("id") long id, Tried asked) throws IOException {
        CompiledFlow flow = context.compile(asked.file());
        SampleResource.SampleRequest sample = new SampleResource.SampleRequest(
                asked.file(),
                asked.stage(),
                asked.record(),
                asked.environment(),
                null,
                null,
                asked.suppose(),
                null,
                asked.items());
        Preview preview = previewer.preview(id, sample);
        Map<String, String> types = new HashMap<>();
        preview.sources().forEach(g -> g.fields().forEach(f -> types.put(f.wire(), f.type())));
        List<ExpressionHelp.Hint> hints = ExpressionHelp.uncast(asked.expression(), types);
        ExpressionTrial.Result result = ExpressionTrial.of(
                asked.expression(),
                asked.file().stage(asked.stage()).map(Stage::fills).orElse(List.of()),
                asked.target(),
                new TreeSet<>(flow.at(asked.stage()).names()),
                previewer.scope(id, flow, sample),
                context.expressions());
        return new ExpressionResult(result.value(), result.problem(), result.line(), result.column(), hints);
    }

    /** Returns the functions expressions offer, with what they give. */
    @GET
    @Path("expression-functions")
    public List<ExpressionHelp.Function> functions() {
        return ExpressionHelp.FUNCTIONS;
    }

    /**
     * A field whose document is to be learned: from kept replies, or from a sample or an XML Schema given.
     *
     * @param message request or reply
     * @param stage the call, null for the first
     */
    @Schema(requiredProperties = {"file", "environment", "message", "path"})
    public record LearnAsked(
            FlowFile file, String environment, String message, String path, String sample, String stage) {}

    /** A document as it was learned, and what is new in it. */
    @Schema(requiredProperties = {"document", "news", "from"})
    public record Learned(EmbeddedDocument document, List<String> news, int from) {}

    /** Learns the shape of the document inside a field; learning again widens what was known. */
    @POST
    @Needs(Right.LOOK)
    @Path("flows/{id}/learn")
    public Learned learn(@PathParam("id") long id, LearnAsked asked) {
        CompiledFlow flow = context.compile(asked.file());
        CompiledCall call = FlowContext.call(flow, asked.stage());
        if (call == null || call.offered() == null) {
            throw new Problem(422, "not-ready", "Pick an operation first.");
        }
        List<String> texts = new ArrayList<>();
        if (asked.sample() != null && !asked.sample().isBlank()) {
            texts.add(asked.sample());
        } else {
            List<SheetPath.Step> steps = SheetPath.parse(asked.path()).steps();
            kept.all(id, call.id(), asked.environment()).forEach(row -> {
                Node body = KeptReplies.bare(row, call);
                if (body != null) {
                    collect(body, steps, 0, texts);
                }
            });
        }
        if (texts.isEmpty()) {
            throw new Problem(
                    422,
                    "nothing-kept",
                    "No kept reply has a text in this field. Call the service for a sample first, or give an example.");
        }
        EmbeddedDocument before = call.stage().documents().stream()
                .filter(d -> d.path().equals(asked.path()) && d.message().equals(asked.message()))
                .findFirst()
                .orElse(null);
        try {
            ShapeGuess.Learned learned = ShapeGuess.learn(texts, asked.message(), asked.path(), before);
            return new Learned(learned.document(), learned.news(), texts.size());
        } catch (IllegalArgumentException e) {
            throw new Problem(422, "not-learned", e.getMessage());
        }
    }

    private static void collect(Node node, List<SheetPath.Step> steps, int at, List<String> into) {
        if (!node.name().equals(steps.get(at).name()) || into.size() >= 200) {
            return;
        }
        if (at == steps.size() - 1) {
            if (!node.text().isBlank()) {
                into.add(node.text());
            }
            return;
        }
        node.children().forEach(child -> collect(child, steps, at + 1, into));
    }

    /** Two subtrees to compare before one is wired to the other. */
    @Schema(requiredProperties = {"file", "stage", "record", "environment", "target", "from"})
    public record CompareAsked(
            FlowFile file, String stage, long record, String environment, String target, String from) {}

    /** Compares the fields below a target with those below a source. */
    @POST
    @Needs(Right.LOOK)
    @Path("flows/{id}/differences")
    public SubtreeDifferences differences(@PathParam("id") long id, CompareAsked asked) throws IOException {
        CompiledFlow flow = context.compile(asked.file());
        if (!(flow.stage(asked.stage()) instanceof CompiledCall call)) {
            throw Problem.missing("field");
        }
        SheetField target = call.requestSheets().stream()
                .map(root -> root.find(asked.target()))
                .filter(found -> found != null)
                .findFirst()
                .orElseThrow(() -> Problem.missing("field"));
        Preview preview = previewer.preview(id, asked.file(), asked.stage(), asked.record(), asked.environment(), null);
        Map<String, String> below = new LinkedHashMap<>();
        for (Preview.SourceGroup group : preview.sources()) {
            for (Preview.SourceField field : group.fields()) {
                if (field.wire().startsWith(asked.from() + "/")) {
                    below.put(field.wire().substring(asked.from().length() + 1), field.type());
                }
            }
        }
        return SubtreeDifferences.of(target, below);
    }
}
