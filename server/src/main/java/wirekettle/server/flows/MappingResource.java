package wirekettle.server.flows;

import jakarta.inject.Inject;
import jakarta.ws.rs.Consumes;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.Produces;
import jakarta.ws.rs.QueryParam;
import jakarta.ws.rs.core.MediaType;
import jakarta.ws.rs.core.Response;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.file.Files;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeSet;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import org.jboss.resteasy.reactive.RestForm;
import org.jboss.resteasy.reactive.multipart.FileUpload;
import wirekettle.connect.SheetFile;
import wirekettle.core.assist.ExpressionHelp;
import wirekettle.core.assist.ExpressionTrial;
import wirekettle.core.assist.ShapeGuess;
import wirekettle.core.assist.SubtreeDifferences;
import wirekettle.core.assist.sheet.MappingSheet;
import wirekettle.core.fill.EmbeddedDocument;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.SheetPath;
import wirekettle.core.value.Node;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Problem;

/** What the fill sheet asks while it is filled: expressions tried, shapes learned, the analyst's sheet in and out. */
@Path("/api")
public class MappingResource {
    @Inject
    FlowContext context;

    @Inject
    Previewer previewer;

    @Inject
    KeptReplyMapper kept;

    @Inject
    FlowResource flows;

    /** An expression to try, and the target it is for. */
    @Schema(requiredProperties = {"file", "stage", "record", "environment", "expression"})
    public record Tried(
            FlowFile file, String stage, long record, String environment, String expression, String target) {}

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
        Preview preview = previewer.preview(id, asked.file(), asked.stage(), asked.record(), asked.environment(), null);
        Map<String, String> types = new HashMap<>();
        preview.sources().forEach(g -> g.fields().forEach(f -> types.put(f.wire(), f.type())));
        List<ExpressionHelp.Hint> hints = ExpressionHelp.uncast(asked.expression(), types);
        ExpressionTrial.Result result = ExpressionTrial.of(
                asked.expression(),
                asked.file().stage(asked.stage()).map(Stage::fills).orElse(List.of()),
                asked.target(),
                new TreeSet<>(flow.at(asked.stage()).names()),
                previewer.scope(id, flow, asked.stage(), asked.record(), asked.environment()),
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

    /**
     * A line of an analyst's sheet with the fill it proposes, its value for the sample and how it fares.
     *
     * @param same whether the flow has this very fill already
     */
    @Schema(
            name = "SheetProposal",
            requiredProperties = {"number", "line", "same"})
    public record Proposal(
            int number, MappingSheet.Line line, Fill fill, String problem, Preview.FieldValue proof, boolean same) {}

    /** Reads an analyst's mapping sheet into proposed fills, each with its proof over the samples. */
    @POST
    @Needs(Right.BUILD)
    @Path("flows/{id}/mapping-sheet")
    @Consumes(MediaType.MULTIPART_FORM_DATA)
    public List<Proposal> read(
            @PathParam("id") long id,
            @RestForm("file") FileUpload file,
            @RestForm("record") long record,
            @RestForm("environment") String environment,
            @RestForm("stage") String wanted)
            throws IOException {
        if (file == null || Files.size(file.uploadedFile()) == 0) {
            throw new Problem(422, "empty-file", "The file is empty; there is nothing to read.");
        }
        FlowFile draft = flows.file(id);
        CompiledFlow flow = context.compile(draft);
        CompiledCall call = FlowContext.call(flow, wanted);
        if (call == null || call.offered() == null) {
            throw new Problem(422, "not-ready", "Pick an operation first; the sheet fills its request.");
        }
        List<MappingSheet.Line> lines;
        try {
            lines = lines(SheetFile.read(file.uploadedFile()));
        } catch (IOException e) {
            throw new Problem(422, "not-readable", file.fileName() + ": " + e.getMessage() + ".");
        }
        String stage = call.id();
        List<String> sources = new ArrayList<>();
        previewer.preview(id, draft, stage, record, environment, null).sources().forEach(g -> g.fields()
                .forEach(f -> sources.add(f.wire())));
        List<MappingSheet.Read> read = MappingSheet.read(lines, call.requestSheets(), sources);
        Map<String, Fill> known = new LinkedHashMap<>();
        call.stage().fills().forEach(f -> known.put(f.target(), f));
        Map<String, Fill> merged = new LinkedHashMap<>(known);
        read.stream()
                .filter(r -> r.fill() != null)
                .forEach(r -> merged.put(r.fill().target(), r.fill()));
        FlowFile proposed = draft.with(call.stage().filled(List.copyOf(merged.values())));
        Preview proof = previewer.preview(-id, proposed, stage, record, environment, null);
        return read.stream()
                .map(r -> new Proposal(
                        r.number(),
                        r.line(),
                        r.fill(),
                        r.problem(),
                        r.fill() == null ? null : proof.fields().get(r.fill().target()),
                        r.fill() != null && same(r.fill(), known.get(r.fill().target()))))
                .toList();
    }

    private static boolean same(Fill fill, Fill known) {
        return known != null && known.renamed("").equals(fill.renamed(""));
    }

    /** Columns are found by their names, else taken in the order they are written in. */
    private static List<MappingSheet.Line> lines(List<List<String>> rows) {
        int[] at = {0, 1, 2, 3};
        int first = 0;
        if (!rows.isEmpty()) {
            List<String> names = rows.get(0).stream()
                    .map(n -> n.strip().toLowerCase(Locale.ROOT))
                    .toList();
            String[] wanted = {"target", "source", "rule", "remark"};
            int[] found = new int[4];
            for (int i = 0; i < wanted.length; i++) {
                found[i] = -1;
                for (int c = 0; c < names.size(); c++) {
                    found[i] = found[i] < 0 && names.get(c).startsWith(wanted[i]) ? c : found[i];
                }
            }
            if (found[0] >= 0 && found[1] >= 0) {
                at = found;
                first = 1;
            }
        }
        List<MappingSheet.Line> lines = new ArrayList<>();
        for (List<String> row : rows.subList(first, rows.size())) {
            if (row.stream().anyMatch(cell -> !cell.isBlank())) {
                lines.add(
                        new MappingSheet.Line(cell(row, at[0]), cell(row, at[1]), cell(row, at[2]), cell(row, at[3])));
            }
        }
        return lines;
    }

    private static String cell(List<String> row, int at) {
        return at < 0 || at >= row.size() ? "" : row.get(at);
    }

    /** Returns the mapping of a flow's request as an analyst's sheet; form is csv or xlsx. */
    @GET
    @Path("flows/{id}/mapping-sheet")
    @Produces(MediaType.APPLICATION_OCTET_STREAM)
    public Response write(@PathParam("id") long id, @QueryParam("form") String form, @QueryParam("stage") String stage)
            throws IOException {
        FlowFile file = flows.file(id);
        CompiledFlow flow = context.compile(file);
        List<List<String>> rows = new ArrayList<>();
        rows.add(MappingSheet.HEAD);
        CompiledCall call = FlowContext.call(flow, stage);
        if (call != null) {
            MappingSheet.lines(call.stage().fills(), call.requestSheets())
                    .forEach(l -> rows.add(List.of(l.target(), l.source(), l.rule(), l.remark())));
        }
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        boolean workbook = "xlsx".equals(form);
        if (workbook) {
            SheetFile.workbook(rows, "Mapping", out);
        } else {
            SheetFile.csv(rows, out);
        }
        String name = file.name().replaceAll("[^A-Za-z0-9]+", "-").toLowerCase(Locale.ROOT);
        return Response.ok(out.toByteArray())
                .header(
                        "Content-Disposition",
                        "attachment; filename=\"" + name + "-mapping." + (workbook ? "xlsx" : "csv") + "\"")
                .build();
    }
}
