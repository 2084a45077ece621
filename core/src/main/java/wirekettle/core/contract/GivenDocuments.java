package wirekettle.core.contract;

import java.io.FileNotFoundException;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.Map;

/** Documents given together: uploaded files, the entries of a zip, pasted text. Found by path, then by file name. */
public final class GivenDocuments implements DocumentSource {
    private final Map<String, byte[]> files = new LinkedHashMap<>();
    private final Map<String, String> unavailable = new LinkedHashMap<>();

    /** Adds a document under a path with forward slashes. */
    public GivenDocuments add(String path, byte[] bytes) {
        files.put(path, bytes);
        return this;
    }

    /** Notes why a document could not be fetched, so that the reason can be repeated. */
    public GivenDocuments missing(String path, String reason) {
        unavailable.put(path, reason);
        return this;
    }

    /** Returns all documents in the order they were given. */
    public Map<String, byte[]> files() {
        return files;
    }

    @Override
    public byte[] load(String name) throws IOException {
        byte[] exact = files.get(name);
        if (exact != null) {
            return exact;
        }
        if (unavailable.containsKey(name)) {
            throw new FileNotFoundException(unavailable.get(name));
        }
        String wanted = fileName(name);
        for (Map.Entry<String, byte[]> entry : files.entrySet()) {
            if (fileName(entry.getKey()).equals(wanted)) {
                return entry.getValue();
            }
        }
        throw new FileNotFoundException("it is not among the files given; add it and import again");
    }

    @Override
    public String schemaOf(String namespace) {
        for (Map.Entry<String, byte[]> entry : files.entrySet()) {
            String start = new String(
                    entry.getValue(), 0, Math.min(entry.getValue().length, 8000), StandardCharsets.ISO_8859_1);
            boolean schema = start.contains("schema") && !start.contains("definitions");
            if (schema
                    && (start.contains("targetNamespace=\"" + namespace + "\"")
                            || start.contains("targetNamespace='" + namespace + "'"))) {
                return entry.getKey();
            }
        }
        return null;
    }

    private static String fileName(String path) {
        String plain = path.split("[?#]")[0];
        return plain.substring(plain.lastIndexOf('/') + 1);
    }
}
