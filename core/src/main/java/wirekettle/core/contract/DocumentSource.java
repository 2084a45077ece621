package wirekettle.core.contract;

import java.io.IOException;

/** Where documents come from: files, a zip, addresses. */
@FunctionalInterface
public interface DocumentSource {
    /**
     * Returns the document of that name or address.
     *
     * @throws IOException when it cannot be fetched; the message says why and what to do
     */
    byte[] load(String name) throws IOException;

    /**
     * Returns the name of a schema for a namespace that is imported without a location; null when there is none, which
     * is the case unless documents were given together.
     */
    default String schemaOf(String namespace) {
        return null;
    }
}
