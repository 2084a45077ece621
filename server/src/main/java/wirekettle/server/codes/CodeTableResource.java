package wirekettle.server.codes;

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
import java.io.IOException;
import java.nio.file.Files;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import org.jboss.resteasy.reactive.RestForm;
import org.jboss.resteasy.reactive.multipart.FileUpload;
import wirekettle.connect.SheetFile;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.value.CodeTable;
import wirekettle.server.datasets.DatasetMapper;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.uses.Uses;
import wirekettle.server.web.Edits;
import wirekettle.server.web.Json;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** Code tables: list, edit, load from a CSV file or a dataset. */
@Path("/api")
public class CodeTableResource {
    private static final int MOST_ENTRIES = 50_000;

    @Inject
    CodeTableMapper mapper;

    @Inject
    DatasetMapper datasetRows;

    @Inject
    DatasetStore datasets;

    @Inject
    CurrentPerson current;

    @Inject
    Uses uses;

    /** A code table. */
    @Schema(
            name = "CodeTable",
            requiredProperties = {"id", "name", "entries", "version", "changedAt", "changedBy"})
    public record CodeTableView(
            long id,
            String name,
            String otherwise,
            List<CodeTable.Entry> entries,
            int version,
            Instant changedAt,
            String changedBy) {}

    /** A code table in the list. */
    @Schema(
            name = "CodeTableSummary",
            requiredProperties = {"id", "name", "codes", "changedAt", "changedBy"})
    public record Summary(long id, String name, int codes, Instant changedAt, String changedBy) {}

    /** What a code table holds. */
    @Schema(name = "CodeTableText")
    public record CodeTableContent(String name, String otherwise, List<CodeTable.Entry> entries) {}

    /** A dataset whose fields are codes and values; from and until may be left out. */
    @Schema(requiredProperties = {"dataset", "code", "value"})
    public record FromDataset(String dataset, String code, String value, String from, String until) {}

    private static CodeTableView whole(CodeTableMapper.Row row) {
        CodeTable table = CodeTables.table(row);
        return new CodeTableView(
                row.id(),
                row.name(),
                row.otherwise(),
                table.entries(),
                row.version(),
                row.changedAt(),
                row.changedBy());
    }

    private CodeTableMapper.Row row(long id) {
        CodeTableMapper.Row row = mapper.byId(id);
        if (row == null) {
            throw Problem.missing("code table");
        }
        return row;
    }

    /** Returns code tables by name; sort is name or changed. */
    @GET
    @Path("code-tables")
    public Page<Summary> list(
            @QueryParam("q") String q,
            @QueryParam("sort") String sort,
            @QueryParam("page") Integer page,
            @QueryParam("size") Integer size) {
        String order = "changed".equals(sort) ? "changed_at desc" : "lower(name)";
        List<Summary> items = mapper.page(Page.like(q), order, Page.size(size), Page.offset(page, size)).stream()
                .map(r -> new Summary(
                        r.id(), r.name(), CodeTables.table(r).entries().size(), r.changedAt(), r.changedBy()))
                .toList();
        return new Page<>(items, mapper.count(Page.like(q)));
    }

    /** Returns one code table. */
    @GET
    @Path("code-tables/{id}")
    public CodeTableView one(@PathParam("id") long id) {
        return whole(row(id));
    }

    /** Adds a code table. */
    @POST
    @Needs(Right.BUILD)
    @Path("code-tables")
    public CodeTableView create(CodeTableContent given) {
        String name = Edits.name("A code table", given.name());
        Edits.free("code table", name, mapper.byName(name));
        List<CodeTable.Entry> entries = checked(given.entries());
        long id = mapper.add(
                name, given.otherwise(), Json.write(entries), current.get().name());
        return whole(row(id));
    }

    /** Changes a code table; If-Match carries the version the change is based on. */
    @PUT
    @Needs(Right.BUILD)
    @Path("code-tables/{id}")
    public CodeTableView change(
            @PathParam("id") long id, @HeaderParam("If-Match") String ifMatch, CodeTableContent given) {
        CodeTableMapper.Row row = row(id);
        int based = Edits.based("version", ifMatch);
        List<CodeTable.Entry> entries = checked(given.entries());
        if (mapper.change(
                        id,
                        based,
                        given.otherwise(),
                        Json.write(entries),
                        current.get().name())
                == 0) {
            throw Edits.meanwhile("version", row.changedBy(), row.version(), based)
                    .with("theirs", whole(row));
        }
        return whole(row(id));
    }

