package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.HashSet;
import java.util.Iterator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.LongSupplier;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeSize;

/**
 * Asks a dataset for the rows of many keys at once: while one question is on its way, the keys others look for wait,
 * and go together with the next. Rows are kept for a time; the least used are dropped first. Safe for several threads.
 */
final class BatchedRows implements AutoCloseable {
    private static final int MOST_AT_ONCE = 500;
    private static final long KEPT_NANOS = 600_000_000_000L;
    private static final long MOST_BYTES = 32L << 20;
    private static final int OF_AN_ENTRY = 200;

    private record Kept(List<Node> rows, long at, long bytes) {}

    private final KeyedRows dataset;
    private final LongSupplier nanos;
    private final ReentrantLock asking = new ReentrantLock(true);
    private final Map<String, Kept> kept = new LinkedHashMap<>(16, 0.75f, true);
    private final Map<String, CompletableFuture<List<Node>>> wanted = new LinkedHashMap<>();
    private long bytes;

    BatchedRows(KeyedRows dataset, LongSupplier nanos) {
        this.dataset = dataset;
        this.nanos = nanos;
    }

    /** Returns the rows of a key. */
    List<Node> rows(String key) throws IOException {
        CompletableFuture<List<Node>> mine;
        synchronized (this) {
            Kept known = kept.get(key);
            if (known != null && nanos.getAsLong() - known.at() < KEPT_NANOS) {
                return known.rows();
            }
            mine = wanted.computeIfAbsent(key, k -> new CompletableFuture<>());
        }
        asking.lock();
        try {
            while (!mine.isDone()) {
                ask();
            }
        } finally {
            asking.unlock();
        }
        try {
            return mine.join();
        } catch (CompletionException e) {
            throw new IOException(e.getCause().getMessage(), e.getCause());
        }
    }

    private void ask() {
        Map<String, CompletableFuture<List<Node>>> now = new LinkedHashMap<>();
        synchronized (this) {
            Iterator<Map.Entry<String, CompletableFuture<List<Node>>>> each =
                    wanted.entrySet().iterator();
            while (each.hasNext() && now.size() < MOST_AT_ONCE) {
                Map.Entry<String, CompletableFuture<List<Node>>> one = each.next();
                now.put(one.getKey(), one.getValue());
                each.remove();
            }
        }
        try {
            Set<String> keys = new HashSet<>(now.keySet());
            Map<String, List<Node>> found = dataset.rows(keys);
            now.forEach((key, answer) -> {
                List<Node> rows = List.copyOf(found.getOrDefault(key, List.of()));
                keep(key, rows);
                answer.complete(rows);
            });
        } catch (IOException | RuntimeException e) {
            now.values().forEach(answer -> answer.completeExceptionally(e));
        }
    }

    private synchronized void keep(String key, List<Node> rows) {
        long size = OF_AN_ENTRY + rows.stream().mapToLong(NodeSize::of).sum();
        Kept before = kept.put(key, new Kept(rows, nanos.getAsLong(), size));
        bytes += size - (before == null ? 0 : before.bytes());
        Iterator<Kept> oldest = kept.values().iterator();
        while (bytes > MOST_BYTES && oldest.hasNext()) {
            bytes -= oldest.next().bytes();
            oldest.remove();
        }
    }

    @Override
    public void close() throws IOException {
        dataset.close();
    }
}
