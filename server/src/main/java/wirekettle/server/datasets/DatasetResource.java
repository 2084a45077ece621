package wirekettle.server.datasets;

import com.fasterxml.jackson.core.type.TypeReference;
import jakarta.inject.Inject;
import jakarta.ws.rs.Consumes;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import jakarta.ws.rs.core.MediaType;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.StandardCopyOption;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import org.jboss.resteasy.reactive.RestForm;
import org.jboss.resteasy.reactive.multipart.FileUpload;
import wirekettle.connect.CsvLook.RowFinding;
import wirekettle.connect.FolderFiles;
import wirekettle.core.flow.file.DatasetSpec;
import wirekettle.core.flow.file.DatasetSpec.CsvShape;
import wirekettle.core.flow.file.DatasetSpec.Kind;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.value.Column;
import wirekettle.core.value.Layout;
import wirekettle.core.value.Node;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.uses.Uses;
import wirekettle.server.web.Json;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** Datasets: upload, tables and queries, targets, the grid, the layout. */
@Path("/api/datasets")
public class DatasetResource {
    @Inject
    DatasetMapper mapper;

    @Inject
    NewDatasets added;

    @Inject
    DatasetStore store;

    @Inject
    DatasetFolders folders;

    @Inject
    CurrentPerson current;

    @Inject
    Uses uses;

    /** A dataset. */
    @Schema(
            requiredProperties = {
                "id",
                "name",
                "kind",
                "rows",
                "columns",
                "findings",
                "findingCount",
                "createdAt",
                "hasData"
            })
    public record Dataset(
            long id,
            String name,
            Kind kind,
            String table,
            String query,
            CsvShape csv,
            DatasetSpec.Queue queue,
            long rows,
            List<Column> columns,
            List<RowFinding> findings,
            long findingCount,
            Instant createdAt,
            boolean hasData) {}

    /**
     * A table, a query, a file to be written, or a folder; kind is table, query or csv, json or xml for nested
     * documents, folder for files, queue for messages that are sent.
     */
    @Schema(requiredProperties = {"name", "kind"})
    public record NewDataset(
            String name, Kind kind, String table, String query, CsvShape csv, DatasetSpec.Queue queue) {}

    /** Corrections: how the file is written, or the columns' types and formats. */
    public record Correction(CsvShape csv, List<Column> columns) {}

    private Dataset dataset(DatasetMapper.Row row) {
        DatasetSpec spec = DatasetStore.spec(row);
        boolean file = spec.kind() == Kind.CSV || DatasetStore.documents(spec);
        boolean data = !DatasetStore.documents(spec) && (!file || Files.exists(store.file(spec)));
        return new Dataset(
                row.id(),
                row.name(),
                spec.kind(),
                spec.table(),
                spec.query(),
                spec.csv(),
                spec.queue(),
                row.rows(),
                spec.layout() == null ? List.of() : spec.layout().columns(),
                Json.read(row.findings(), new TypeReference<List<RowFinding>>() {}),
                row.findingCount(),
                row.createdAt(),
                data);
    }

    private DatasetMapper.Row row(long id) {
        DatasetMapper.Row row = mapper.byId(id);
        if (row == null) {
            throw Problem.missing("dataset");
        }
        return row;
    }

    /** Returns datasets by name. */
    @GET
    public Page<Dataset> list(
            @QueryParam("q") String q, @QueryParam("page") Integer page, @QueryParam("size") Integer size) {
        List<Dataset> items = mapper.page(Page.like(q), Page.size(size), Page.offset(page, size)).stream()
                .map(this::dataset)
                .toList();
        return new Page<>(items, mapper.count(Page.like(q)));
    }

    /** Adds a CSV file as a dataset named after it. */
    @POST
    @Needs(Right.BUILD)
    @Path("files")
    @Consumes(MediaType.MULTIPART_FORM_DATA)
    public Dataset upload(@RestForm("file") FileUpload file) throws IOException {
        if (file == null || Files.size(file.uploadedFile()) == 0) {
            throw new Problem(422, "empty-file", "The file is empty; there is nothing to look at.");
        }
        String name = file.fileName().replaceAll("\\.[^.]*$", "").replaceAll("[^\\p{L}\\p{N}_ -]", "_");
        try {
            return dataset(added.keep(
                    name, target -> Files.copy(file.uploadedFile(), target, StandardCopyOption.REPLACE_EXISTING)));
        } catch (IOException | RuntimeException e) {
            throw new Problem(422, "not-readable", file.fileName() + " cannot be read as CSV: " + e.getMessage());
        }
    }

