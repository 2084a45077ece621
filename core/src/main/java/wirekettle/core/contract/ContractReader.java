package wirekettle.core.contract;

import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import wirekettle.core.contract.openapi.OpenApiReader;
import wirekettle.core.schema.SchemaReader;
import wirekettle.core.schema.SchemaSet;
import wirekettle.core.xml.Finding;
import wirekettle.core.xml.Finding.Severity;

/** Reads WSDL 1.1 or OpenAPI 3 with all its documents into a {@link Contract}. */
public final class ContractReader {
    private ContractReader() {}

    /**
     * Reads the contract that starts at {@code entries}.
     *
     * @param entries names of the documents to start with
     * @param source where documents come from
     * @param strict refuse when anything had to be repaired or left out
     * @throws ContractRefused when no service description can be made of it
     */
    public static Contract read(List<String> entries, DocumentSource source, boolean strict, ImportProgress progress)
            throws ContractRefused {
        List<Finding> findings = new ArrayList<>();
        // looked into before it is read: each document is fetched once all the same
        DocumentSource once = new FetchedOnce(source);
        if (entries.size() == 1 && describesHttp(entries.get(0), once, progress)) {
            return http(entries.get(0), once, strict, findings);
        }
        DocumentGatherer gathered = new DocumentGatherer(once, findings, progress);
        for (String entry : entries) {
            gathered.entry(entry);
        }
        gathered.settleImports();
        if (gathered.definitions.isEmpty()) {
            findings.add(new Finding(
                    Severity.ERROR,
                    "no-description",
                    "none of the documents is a WSDL 1.1 service description",
                    entries.isEmpty() ? "" : entries.get(0),
                    1,
                    1));
            throw new ContractRefused(findings);
        }
        SchemaSet schemas = SchemaReader.read(gathered.schemas, findings);
        WsdlReader wsdl = new WsdlReader(gathered.definitions, schemas, findings);
        List<Service> services = wsdl.services();
        refuse(strict, findings);
        return new Contract(
                name(services, gathered),
                entries.stream()
                        .map(entry -> DocumentGatherer.resolve("", entry))
                        .toList(),
                List.copyOf(gathered.documents.values()),
                gathered.unavailable,
                services,
                schemas,
                gathered.schemas,
                findings);
    }

    private static boolean describesHttp(String entry, DocumentSource source, ImportProgress progress) {
        try {
            progress.reading(entry, 0);
            return OpenApiReader.looksLike(source.load(entry));
        } catch (IOException e) {
            // told when it is read as what it is then taken for
            return false;
        }
    }

    private static Contract http(String entry, DocumentSource source, boolean strict, List<Finding> findings)
            throws ContractRefused {
        OpenApiReader.Read read = OpenApiReader.read(entry, source, DocumentGatherer::resolve, findings);
        refuse(strict, findings);
        return new Contract(
                read.services().get(0).name(),
                List.of(entry),
                read.documents(),
                read.unavailable(),
                read.services(),
                read.schemas(),
                read.schemaDocuments(),
                findings);
    }

    /** Refuses, when reading strictly, what lenient reading repaired or left out. */
    private static void refuse(boolean strict, List<Finding> findings) throws ContractRefused {
        for (Finding finding : findings) {
            if (strict && finding.severity() != Severity.NOTE) {
                List<Finding> reasons = new ArrayList<>(findings);
                reasons.remove(finding);
                reasons.add(finding);
                throw new ContractRefused(reasons);
            }
        }
    }

    /** Reads documents given together: every WSDL among them is an entry, schemas are used where they are needed. */
    public static Contract read(GivenDocuments given, boolean strict) throws ContractRefused {
        return read(given, strict, ImportProgress.NONE);
    }

    /** Reads documents given together, telling how far it is. */
    public static Contract read(GivenDocuments given, boolean strict, ImportProgress progress) throws ContractRefused {
        List<String> entries = new ArrayList<>();
        for (Map.Entry<String, byte[]> file : given.files().entrySet()) {
            String start = new String(
                    file.getValue(),
                    0,
                    Math.min(file.getValue().length, 4000),
                    java.nio.charset.StandardCharsets.UTF_8);
            if (OpenApiReader.looksLike(file.getValue())
                    || file.getKey().toLowerCase(java.util.Locale.ROOT).endsWith(".wsdl")
                    || start.contains("definitions")) {
                entries.add(file.getKey());
            }
        }
        if (entries.isEmpty()) {
            entries.addAll(given.files().keySet());
        }
        return read(entries, given, strict, progress);
    }

    private static String name(List<Service> services, DocumentGatherer gathered) {
        if (!services.isEmpty()) {
            return services.get(0).name();
        }
        String name = gathered.definitions.get(0).root().attribute("name");
        return name == null ? gathered.definitions.get(0).document() : name;
    }
}
