package wirekettle.server.runs;

import com.fasterxml.jackson.core.type.TypeReference;
import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.NamedCsvRecord;
import jakarta.inject.Inject;
import jakarta.ws.rs.Consumes;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.HeaderParam;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import jakarta.ws.rs.core.MediaType;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import org.jboss.resteasy.reactive.RestForm;
import org.jboss.resteasy.reactive.multipart.FileUpload;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.value.FieldEdits;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;
import wirekettle.server.flows.FlowMapper;
import wirekettle.server.flows.RecordCheck;
import wirekettle.server.ledger.CorrectionMapper;
import wirekettle.server.ledger.RunMapper;
import wirekettle.server.publish.Publication;
import wirekettle.server.publish.Publications;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Edits;
import wirekettle.server.web.Json;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** Records of a run that are not done, as a grid of their input: corrected one by one, many at once, or by a file. */
@Path("/api")
public class CorrectionResource {
    private static final int STEP = 500;
    private static final int MOST_TEXT = 100_000;
    private static final String ORDINAL = "_record";

    @Inject
    CorrectionMapper mapper;

    @Inject
    RunMapper runs;

    @Inject
    FlowMapper flows;

    @Inject
    Publications publications;

    @Inject
    RecordCheck check;

    @Inject
    CurrentPerson current;

    /**
     * A record that can be sent again.
     *
     * @param fields its fields as they came in, by their paths
     * @param edits what was changed of them
     * @param blamed the field to blame, null where none is known
     * @param version counts its changes, 0 for none
     * @param verdict what the flow says of it now, null where nobody asked
     */
    @Schema(
            name = "Correction",
            requiredProperties = {"ordinal", "ended", "fields", "edits", "version"})
    public record View(
            Long ordinal,
            String key,
            String ended,
            String cause,
            String message,
            String stage,
            Map<String, String> fields,
            Map<String, String> edits,
            String blamed,
            Integer version,
            String changedBy,
            Instant changedAt,
            RecordCheck.Verdict verdict) {}

    /** What is changed in a record: texts of fields by their paths. */
    @Schema(
            name = "CorrectionEdits",
            requiredProperties = {"edits"})
    public record Wanted(Map<String, String> edits) {}

    /**
     * What is replaced in many records.
     *
     * @param cause only in records that failed for this, null for all
     * @param field the path of the field
     * @param find the text that is replaced, the whole field where null
     */
    @Schema(
            name = "CorrectionReplace",
            requiredProperties = {"field", "replace"})
    public record Replace(String cause, String field, String find, String replace) {}

    /**
     * What became of many changes.
     *
     * @param changed how many records are changed
     * @param unknown lines of a file that are no record that waits, by their numbers
     * @param missing how many records that wait are not in the file
     */
    @Schema(
            name = "CorrectionsDone",
            requiredProperties = {"changed", "unknown", "missing"})
    public record Done(int changed, List<String> unknown, long missing) {}

    private RunMapper.Row run(long id) {
        RunMapper.Row row = runs.byId(id);
        if (row == null) {
            throw Problem.missing("run");
        }
        return row;
    }

    /** The flow records are sent through again: the run's revision, or the one in force. */
    private CompiledFlow flow(RunMapper.Row run, boolean inForce) {
        Publication now = inForce ? publications.inForce(run.flowId(), run.environment()) : null;
        String contracts = runs.contracts(run.id());
        Map<String, Integer> its = contracts == null ? Map.of() : Json.read(contracts, new TypeReference<>() {});
        int revision = now == null ? run.flowRevision() : now.revision();
        return check.compiled(FlowFile.parse(flows.file(run.flowId(), revision)), now == null ? its : now.contracts());
    }

    /** Returns records that can be sent again; checked asks what the flow would say of each. */
    @GET
    @Path("runs/{id}/corrections")
    public Page<View> list(
            @PathParam("id") long id,
            @QueryParam("cause") String cause,
            @QueryParam("q") String q,
            @QueryParam("checked") boolean checked,
            @QueryParam("inForce") boolean inForce,
            @QueryParam("page") Integer page,
            @QueryParam("size") Integer size) {
        RunMapper.Row run = run(id);
        String why = cause == null || cause.isBlank() ? "%" : cause;
        CompiledFlow flow = flow(run, inForce);
        List<View> views = new ArrayList<>();
        for (CorrectionMapper.Row row : mapper.page(id, why, Page.like(q), Page.size(size), Page.offset(page, size))) {
            views.add(view(row, run, flow, checked));
        }
        return new Page<>(views, mapper.count(id, why, Page.like(q)));
    }

