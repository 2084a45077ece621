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
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import org.jboss.resteasy.reactive.RestForm;
import org.jboss.resteasy.reactive.multipart.FileUpload;
import wirekettle.connect.SheetFile;
import wirekettle.core.assist.sheet.MappingSheet;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Problem;

/** The mapping as an analyst keeps it: a sheet read into proposed fills, and fills written as a sheet. */
@Path("/api")
public class MappingSheetResource {
    @Inject
    FlowContext context;

    @Inject
    Previewer previewer;

    @Inject
    FlowResource flows;

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
        Place place = place(context.compile(draft), wanted);
        if (place == null) {
            throw new Problem(422, "not-ready", "Pick an operation first; the sheet fills its request.");
        }
        List<MappingSheet.Line> lines;
        try {
            lines = lines(SheetFile.read(file.uploadedFile()));
        } catch (IOException e) {
            throw new Problem(422, "not-readable", file.fileName() + ": " + e.getMessage() + ".");
        }
        List<String> sources = new ArrayList<>();
        previewer
                .preview(id, draft, place.id(), record, environment, null)
                .sources()
                .forEach(g -> g.fields().forEach(f -> sources.add(f.wire())));
        List<MappingSheet.Read> read = place.read(lines, sources);
        Map<String, Fill> known = new LinkedHashMap<>();
        place.fills().forEach(f -> known.put(f.target(), f));
        Map<String, Fill> merged = new LinkedHashMap<>(known);
        read.stream()
                .filter(r -> r.fill() != null)
                .forEach(r -> merged.put(r.fill().target(), r.fill()));
        FlowFile proposed = draft.filled(place.id(), List.copyOf(merged.values()));
        Preview proof = previewer.preview(-id, proposed, place.id(), record, environment, null);
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

    /** Where fills stand: a call's request, or what is made by fills at a stage or a rule of a lane. */
    private record Place(CompiledCall call, MadeRecord made) {
        String id() {
            return call == null ? made.made().id() : call.id();
        }

        List<Fill> fills() {
            return call == null ? made.made().fills() : call.stage().fills();
        }

        List<MappingSheet.Read> read(List<MappingSheet.Line> lines, List<String> sources) {
            return call == null
                    ? MappingSheet.ofRecord(lines, made.made().columns(), sources)
                    : MappingSheet.read(lines, call.requestSheets(), sources);
        }

        List<MappingSheet.Line> lines() {
            return call == null
                    ? MappingSheet.ofRecord(fills(), made.made().columns())
                    : MappingSheet.lines(fills(), call.requestSheets());
        }
    }

    /** Returns the place of an id, the nearest call where nothing is filled there; null when there is none. */
    private static Place place(CompiledFlow flow, String id) {
        MadeRecord made = id == null ? null : MadeRecord.of(flow, id);
        CompiledCall call = made == null ? FlowContext.call(flow, id) : null;
        return made != null
                ? new Place(null, made)
                : call == null || call.offered() == null ? null : new Place(call, null);
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

    /** Returns the mapping of a request or record as an analyst's sheet; form is csv or xlsx. */
    @GET
    @Path("flows/{id}/mapping-sheet")
    @Produces(MediaType.APPLICATION_OCTET_STREAM)
    public Response write(@PathParam("id") long id, @QueryParam("form") String form, @QueryParam("stage") String stage)
            throws IOException {
        FlowFile file = flows.file(id);
        Place place = place(context.compile(file), stage);
        List<List<String>> rows = new ArrayList<>();
        rows.add(MappingSheet.HEAD);
        if (place != null) {
            place.lines().forEach(l -> rows.add(List.of(l.target(), l.source(), l.rule(), l.remark())));
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
