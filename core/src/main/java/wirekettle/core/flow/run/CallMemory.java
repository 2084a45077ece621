package wirekettle.core.flow.run;

import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeSize;

/**
 * The replies of one Call by their whole requests, so that the same request is answered from memory. One caller asks,
 * the others wait for its answer; only successes are kept; the least used are dropped first. Safe for several threads.
 */
final class CallMemory {
    private static final long MOST_BYTES = 16 << 20;

    private final long keptNanos;
    private final Map<String, Entry> entries = new LinkedHashMap<>(16, 0.75f, true);
    private long bytes;

    /** Keeps replies for so many seconds, 0 for as long as it lives. */
    CallMemory(int seconds) {
        keptNanos = seconds == 0 ? Long.MAX_VALUE : seconds * 1_000_000_000L;
    }

    /** The place of one request's reply. */
    static final class Entry {
        private final String key;
        private final Thread asker = Thread.currentThread();
        private final CountDownLatch asked = new CountDownLatch(1);
        private volatile Node body;
        private volatile long keptAt;
        private long size;

        private Entry(String key) {
            this.key = key;
        }

        /** Tells whether the thread is the one that asks the service. */
        boolean mine() {
            return asker == Thread.currentThread() && asked.getCount() > 0;
        }

        /** Waits for the answer; null when the asking thread got none, so the caller has to ask. */
        Node waitFor(Stop stop) throws Stopped {
            try {
                while (!asked.await(100, TimeUnit.MILLISECONDS)) {
                    if (stop.stopped()) {
                        throw new Stopped();
                    }
                }
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw new Stopped();
            }
            return body;
        }
    }

    /** Returns the place of a request: a new one is the caller's to fill. */
    synchronized Entry entry(byte[] request) {
        String key = key(request);
        Entry entry = entries.get(key);
        boolean old = entry != null && entry.body != null && System.nanoTime() - entry.keptAt > keptNanos;
        if (entry == null || old) {
            if (old) {
                bytes -= entry.size;
            }
            entry = new Entry(key);
            entries.put(key, entry);
        }
        return entry;
    }

    private static String key(byte[] request) {
        try {
            return request.length <= 64
                    ? HexFormat.of().formatHex(request)
                    : HexFormat.of()
                            .formatHex(MessageDigest.getInstance("SHA-256").digest(request));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
    }

    /** Keeps a reply; one with an attachment in a file is not kept: the file goes with its record. */
    synchronized void keep(Entry entry, Node body) {
        if (!inMemory(body)) {
            return;
        }
        entry.body = body;
        entry.keptAt = System.nanoTime();
        entry.size = NodeSize.of(body);
        bytes += entry.size;
        var oldest = entries.values().iterator();
        while (bytes > MOST_BYTES && oldest.hasNext()) {
            Entry other = oldest.next();
            if (other.body != null && other != entry) {
                bytes -= other.size;
                oldest.remove();
            }
        }
    }

    private static boolean inMemory(Node node) {
        return node.content() == null
                ? node.children().stream().allMatch(CallMemory::inMemory)
                : node.content().inMemory();
    }

    /** Wakes those that wait; a place that was not filled is removed. */
    synchronized void release(Entry entry) {
        if (entry.mine()) {
            if (entry.body == null) {
                entries.remove(entry.key, entry);
            }
            entry.asked.countDown();
        }
    }
}
