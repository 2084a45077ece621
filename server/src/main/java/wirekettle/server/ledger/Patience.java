package wirekettle.server.ledger;

import java.io.IOException;
import java.io.InterruptedIOException;

/** Waits for a database that is away: two minutes, looking twice a second. For one thread. */
public final class Patience {
    private static final long NANOS = 120_000_000_000L;
    private static final long PAUSE_MILLIS = 500;

    private final long until = System.nanoTime() + NANOS;

    /** Tells whether it has waited long enough. */
    public boolean over() {
        return System.nanoTime() > until;
    }

    /** Waits a moment. */
    public void pause() throws IOException {
        try {
            Thread.sleep(PAUSE_MILLIS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new InterruptedIOException("interrupted while the database was away");
        }
    }
}
