package wirekettle.server.contracts;

import jakarta.inject.Inject;
import jakarta.ws.rs.Consumes;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import jakarta.ws.rs.core.MediaType;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import org.jboss.resteasy.reactive.RestForm;
import org.jboss.resteasy.reactive.multipart.FileUpload;
import wirekettle.connect.DocumentFile;
import wirekettle.connect.WebAccess;
import wirekettle.core.contract.ContractDocument;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.core.contract.openapi.DescribedByHand;
import wirekettle.core.contract.openapi.OpenApiReader;
import wirekettle.core.flow.file.FlowBundle;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Problem;

/** Imports: new contracts, and refreshes of those there are, from an address, text or files. */
@Path("/api")
public class ImportResource {
    private static final String BY_HAND = "described.json";

    @Inject
    ContractStore contracts;

    private static final long MOST_BYTES = 64L << 20;

    @Inject
    ContractMapper mapper;

    @Inject
    ImportJobs jobs;

    @Inject
    CurrentPerson current;

    /**
     * Where to import from: an address, or pasted text.
     *
     * @param contract the contract to refresh, null for a new one; without address and text its own source is read
     * @param strict refuse instead of repairing
     * @param user the name for a login of the address's host; like all that follows, used once and not kept
     * @param proxy the proxy as host:port
     * @param trust the fingerprint of a certificate to trust
     */
    public record ImportFrom(
            String address,
            String text,
            Long contract,
            Boolean strict,
            String user,
            String password,
            String proxy,
            String proxyUser,
            String proxyPassword,
            String trust) {}

    /** Starts an import from an address or pasted text. */
    @POST
    @Needs(Right.BUILD)
    @Path("imports")
    public ImportJobs.Job start(ImportFrom from) {
        ImportJobs.Purpose purpose = purpose(from.contract(), from.strict());
        String address = from.address() == null ? "" : from.address().strip();
        if (from.text() != null && !from.text().isBlank()) {
            byte[] text = from.text().getBytes(StandardCharsets.UTF_8);
            String name = OpenApiReader.looksLike(text) ? "pasted.json" : "pasted.wsdl";
            return jobs.given(new GivenDocuments().add(name, text), "pasted text", purpose);
        }
        if (address.isEmpty() && from.contract() != null) {
            address = mapper.byId(from.contract()).source();
            if (!address.matches("(?i)https?://.*")) {
                throw new Problem(
                        422,
                        "no-address",
                        "This contract was not imported from an address: give its new files, or where it is now.");
            }
        }
        if (address.isEmpty()) {
            throw new Problem(400, "nothing-given", "Give an address or paste the text of a WSDL.");
        }
        try {
            Set<String> trusted = from.trust() == null || from.trust().isBlank()
                    ? Set.of()
                    : Set.of(from.trust()
                            .strip()
                            .toLowerCase(java.util.Locale.ROOT)
                            .replace(":", ""));
            WebAccess access = new WebAccess(
                    from.user(), from.password(), from.proxy(), from.proxyUser(), from.proxyPassword(), trusted);
            return jobs.address(address, access, purpose);
        } catch (IllegalArgumentException e) {
            throw new Problem(400, "bad-proxy", e.getMessage() + ".");
        }
    }

    /** An operation described by hand, for a new contract or one made that way before. */
    @Schema(
            name = "HandDescription",
            requiredProperties = {"operation"})
    public record HandDescription(DescribedByHand operation, Long contract) {}

    /** Starts the import of an operation described by hand. */
    @POST
    @Needs(Right.BUILD)
    @Path("imports/described")
    public ImportJobs.Job described(HandDescription given) {
        if (given.operation() == null) {
            throw new Problem(400, "nothing-given", "Describe an operation.");
        }
        ImportJobs.Purpose purpose = purpose(given.contract(), false);
        byte[] before = null;
        if (given.contract() != null) {
            ContractDocument document =
                    contracts.get(given.contract()).documents().get(0);
            if (!document.name().equals(BY_HAND)) {
                throw new Problem(422, "not-by-hand", "Only a contract described by hand takes further operations.");
            }
            before = document.bytes();
        }
        try {
            byte[] text = given.operation().document(before);
            return jobs.given(new GivenDocuments().add(BY_HAND, text), "described by hand", purpose);
        } catch (DescribedByHand.Wrong e) {
            throw new Problem(422, "bad-description", "Not yet: " + e.getMessage() + ".");
        }
    }

    private ImportJobs.Purpose purpose(Long contract, Boolean strict) {
        if (contract != null && mapper.byId(contract) == null) {
            throw Problem.missing("contract");
        }
        return new ImportJobs.Purpose(contract, current.get().name(), Boolean.TRUE.equals(strict));
    }

    /** Starts an import from files or a zip; with a contract's id it refreshes that contract. */
    @POST
    @Needs(Right.BUILD)
    @Path("imports/files")
    @Consumes(MediaType.MULTIPART_FORM_DATA)
    public ImportJobs.Job files(
            @RestForm(FileUpload.ALL) List<FileUpload> files,
            @QueryParam("contract") Long contract,
            @QueryParam("strict") Boolean strict)
            throws IOException {
        GivenDocuments given = new GivenDocuments();
        List<String> names = new ArrayList<>();
        for (FileUpload file : files) {
            names.add(file.fileName());
            if (file.fileName().toLowerCase(java.util.Locale.ROOT).endsWith(".zip")) {
                FlowBundle.unzip(Files.newInputStream(file.uploadedFile()), MOST_BYTES)
                        .forEach(given::add);
            } else {
                given.add(file.fileName(), DocumentFile.read(file.uploadedFile()));
            }
        }
        if (names.isEmpty()) {
            throw new Problem(400, "nothing-given", "Give at least one file.");
        }
        return jobs.given(given, String.join(", ", names), purpose(contract, strict));
    }

    /** Returns where an import stands. */
    @GET
    @Path("imports/{id}")
    public ImportJobs.Job progress(@PathParam("id") long id) {
        ImportJobs.Job job = jobs.get(id);
        if (job == null) {
            throw Problem.missing("import");
        }
        return job;
    }

    /** Asks an import to end. */
    @POST
    @Needs(Right.BUILD)
    @Path("imports/{id}/cancel")
    public void cancel(@PathParam("id") long id) {
        jobs.cancel(id);
    }
}