    /** Adds a table, a query, or a file that a flow will write. */
    @POST
    @Needs(Right.BUILD)
    public Dataset create(NewDataset given) throws IOException {
        if (given.kind() == null) {
            throw new Problem(
                    400, "bad-request", "A dataset is a csv, a table, a query, json, xml, a folder or a queue.");
        }
        if (given.kind() == Kind.QUEUE) {
            queue(given.queue());
        }
        if (!given.kind().sql()) {
            return dataset(row(added.add(given)));
        }
        boolean table = given.kind() == Kind.TABLE;
        String text = table ? given.table() : given.query();
        if (text == null || text.isBlank()) {
            throw new Problem(400, "bad-request", table ? "Name the table." : "Write the query.");
        }
        long id = added.add(given);
        try {
            return dataset(store.look(id, DatasetStore.spec(row(id))));
        } catch (IOException e) {
            if (table && e.getMessage().contains("does not exist")) {
                return dataset(row(id)); // a run creates it
            }
            mapper.remove(id);
            throw e;
        }
    }

    private static void queue(DatasetSpec.Queue queue) {
        if (queue == null
                || queue.endpoint() == null
                || queue.endpoint().isBlank()
                || queue.name() == null
                || queue.name().isBlank()
                || queue.form() == null) {
            throw new Problem(
                    400,
                    "bad-queue",
                    "Say which endpoint is the broker, the name of the queue, and whether messages are JSON or XML.");
        }
    }

    /** Returns one dataset. */
    @GET
    @Path("{id}")
    public Dataset one(@PathParam("id") long id) {
        return dataset(row(id));
    }

    /** Corrects how a file is read, or the types and formats of columns. */
    @PUT
    @Needs(Right.BUILD)
    @Path("{id}")
    public Dataset correct(@PathParam("id") long id, Correction correction) throws IOException {
        DatasetMapper.Row row = row(id);
        DatasetSpec spec = DatasetStore.spec(row);
        if (correction.csv() != null) {
            CsvShape csv = correction.csv();
            if (csv.delimiter() == null
                    || csv.delimiter().length() != 1
                    || csv.quote().length() != 1) {
                throw new Problem(400, "bad-request", "Delimiter and quote are one character each.");
            }
            if (!java.nio.charset.Charset.isSupported(csv.charset())) {
                throw new Problem(400, "bad-request", "The charset " + csv.charset() + " is not known.");
            }
            return dataset(store.look(
                    id, new DatasetSpec(spec.name(), Kind.CSV, spec.file(), csv, null, null, null, spec.layout())));
        }
        if (correction.columns() != null) {
            DatasetSpec changed = new DatasetSpec(
                    spec.name(),
                    spec.kind(),
                    spec.file(),
                    spec.csv(),
                    spec.connection(),
                    spec.table(),
                    spec.query(),
                    new Layout(correction.columns()),
                    spec.queue());
            mapper.update(id, Json.write(changed), row.rows(), row.findings(), row.findingCount());
        }
        return dataset(row(id));
    }

    /** Looks at a table, a query or a written file again. */
    @POST
    @Needs(Right.BUILD)
    @Path("{id}/look")
    public Dataset look(@PathParam("id") long id) throws IOException {
        return dataset(store.look(id, DatasetStore.spec(row(id))));
    }

    /** Returns rows as text, in column order; searched rows hold the text somewhere. */
    @GET
    @Path("{id}/rows")
    public Page<List<String>> rows(
            @PathParam("id") long id,
            @QueryParam("q") String q,
            @QueryParam("page") Integer page,
            @QueryParam("size") Integer size)
            throws IOException {
        DatasetMapper.Row row = row(id);
        long skip = Page.offset(page, size);
        String wanted = q == null ? "" : q.strip().toLowerCase(java.util.Locale.ROOT);
        List<List<String>> items = new ArrayList<>();
        long seen = 0;
        try (RecordSource source = store.open(row)) {
            for (RecordSource.Item item = source.next(); item != null; item = source.next()) {
                List<String> values =
                        item.node().children().stream().map(Node::text).toList();
                if (!wanted.isEmpty()
                        && values.stream().noneMatch(v -> v.toLowerCase(java.util.Locale.ROOT)
                                .contains(wanted))) {
                    continue;
                }
                seen++;
                if (seen > skip && items.size() < Page.size(size)) {
                    items.add(values);
                } else if (items.size() >= Page.size(size) && wanted.isEmpty()) {
                    seen = row.rows();
                    break;
                }
            }
        }
        return new Page<>(items, seen);
    }

    /** Removes a dataset with its file or files. */
    @DELETE
    @Needs(Right.BUILD)
    @Path("{id}")
    public void remove(@PathParam("id") long id) throws IOException {
        DatasetMapper.Row row = row(id);
        DatasetSpec spec = DatasetStore.spec(row);
        current.mustOwn(mapper.madeBy(id), "The dataset “" + row.name() + "”");
        uses.mustBeFree(Uses.Kind.DATASET, row.name(), "The dataset “" + row.name() + "”");
        mapper.remove(id);
        folders.forget();
        if (DatasetStore.folder(spec)) {
            for (java.nio.file.Path file : FolderFiles.list(store.file(spec))) {
                Files.delete(file);
            }
        }
        if (spec.file() != null) {
            Files.deleteIfExists(store.file(spec));
        }
    }
}
