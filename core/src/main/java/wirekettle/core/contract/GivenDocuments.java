package wirekettle.core.contract;

import java.io.FileNotFoundException;
import java.io.IOException;
import java.util.LinkedHashMap;
import java.util.Map;

/** Documents given together: uploaded files, the entries of a zip, pasted text. Found by path, then by file name. */
public final class GivenDocuments implements DocumentSource {
    private final Map<String, byte[]> files = new LinkedHashMap<>();

    /** Adds a document under a path with forward slashes. */
    public GivenDocuments add(String path, byte[] bytes) {
        files.put(path, bytes);
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
        String wanted = fileName(name);
        for (Map.Entry<String, byte[]> entry : files.entrySet()) {
            if (fileName(entry.getKey()).equals(wanted)) {
                return entry.getValue();
            }
        }
        throw new FileNotFoundException("it is not among the files given; add it and import again");
    }

    private static String fileName(String path) {
        String plain = path.split("[?#]")[0];
        return plain.substring(plain.lastIndexOf('/') + 1);
    }
}
