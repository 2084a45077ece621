package wirekettle.connect;

import java.io.IOException;

/** An address that may not be reached until its host is allowed. */
public final class HostRefused extends IOException {
    private final String host;

    HostRefused(String host, String message) {
        super(message);
        this.host = host;
    }

    /** Returns the entry that would allow it, {@code host:port}. */
    public String host() {
        return host;
    }
}
