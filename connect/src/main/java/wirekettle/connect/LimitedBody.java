package wirekettle.connect;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.net.http.HttpResponse;
import java.nio.ByteBuffer;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionStage;
import java.util.concurrent.Executors;
import java.util.concurrent.Flow;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.ScheduledFuture;
import java.util.concurrent.TimeUnit;
import java.util.zip.GZIPInputStream;

/** Collects an answer's body up to a size and a point in time, and gives up beyond either. */
final class LimitedBody implements HttpResponse.BodySubscriber<byte[]> {
    /** Ends what takes too long. */
    static final ScheduledExecutorService DEADLINES = Executors.newSingleThreadScheduledExecutor(task -> {
        Thread thread = new Thread(task, "http-deadlines");
        thread.setDaemon(true);
        return thread;
    });

    private final long max;
    private final CompletableFuture<byte[]> done = new CompletableFuture<>();
    // kept in pieces and put together once: a buffer that grows would need twice the memory
    private final List<byte[]> collected = new ArrayList<>();
    private long size;
    private final ScheduledFuture<?> late;
    private volatile Flow.Subscription subscription;

    LimitedBody(long max, long deadline) {
        this.max = max;
        late = DEADLINES.schedule(
                () -> giveUp(new TooLate()), Math.max(0, deadline - System.nanoTime()), TimeUnit.NANOSECONDS);
    }

    private void giveUp(IOException why) {
        done.completeExceptionally(why);
        Flow.Subscription open = subscription;
        if (open != null) {
            open.cancel();
        }
    }

    @Override
    public CompletionStage<byte[]> getBody() {
        return done;
    }

    @Override
    public void onSubscribe(Flow.Subscription given) {
        subscription = given;
        given.request(Long.MAX_VALUE);
    }

    @Override
    public void onNext(List<ByteBuffer> buffers) {
        for (ByteBuffer buffer : buffers) {
            byte[] chunk = new byte[buffer.remaining()];
            buffer.get(chunk);
            size += chunk.length;
            if (size > max) {
                late.cancel(false);
                collected.clear();
                giveUp(new TooLarge());
                return;
            }
            collected.add(chunk);
        }
    }

    @Override
    public void onError(Throwable throwable) {
        late.cancel(false);
        done.completeExceptionally(throwable);
    }

    @Override
    public void onComplete() {
        late.cancel(false);
        byte[] whole = new byte[(int) size];
        int at = 0;
        for (byte[] chunk : collected) {
            System.arraycopy(chunk, 0, whole, at, chunk.length);
            at += chunk.length;
        }
        collected.clear();
        done.complete(whole);
    }

    /** Returns a body unpacked where its headers say that it is packed; it too may not pass the limit. */
    static byte[] unpacked(byte[] body, Map<String, String> headers, long maxBytes) throws BrokenGzip {
        if (!"gzip".equalsIgnoreCase(headers.get("content-encoding")) || body.length == 0) {
            return body;
        }
        try (InputStream in = new GZIPInputStream(new ByteArrayInputStream(body))) {
            byte[] plain = in.readNBytes((int) Math.min(Integer.MAX_VALUE - 16, maxBytes + 1));
            if (plain.length > maxBytes) {
                throw new IOException("the answer unpacks to more than " + (maxBytes >> 20) + " MB");
            }
            return plain;
        } catch (IOException e) {
            throw new BrokenGzip("the answer says it is gzip but cannot be unpacked: " + e.getMessage());
        }
    }

    static final class TooLarge extends IOException {}

    static final class TooLate extends IOException {}

    static final class BrokenGzip extends IOException {
        BrokenGzip(String message) {
            super(message);
        }
    }
}
