package wirekettle.core.flow.run;

import java.io.IOException;
import java.io.InterruptedIOException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import wirekettle.core.flow.file.Stage;

/**
 * Writes a run's ledger in a thread of its own: entries of many records share one durable write. Safe for
 * several threads.
 */
final class LedgerWriter implements Steps.Claims, AutoCloseable {
    private static final int MOST = 2_000;

    private record Ends(List<LedgerLine> lines, Map<String, Long> positions, String watermark) {}

    /** One write to the ledger: what is known of an effect of a record. */
    private record OfRecord(long ordinal, Effect effect) {}

    private record Entry(Claim claim, Ledger.KnownPassage known, Ends ends, CompletableFuture<Void> durable) {}

    private final Ledger ledger;
    private final List<Stage> stages;
    private final LinkedBlockingQueue<Entry> queue = new LinkedBlockingQueue<>();
    private final Thread thread = new Thread(this::work, "run-ledger");
    private volatile Totals totals;
    private volatile long read;
    private volatile boolean closing;
    private volatile Throwable failed;

    LedgerWriter(Ledger ledger, List<Stage> stages, Totals before) {
        this.ledger = ledger;
        this.stages = stages;
        this.totals = before;
        this.read = before.read();
        thread.setDaemon(true);
        thread.start();
    }

    /** Returns what the run has come to; ends are those that are durable. */
    Totals totals() {
        return totals.reading(read);
    }

    void read(long ordinal) {
        read = ordinal;
    }

    /** Returns why the ledger cannot be written any more, or null. */
    Throwable failed() {
        return failed;
    }

    /** Throws when the ledger cannot be written any more. */
    void check() throws IOException {
        Throwable why = failed;
        if (why != null) {
            throw unwritable(why);
        }
    }

    /** Waits until what was given to the ledger is durable. */
    static void durable(CompletableFuture<Void> written) throws IOException {
        try {
            written.get();
        } catch (ExecutionException e) {
            throw unwritable(e.getCause());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new InterruptedIOException("the run was interrupted");
        }
    }

    private static IOException unwritable(Throwable why) {
        return new IOException("the ledger cannot be written: " + why.getMessage(), why);
    }

    @Override
    public void claim(Claim claim) throws Stopped {
        try {
            put(claim, null, null).get();
        } catch (ExecutionException e) {
            // nothing may leave that is in no book: the record has no end
            throw new Stopped();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new Stopped();
        }
    }

    @Override
    public void known(Ledger.KnownPassage known) {
        put(null, known, null);
    }

    /** Takes records that ended, with how far the outputs are durable and the source was read; null for nothing new. */
    CompletableFuture<Void> ends(List<LedgerLine> lines, Map<String, Long> positions, String watermark) {
        return put(null, null, new Ends(List.copyOf(lines), positions, watermark));
    }

    private CompletableFuture<Void> put(Claim claim, Ledger.KnownPassage known, Ends ends) {
        CompletableFuture<Void> durable = new CompletableFuture<>();
        if (failed != null) {
            durable.completeExceptionally(failed);
        } else {
            queue.add(new Entry(claim, known, ends, durable));
            if (failed != null) {
                durable.completeExceptionally(failed);
            }
        }
        return durable;
    }

    private void work() {
        List<Entry> entries = new ArrayList<>();
        while (!closing || !queue.isEmpty()) {
            try {
                Entry first = queue.poll(50, TimeUnit.MILLISECONDS);
                if (first == null) {
                    continue;
                }
                entries.add(first);
                queue.drainTo(entries, MOST);
                keep(entries);
                entries.forEach(each -> each.durable().complete(null));
            } catch (InterruptedException e) {
                fail(entries, e);
                return;
            } catch (IOException | RuntimeException | Error e) {
                fail(entries, e);
                return;
            }
            entries.clear();
        }
    }

    private void keep(List<Entry> entries) throws IOException {
        List<Claim> claims = new ArrayList<>();
        Map<OfRecord, Ledger.KnownPassage> passages = new LinkedHashMap<>();
        List<LedgerLine> ends = new ArrayList<>();
        Map<String, Long> positions = Map.of();
        String watermark = null;
        for (Entry entry : entries) {
            if (entry.claim() != null) {
                Claim claim = entry.claim();
                claims.add(claim);
                // claims are written first: what was known before this one must not hide that it may have left again
                passages.remove(new OfRecord(claim.ordinal(), claim.effect()));
            } else if (entry.known() != null) {
                Ledger.KnownPassage known = entry.known();
                passages.put(new OfRecord(known.ordinal(), known.passage().effect()), known);
            } else {
                ends.addAll(entry.ends().lines());
                positions = entry.ends().positions();
                watermark = entry.ends().watermark() == null
                        ? watermark
                        : entry.ends().watermark();
            }
        }
        Totals then = totals.with(ends, stages);
        ledger.keep(new Ledger.Batch(
                claims, List.copyOf(passages.values()), ends, positions, watermark, then.reading(read)));
        totals = then;
    }

    private void fail(List<Entry> entries, Throwable why) {
        failed = why;
        queue.drainTo(entries);
        entries.forEach(each -> each.durable().completeExceptionally(why));
    }

    /** Writes what is left and ends. */
    @Override
    public void close() {
        closing = true;
        boolean interrupted = false;
        while (thread.isAlive()) {
            try {
                thread.join();
            } catch (InterruptedException e) {
                interrupted = true;
            }
        }
        if (interrupted) {
            Thread.currentThread().interrupt();
        }
    }
}