    private View view(CorrectionMapper.Row row, RunMapper.Row run, CompiledFlow flow, boolean checked) {
        Node record = record(row);
        Map<String, String> edits = edits(row);
        RecordCheck.Verdict verdict = checked
                ? check.of(flow, run.environment(), row.ordinal(), FieldEdits.applied(record, edits), row.stage())
                : null;
        return new View(
                row.ordinal(),
                row.key(),
                row.ended(),
                row.cause(),
                row.message(),
                row.stage(),
                FieldEdits.of(record),
                edits,
                blamed(flow.file(), row.blame()),
                row.version() == null ? 0 : row.version(),
                row.changedBy(),
                row.changedAt(),
                verdict);
    }

    private static Node record(CorrectionMapper.Row row) {
        try {
            byte[] xml = row.input().getBytes(StandardCharsets.UTF_8);
            return NodeReader.read(new ByteArrayInputStream(xml), "record " + row.ordinal(), XmlLimits.MESSAGES);
        } catch (XmlProblem e) {
            throw new Problem(422, "not-readable", "Record " + row.ordinal() + " cannot be shown: " + e.sentence());
        }
    }

    private static Map<String, String> edits(CorrectionMapper.Row row) {
        return row.fields() == null ? Map.of() : Json.read(row.fields(), new TypeReference<>() {});
    }

    /** Returns the field of the record that the fill to blame reads, null where it reads none or several. */
    private static String blamed(FlowFile file, String fill) {
        String source = file.source().map(read -> read.as()).orElse(null);
        if (fill == null || source == null) {
            return null;
        }
        Pattern reads = Pattern.compile("\\$" + Pattern.quote(source) + "/([\\p{L}_][\\p{L}\\p{N}_.-]*)");
        for (Fill each : file.fills()) {
            if (fill.equals(each.id())) {
                Set<String> fields = new HashSet<>();
                Matcher found = reads.matcher(each.wire() != null ? each.wire() : String.valueOf(each.by()));
                while (found.find()) {
                    fields.add(found.group(1));
                }
                return fields.size() == 1 ? fields.iterator().next() : null;
            }
        }
        return null;
    }

    private CorrectionMapper.Row row(long id, long ordinal) {
        CorrectionMapper.Row row = mapper.one(id, ordinal);
        if (row == null) {
            throw new Problem(
                    409,
                    "not-open",
                    "Record " + ordinal + " of run " + id + " does not wait any more: it was sent again or discarded.");
        }
        return row;
    }

    private static Map<String, String> sound(Map<String, String> edits, Map<String, String> fields) {
        Map<String, String> sound = new LinkedHashMap<>();
        edits.forEach((field, text) -> {
            if (!fields.containsKey(field)) {
                throw new Problem(400, "no-field", "The record has no field “" + field + "”.").with("field", field);
            }
            if (text == null || text.length() > MOST_TEXT) {
                throw new Problem(
                                400,
                                "bad-text",
                                "“" + field + "” takes a text of at most " + MOST_TEXT + " characters.")
                        .with("field", field);
            }
            if (!text.equals(fields.get(field))) {
                sound.put(field, text);
            }
        });
        return sound;
    }

    /** Says what the flow would say of a record with some changes; nothing is kept. */
    @POST
    @Needs(Right.LOOK)
    @Path("runs/{id}/corrections/{ordinal}/verdict")
    public RecordCheck.Verdict verdict(
            @PathParam("id") long id,
            @PathParam("ordinal") long ordinal,
            @QueryParam("inForce") boolean inForce,
            Wanted given) {
        RunMapper.Row run = run(id);
        CorrectionMapper.Row row = row(id, ordinal);
        Node record = record(row);
        Map<String, String> edits = sound(given.edits() == null ? Map.of() : given.edits(), FieldEdits.of(record));
        return check.of(flow(run, inForce), run.environment(), ordinal, FieldEdits.applied(record, edits), row.stage());
    }

    /** Keeps what is changed in a record; If-Match carries the version that is changed, 0 for none. */
    @PUT
    @Needs(Right.RUN)
    @Path("runs/{id}/corrections/{ordinal}")
    public View keep(
            @PathParam("id") long id,
            @PathParam("ordinal") long ordinal,
            @HeaderParam("If-Match") String ifMatch,
            Wanted given) {
        RunMapper.Row run = run(id);
        current.mustRunIn(run.environment());
        int based = Edits.based("version", ifMatch);
        CorrectionMapper.Row row = row(id, ordinal);
        Map<String, String> edits = sound(given.edits() == null ? Map.of() : given.edits(), FieldEdits.of(record(row)));
        CompiledFlow flow = flow(run, false);
        if (mapper.keep(id, ordinal, based, Json.write(edits), current.name()) == 0) {
            CorrectionMapper.Row theirs = row(id, ordinal);
            int version = theirs.version() == null ? 0 : theirs.version();
            throw Edits.meanwhile("version", String.valueOf(theirs.changedBy()), version, based)
                    .with("theirs", view(theirs, run, flow, false));
        }
        return view(row(id, ordinal), run, flow, true);
    }

