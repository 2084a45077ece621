package wirekettle.server.serve;

import io.vertx.core.Context;
import io.vertx.core.Future;
import io.vertx.core.Vertx;
import io.vertx.core.buffer.Buffer;
import io.vertx.core.http.HttpServerResponse;
import io.vertx.ext.web.RoutingContext;
import io.vertx.ext.web.handler.BodyHandler;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.Map;
import java.util.concurrent.Callable;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.BiConsumer;
import java.util.function.Consumer;

/** Reads what callers send, within bounds over all of them, and writes what they get. */
@ApplicationScoped
class CallerConnection {
    private static final String OVER = "over";
    private static final String TAKEN = "taken";
    private static final int SMALL_BYTES = 16_384;
    private static final long LINGER_MILLIS = 2_000;

    @Inject
    Vertx vertx;

    private final HeldBytes held = new HeldBytes();

    /**
     * Reads the body and goes on with the next route.
     *
     * @param most how large it may be, in bytes
     * @param refused takes what is told in its place
     */
    void read(RoutingContext context, long most, Consumer<Reply> refused) {
        long bytes = size(context, most);
        if (bytes > most) {
            refused.accept(Reply.tooLarge(most));
        } else if (!held.take(bytes)) {
            refused.accept(Reply.later(Reply.BUSY, "Others have sent much that is worked on."));
        } else {
            AtomicBoolean given = new AtomicBoolean();
            Runnable over = () -> {
                if (given.compareAndSet(false, true)) {
                    held.give(bytes);
                }
            };
            context.put(OVER, over);
            // who goes away in the middle holds nothing any more
            context.addEndHandler(ended -> {
                if (context.get(TAKEN) == null) {
                    over.run();
                }
            });
            BodyHandler.create(false).setBodyLimit(most).handle(context);
        }
    }

    private static long size(RoutingContext context, long unknown) {
        String length = context.request().getHeader("Content-Length");
        if (length != null && length.matches("\\d{1,18}")) {
            return Long.parseLong(length);
        }
        return context.request().getHeader("Transfer-Encoding") == null ? 0 : unknown;
    }

    /** What works on a body that was read; over is run once nothing more becomes of it. */
    interface Answering<T> {
        CompletableFuture<T> answer(Runnable over) throws Exception;
    }

    /** Lets a body that was read be worked on, and takes the answer where connections are written. */
    <T> void answer(RoutingContext context, Answering<T> answering, BiConsumer<T, Throwable> told) {
        context.put(TAKEN, true);
        Runnable over = context.get(OVER);
        Context its = vertx.getOrCreateContext();
        Callable<CompletableFuture<T>> work = () -> answering.answer(over);
        // what is small is read at once
        Future<CompletableFuture<T>> working =
                context.body().length() <= SMALL_BYTES ? atOnce(work) : vertx.executeBlocking(work, false);
        working.onComplete(worked -> {
            if (worked.failed()) {
                over.run();
                told.accept(null, worked.cause());
            } else {
                worked.result().whenComplete((done, thrown) -> its.runOnContext(go -> told.accept(done, thrown)));
            }
        });
    }

    private static <T> Future<T> atOnce(Callable<T> what) {
        try {
            return Future.succeededFuture(what.call());
        } catch (Exception e) {
            return Future.failedFuture(e);
        }
    }

    /** Writes an answer; what was not read of a request ends its connection. */
    void write(RoutingContext context, int status, String type, Buffer body, Map<String, String> headers) {
        HttpServerResponse response = context.response();
        if (response.ended() || response.closed()) {
            return;
        }
        response.setStatusCode(status).putHeader("Cache-Control", "no-store");
        headers.forEach(response::putHeader);
        boolean more = size(context, 1) > 0 && !context.request().isEnded();
        if (more) {
            response.putHeader("Connection", "close");
        }
        if (type != null) {
            response.putHeader("Content-Type", type);
        }
        response.end(type == null ? Buffer.buffer() : body).onComplete(done -> {
            if (more) {
                // what is still sent is passed over for a moment, so that the answer is not lost with it
                vertx.setTimer(
                        LINGER_MILLIS, late -> context.request().connection().close());
            }
        });
    }
}
