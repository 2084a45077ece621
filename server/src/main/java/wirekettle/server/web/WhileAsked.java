package wirekettle.server.web;

import io.vertx.core.http.HttpServerRequest;
import java.util.concurrent.Callable;

/** Work for a request that ends when nobody waits for its answer any more: its thread is interrupted then. */
public final class WhileAsked {
    private final Thread thread = Thread.currentThread();
    private boolean done;

    private WhileAsked() {}

    /** Does the work; evaluations of expressions look at the interrupt and end. */
    public static <T> T work(HttpServerRequest request, Callable<T> work) throws Exception {
        WhileAsked asked = new WhileAsked();
        request.response().closeHandler(closed -> asked.abandoned());
        try {
            return work.call();
        } finally {
            asked.finish();
        }
    }

    private synchronized void abandoned() {
        if (!done) {
            thread.interrupt();
        }
    }

    private synchronized void finish() {
        done = true;
        // the thread goes back to others: it must not carry the interrupt along
        Thread.interrupted();
    }
}
