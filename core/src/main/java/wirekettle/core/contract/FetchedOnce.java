package wirekettle.core.contract;

import java.io.IOException;
import java.util.HashMap;
import java.util.Map;

/** A source that hands out what it fetched before; for one reading, by one thread. */
final class FetchedOnce implements DocumentSource {
    private final DocumentSource source;
    private final Map<String, byte[]> fetched = new HashMap<>();

    FetchedOnce(DocumentSource source) {
        this.source = source;
    }

    @Override
    public byte[] load(String name) throws IOException {
        byte[] known = fetched.get(name);
        if (known == null) {
            known = source.load(name);
            fetched.put(name, known);
        }
        return known;
    }

    @Override
    public String schemaOf(String namespace) {
        return source.schemaOf(namespace);
    }
}
