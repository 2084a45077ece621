package wirekettle.core.contract;

import java.io.IOException;

/** Where documents come from: files, a zip, addresses. */
@FunctionalInterface
public interface DocumentSource {
    /**
     * Returns the document of that name or address.
     *
     * @throws IOException when it cannot be had; its message says why and what to do
     */
    byte[] load(String name) throws IOException;
}