    /** Forgets what was changed in a record. */
    @DELETE
    @Needs(Right.RUN)
    @Path("runs/{id}/corrections/{ordinal}")
    public void forget(@PathParam("id") long id, @PathParam("ordinal") long ordinal) {
        current.mustRunIn(run(id).environment());
        row(id, ordinal);
        mapper.forget(id, ordinal);
    }

    /** Replaces a text of a field in many records at once. */
    @POST
    @Needs(Right.RUN)
    @Path("runs/{id}/corrections/replacement")
    public Done replace(@PathParam("id") long id, Replace given) {
        current.mustRunIn(run(id).environment());
        String cause = given.cause() == null || given.cause().isBlank() ? "%" : given.cause();
        if (given.field() == null || given.replace() == null) {
            throw new Problem(400, "no-field", "Say which field, and what takes the place of its text.");
        }
        int changed = 0;
        for (CorrectionMapper.Row row : all(id, cause)) {
            Map<String, String> fields = FieldEdits.of(record(row));
            Map<String, String> edits = new LinkedHashMap<>(edits(row));
            String now = edits.getOrDefault(given.field(), fields.get(given.field()));
            if (now == null) {
                continue;
            }
            String text = given.find() == null || given.find().isEmpty()
                    ? given.replace()
                    : now.replace(given.find(), given.replace());
            if (!text.equals(now)) {
                edits.put(given.field(), text);
                changed += keep(id, row, sound(edits, fields));
            }
        }
        return new Done(changed, List.of(), 0);
    }

    private int keep(long id, CorrectionMapper.Row row, Map<String, String> edits) {
        int version = row.version() == null ? 0 : row.version();
        return mapper.keep(id, row.ordinal(), version, Json.write(edits), current.name());
    }

    private List<CorrectionMapper.Row> all(long id, String cause) {
        List<CorrectionMapper.Row> all = new ArrayList<>();
        for (long offset = 0; ; offset += STEP) {
            List<CorrectionMapper.Row> some = mapper.page(id, cause, "%", STEP, offset);
            all.addAll(some);
            if (some.size() < STEP) {
                return all;
            }
        }
    }

    /** Takes corrections from a CSV file with the columns of the downloaded rejects; {@code _record} says which each is. */
    @POST
    @Needs(Right.RUN)
    @Path("runs/{id}/corrections/file")
    @Consumes(MediaType.MULTIPART_FORM_DATA)
    public Done file(@PathParam("id") long id, @RestForm("file") FileUpload file) throws IOException {
        current.mustRunIn(run(id).environment());
        if (file == null) {
            throw new Problem(400, "no-file", "Give a CSV file.");
        }
        Map<Long, CorrectionMapper.Row> waiting = new HashMap<>();
        all(id, "%").forEach(row -> waiting.put(row.ordinal(), row));
        Set<Long> met = new HashSet<>();
        List<String> unknown = new ArrayList<>();
        int changed = 0;
        try (CsvReader<NamedCsvRecord> lines = CsvReader.builder().ofNamedCsvRecord(file.uploadedFile())) {
            for (NamedCsvRecord line : lines) {
                String number = line.findField(ORDINAL).orElse(null);
                if (number == null) {
                    throw new Problem(
                            400,
                            "no-record-column",
                            "The file has no column “" + ORDINAL
                                    + "”: correct the file that *Download rejects* gives.");
                }
                CorrectionMapper.Row row = number.matches("\\d{1,18}") ? waiting.get(Long.parseLong(number)) : null;
                if (row == null || !met.add(row.ordinal())) {
                    unknown.add("line " + line.getStartingLineNumber() + ": " + number);
                    continue;
                }
                Map<String, String> fields = FieldEdits.of(record(row));
                Map<String, String> edits = new LinkedHashMap<>();
                fields.keySet().forEach(field -> line.findField(field).ifPresent(text -> edits.put(field, text)));
                Map<String, String> sound = sound(edits, fields);
                if (!sound.equals(edits(row))) {
                    changed += keep(id, row, sound);
                }
            }
        } catch (de.siegmar.fastcsv.reader.CsvParseException e) {
            throw new Problem(400, "bad-file", "The file is no CSV: " + e.getMessage() + ".");
        }
        return new Done(changed, unknown, waiting.size() - (long) met.size());
    }
}
