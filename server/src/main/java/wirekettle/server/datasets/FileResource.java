package wirekettle.server.datasets;

import jakarta.inject.Inject;
import jakarta.ws.rs.Consumes;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.Produces;
import jakarta.ws.rs.QueryParam;
import jakarta.ws.rs.core.MediaType;
import jakarta.ws.rs.core.Response;
import java.io.IOException;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.StandardCopyOption;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import org.jboss.resteasy.reactive.RestForm;
import org.jboss.resteasy.reactive.multipart.FileUpload;
import wirekettle.connect.FolderFiles;
import wirekettle.core.flow.file.DatasetSpec;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.soap.attachments.MediaTypes;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** The files of a folder: listed, added, taken out, removed. */
@Path("/api/datasets/{id}/files")
public class FileResource {
    @Inject
    DatasetMapper mapper;

    @Inject
    DatasetStore store;

    @Inject
    CurrentPerson current;

    /**
     * A file of a folder.
     *
     * @param name its name
     * @param type its media type, by its name's ending
     * @param bytes its size
     * @param writtenAt when it was written
     */
    @Schema(
            name = "FolderFile",
            requiredProperties = {"name", "type", "bytes", "writtenAt"})
    public record FolderFile(String name, String type, long bytes, Instant writtenAt) {}

    private java.nio.file.Path folder(long id) {
        DatasetMapper.Row row = mapper.byId(id);
        if (row == null) {
            throw Problem.missing("dataset");
        }
        DatasetSpec spec = DatasetStore.spec(row);
        if (!DatasetStore.folder(spec)) {
            throw new Problem(422, "no-folder", "“" + row.name() + "” is no folder; it has no files of its own.");
        }
        return store.file(spec);
    }

    private java.nio.file.Path file(long id, String name) {
        java.nio.file.Path folder = folder(id);
        String asked = String.valueOf(name);
        if (!Folders.possible(asked).equals(asked) || !Files.isRegularFile(folder.resolve(asked))) {
            throw new Problem(404, "not-found", "There is no file “" + asked + "” in this folder.");
        }
        return folder.resolve(asked);
    }

    /**
     * Returns files whose name holds a text; sort is name, type, bytes or written, with a minus for the greatest
     * first.
     */
    @GET
    public Page<FolderFile> list(
            @PathParam("id") long id,
            @QueryParam("q") String q,
            @QueryParam("sort") String sort,
            @QueryParam("page") Integer page,
            @QueryParam("size") Integer size)
            throws IOException {
        String wanted = q == null ? "" : q.strip().toLowerCase(Locale.ROOT);
        List<FolderFile> all = new ArrayList<>();
        for (java.nio.file.Path file : FolderFiles.list(folder(id))) {
            String name = file.getFileName().toString();
            if (name.toLowerCase(Locale.ROOT).contains(wanted)) {
                all.add(new FolderFile(
                        name,
                        MediaTypes.of(name),
                        Files.size(file),
                        Files.getLastModifiedTime(file).toInstant()));
            }
        }
        String by = sort == null ? "name" : sort.replaceFirst("^-", "");
        Comparator<FolderFile> order =
                switch (by) {
                    case "type" -> Comparator.comparing(FolderFile::type);
                    case "bytes" -> Comparator.comparingLong(FolderFile::bytes);
                    case "written" -> Comparator.comparing(FolderFile::writtenAt);
                    default -> Comparator.comparing(FolderFile::name);
                };
        all.sort(sort != null && sort.startsWith("-") ? order.reversed() : order);
        int from = (int) Math.min(all.size(), Page.offset(page, size));
        return new Page<>(all.subList(from, Math.min(all.size(), from + Page.size(size))), all.size());
    }

    /** Adds files; one of a name that is there already is only replaced when asked to. */
    @POST
    @Needs(Right.BUILD)
    @Consumes(MediaType.MULTIPART_FORM_DATA)
    public Page<FolderFile> add(
            @PathParam("id") long id,
            @RestForm(FileUpload.ALL) List<FileUpload> files,
            @QueryParam("replace") boolean replace)
            throws IOException {
        java.nio.file.Path folder = folder(id);
        if (files == null || files.isEmpty()) {
            throw new Problem(400, "bad-request", "No file was sent.");
        }
        Files.createDirectories(folder);
        List<String> taken = files.stream()
                .map(file -> Folders.possible(file.fileName()))
                .filter(name -> Files.exists(folder.resolve(name)))
                .toList();
        if (!taken.isEmpty() && !replace) {
            String more = taken.size() > 3 ? " and " + (taken.size() - 3) + " more" : "";
            throw new Problem(
                            409,
                            "file-exists",
                            "The folder has "
                                    + String.join(", ", taken.subList(0, Math.min(3, taken.size()))) + more
                                    + " already.")
                    .with("names", taken);
        }
        for (FileUpload file : files) {
            java.nio.file.Path part = Files.createTempFile(folder, ".", ".part");
            try {
                Files.copy(file.uploadedFile(), part, StandardCopyOption.REPLACE_EXISTING);
                Files.move(
                        part, folder.resolve(Folders.possible(file.fileName())), StandardCopyOption.REPLACE_EXISTING);
            } finally {
                Files.deleteIfExists(part);
            }
        }
        store.look(id, DatasetStore.spec(mapper.byId(id)));
        return list(id, null, null, 1, 50);
    }

    /** Returns the content of a file, to be saved. */
    @GET
    @Path("content")
    @Produces("*/*")
    public Response content(@PathParam("id") long id, @QueryParam("name") String name) {
        java.nio.file.Path file = file(id, name);
        String encoded = URLEncoder.encode(name, StandardCharsets.UTF_8).replace("+", "%20");
        // never shown in place: what a service sent must not run in the browser as ours
        return Response.ok(file.toFile(), "application/octet-stream")
                .header("Content-Disposition", "attachment; filename*=UTF-8''" + encoded)
                .header("X-Content-Type-Options", "nosniff")
                .build();
    }

    /** Removes a file. */
    @DELETE
    @Needs(Right.BUILD)
    public void remove(@PathParam("id") long id, @QueryParam("name") String name) throws IOException {
        current.mustOwn(mapper.madeBy(id), "The folder");
        Files.delete(file(id, name));
        store.look(id, DatasetStore.spec(mapper.byId(id)));
    }
}