    /** Removes a code table; flows that use it say so. */
    @DELETE
    @Needs(Right.BUILD)
    @Path("code-tables/{id}")
    public void remove(@PathParam("id") long id) {
        current.mustOwn(mapper.madeBy(row(id).id()), "The code table “" + row(id).name() + "”");
        uses.mustBeFree(Uses.Kind.CODES, row(id).name(), "The code table “" + row(id).name() + "”");
        mapper.remove(id);
    }

    /** Reads entries from a CSV or XLSX file: code, value, from, until by their names or in this order. */
    @POST
    @Needs(Right.BUILD)
    @Path("code-tables/entries/file")
    @Consumes(MediaType.MULTIPART_FORM_DATA)
    public List<CodeTable.Entry> read(@RestForm("file") FileUpload file) throws IOException {
        if (file == null || Files.size(file.uploadedFile()) == 0) {
            throw new Problem(422, "empty-file", "The file is empty; there is nothing to read.");
        }
        List<CodeTable.Entry> entries = new ArrayList<>();
        int[] at = {0, 1, 2, 3};
        List<List<String>> rows;
        try {
            rows = SheetFile.read(file.uploadedFile());
        } catch (IOException e) {
            throw new Problem(422, "not-readable", file.fileName() + ": " + e.getMessage() + ".");
        }
        int first = !rows.isEmpty() && named(rows.get(0), at) ? 1 : 0;
        for (List<String> fields : rows.subList(first, rows.size())) {
            entries.add(new CodeTable.Entry(
                    field(fields, at[0]), field(fields, at[1]), field(fields, at[2]), field(fields, at[3])));
        }
        return checked(entries);
    }

    /** Finds the columns by their names; tells whether the line was one of names. */
    private static boolean named(List<String> names, int[] at) {
        List<String> lower =
                names.stream().map(n -> n.strip().toLowerCase(Locale.ROOT)).toList();
        if (!lower.contains("code") || !lower.contains("value")) {
            return false;
        }
        List<String> wanted = List.of("code", "value", "from", "until");
        for (int i = 0; i < at.length; i++) {
            at[i] = lower.indexOf(wanted.get(i));
        }
        return true;
    }

    private static String field(List<String> fields, int at) {
        String text = at < 0 || at >= fields.size() ? "" : fields.get(at).strip();
        return text.isEmpty() ? null : text;
    }

    /** Reads entries from the rows of a dataset, a table or query among them. */
    @POST
    @Needs(Right.BUILD)
    @Path("code-tables/entries/dataset")
    public List<CodeTable.Entry> read(FromDataset given) throws IOException {
        DatasetMapper.Row row = datasets.named(given.dataset());
        List<CodeTable.Entry> entries = new ArrayList<>();
        try (RecordSource source = datasets.open(row)) {
            for (RecordSource.Item item = source.next(); item != null; item = source.next()) {
                if (item.problem() == null && entries.size() <= MOST_ENTRIES) {
                    entries.add(new CodeTable.Entry(
                            item.node().textOf(given.code()),
                            item.node().textOf(given.value()),
                            given.from() == null ? null : item.node().textOf(given.from()),
                            given.until() == null ? null : item.node().textOf(given.until())));
                }
            }
        }
        return checked(entries);
    }

    private static List<CodeTable.Entry> checked(List<CodeTable.Entry> given) {
        List<CodeTable.Entry> entries = given == null ? List.of() : given;
        if (entries.size() > MOST_ENTRIES) {
            throw new Problem(422, "too-many", "A code table has at most " + MOST_ENTRIES + " codes.");
        }
        for (int i = 0; i < entries.size(); i++) {
            CodeTable.Entry entry = entries.get(i);
            if (entry.code() == null || entry.code().isBlank() || entry.value() == null) {
                throw new Problem(422, "bad-entry", "Row " + (i + 1) + " needs a code and a value.");
            }
        }
        try {
            new CodeTable("check", null, entries).index();
        } catch (IllegalArgumentException e) {
            throw new Problem(422, "bad-entry", "Dates are written as 2026-12-04: " + e.getMessage() + ".");
        }
        return entries;
    }
}
