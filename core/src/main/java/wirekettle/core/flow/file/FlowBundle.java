package wirekettle.core.flow.file;

import com.fasterxml.jackson.core.type.TypeReference;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.SerializationFeature;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Stream;
import java.util.zip.ZipEntry;
import java.util.zip.ZipInputStream;
import java.util.zip.ZipOutputStream;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractDocument;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.ContractRefused;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.core.contract.ImportProgress;
import wirekettle.core.value.CodeTable;
import wirekettle.core.value.Series;

/**
 * A flow with everything it needs but secrets: the flow file, the contracts' documents by content hash, datasets with
 * their layouts, endpoints. A folder or a zip.
 *
 * @param flow the flow file
 * @param contracts the contracts by name
 * @param datasets the datasets by name
 * @param endpoints the endpoints by name
 * @param codeTables the code tables by name
 * @param series the series by name
 * @param values the named values of the environment it was taken from that the flow uses
 */
public record FlowBundle(
        FlowFile flow,
        Map<String, Contract> contracts,
        Map<String, DatasetSpec> datasets,
        Map<String, EndpointSpec> endpoints,
        Map<String, CodeTable> codeTables,
        Map<String, Series> series,
        Map<String, String> values) {
    private static final ObjectMapper JSON = new ObjectMapper().enable(SerializationFeature.INDENT_OUTPUT);
    private static final long MOST_UNSUSPECTED = 16L << 20;
    private static final int MOST_TIMES = 100;
    private static final long MOST_BYTES = 256L << 20;

    /** Makes a bundle of a flow that uses no named value. */
    public FlowBundle(
            FlowFile flow,
            Map<String, Contract> contracts,
            Map<String, DatasetSpec> datasets,
            Map<String, EndpointSpec> endpoints,
            Map<String, CodeTable> codeTables,
            Map<String, Series> series) {
        this(flow, contracts, datasets, endpoints, codeTables, series, Map.of());
    }

    private record DocumentEntry(String name, String sha256) {}

    private record ContractEntry(List<String> entries, List<DocumentEntry> documents) {}

    /** Returns the names of its datasets that are folders. */
    public Set<String> folders() {
        return datasets.entrySet().stream()
                .filter(e -> e.getValue().kind() == DatasetSpec.Kind.FOLDER)
                .map(Map.Entry::getKey)
                .collect(java.util.stream.Collectors.toCollection(TreeSet::new));
    }

    /** Returns the bundle's files by path. */
    public Map<String, byte[]> files() throws IOException {
        Map<String, byte[]> files = new TreeMap<>();
        files.put("flow.json", flow.text().getBytes(StandardCharsets.UTF_8));
        Map<String, ContractEntry> entries = new TreeMap<>();
        for (Map.Entry<String, Contract> each : contracts.entrySet()) {
            List<DocumentEntry> documents = new ArrayList<>();
            for (ContractDocument document : each.getValue().documents()) {
                documents.add(new DocumentEntry(document.name(), document.hash()));
                files.put("documents/" + document.hash(), document.bytes());
            }
            entries.put(each.getKey(), new ContractEntry(each.getValue().entries(), documents));
        }
        files.put("contracts.json", JSON.writeValueAsBytes(entries));
        files.put("datasets.json", JSON.writeValueAsBytes(new TreeMap<>(datasets)));
        files.put("endpoints.json", JSON.writeValueAsBytes(new TreeMap<>(endpoints)));
        if (!codeTables.isEmpty()) {
            files.put("code-tables.json", JSON.writeValueAsBytes(new TreeMap<>(codeTables)));
        }
        if (!series.isEmpty()) {
            files.put("series.json", JSON.writeValueAsBytes(new TreeMap<>(series)));
        }
        if (!values.isEmpty()) {
            files.put("values.json", JSON.writeValueAsBytes(new TreeMap<>(values)));
        }
        return files;
    }

    /** Returns the bundle as a zip; the same bundle gives the same bytes. */
    public byte[] zip() throws IOException {
        var bytes = new java.io.ByteArrayOutputStream();
        try (ZipOutputStream out = new ZipOutputStream(bytes)) {
            for (Map.Entry<String, byte[]> file : files().entrySet()) {
                ZipEntry entry = new ZipEntry(file.getKey());
                entry.setTime(315_532_800_000L);
                out.putNextEntry(entry);
                out.write(file.getValue());
                out.closeEntry();
            }
        }
        return bytes.toByteArray();
    }

    /**
     * Reads a bundle from a folder or a zip.
     *
     * @throws IOException naming the file that is missing or wrong
     */
    public static FlowBundle read(Path path) throws IOException {
        if (!Files.exists(path)) {
            throw new java.io.FileNotFoundException("there is no bundle at " + path);
        }
        return of(Files.isDirectory(path) ? folder(path) : unzip(Files.newInputStream(path)));
    }

    private static Map<String, byte[]> folder(Path folder) throws IOException {
        Map<String, byte[]> files = new LinkedHashMap<>();
        try (Stream<Path> all = Files.walk(folder, 3)) {
            for (Path file : all.filter(Files::isRegularFile).toList()) {
                String name = folder.relativize(file).toString().replace('\\', '/');
                if (name.endsWith(".json") || name.startsWith("documents/")) {
                    files.put(name, Files.readAllBytes(file));
                }
            }
        }
        return files;
    }

    /** Returns the files of a bundle's zip; one that unpacks beyond 256 MB is refused. */
    public static Map<String, byte[]> unzip(java.io.InputStream in) throws IOException {
        return unzip(in, MOST_BYTES);
    }

    /** Returns the files of a zip; one that unpacks beyond a number of bytes is refused. */
    public static Map<String, byte[]> unzip(java.io.InputStream in, long mostBytes) throws IOException {
        Map<String, byte[]> files = new LinkedHashMap<>();
        long total = 0;
        Counted packed = new Counted(in);
        try (ZipInputStream zip = new ZipInputStream(packed)) {
            for (ZipEntry entry = zip.getNextEntry(); entry != null; entry = zip.getNextEntry()) {
                if (!entry.isDirectory()) {
                    byte[] bytes = unpacked(zip, packed, total, mostBytes);
                    total += bytes.length;
                    if (total > mostBytes || files.size() >= 5_000) {
                        throw new IOException(
                                "the zip holds more than " + (mostBytes >> 20) + " MB or 5000 files; it is refused");
                    }
                    files.put(entry.getName(), bytes);
                }
            }
        }
        if (files.isEmpty()) {
            throw new IOException("this is no zip, or it is empty");
        }
        return files;
    }

    /** Reads an entry piece by piece: one that unpacks to far more than it takes in the zip is no document. */
    private static byte[] unpacked(ZipInputStream zip, Counted packed, long before, long mostBytes) throws IOException {
        java.io.ByteArrayOutputStream bytes = new java.io.ByteArrayOutputStream();
        byte[] piece = new byte[1 << 16];
        for (int n = zip.read(piece); n >= 0; n = zip.read(piece)) {
            bytes.write(piece, 0, n);
            long total = before + bytes.size();
            if (total > MOST_UNSUSPECTED && total / MOST_TIMES > packed.count) {
                throw new IOException("the zip unpacks to more than " + MOST_TIMES + " times its size; it is refused");
            }
            if (total > mostBytes) {
                break;
            }
        }
        return bytes.toByteArray();
    }

    private static final class Counted extends java.io.FilterInputStream {
        private long count;

        Counted(java.io.InputStream in) {
            super(in);
        }

        @Override
        public int read() throws IOException {
            int b = super.read();
            count += b < 0 ? 0 : 1;
            return b;
        }

        @Override
        public int read(byte[] into, int from, int most) throws IOException {
            int read = super.read(into, from, most);
            count += Math.max(0, read);
            return read;
        }
    }

    private static FlowBundle of(Map<String, byte[]> files) throws IOException {
        FlowFile flow;
        try {
            flow = FlowFile.parse(new String(needed(files, "flow.json"), StandardCharsets.UTF_8));
        } catch (IllegalArgumentException e) {
            throw new IOException("flow.json: " + e.getMessage(), e);
        }
        Map<String, Contract> contracts = new TreeMap<>();
        Map<String, ContractEntry> entries = JSON.readValue(needed(files, "contracts.json"), new TypeReference<>() {});
        for (Map.Entry<String, ContractEntry> entry : entries.entrySet()) {
            GivenDocuments given = new GivenDocuments();
            for (DocumentEntry document : entry.getValue().documents()) {
                given.add(document.name(), needed(files, "documents/" + document.sha256()));
            }
            try {
                contracts.put(
                        entry.getKey(),
                        ContractReader.read(entry.getValue().entries(), given, false, ImportProgress.NONE));
            } catch (ContractRefused e) {
                throw new IOException("contract " + entry.getKey() + ": " + e.getMessage(), e);
            }
        }
        return new FlowBundle(
                flow,
                contracts,
                JSON.readValue(needed(files, "datasets.json"), new TypeReference<Map<String, DatasetSpec>>() {}),
                JSON.readValue(needed(files, "endpoints.json"), new TypeReference<Map<String, EndpointSpec>>() {}),
                JSON.readValue(maybe(files, "code-tables.json"), new TypeReference<Map<String, CodeTable>>() {}),
                JSON.readValue(maybe(files, "series.json"), new TypeReference<Map<String, Series>>() {}),
                JSON.readValue(maybe(files, "values.json"), new TypeReference<Map<String, String>>() {}));
    }

    private static byte[] maybe(Map<String, byte[]> files, String name) {
        return files.getOrDefault(name, "{}".getBytes(StandardCharsets.UTF_8));
    }

    private static byte[] needed(Map<String, byte[]> files, String name) throws IOException {
        byte[] bytes = files.get(name);
        if (bytes == null) {
            throw new IOException("the bundle has no " + name);
        }
        return bytes;
    }
}
