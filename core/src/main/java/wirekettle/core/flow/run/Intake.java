package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.concurrent.locks.ReentrantLock;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeSize;

/**
 * Takes records from the source, one after the other, as there is room and memory for them; those that ended in an
 * earlier part of the run are only compared. Safe for several threads.
 */
final class Intake {
    /** A record to be worked on. */
    record Task(
            long ordinal,
            RecordSource.Item item,
            Past.OpenRecord past,
            RecordWork.TakenBack back,
            MemoryBudget.Share memory) {}

    private final RecordSource source;
    private final Past past;
    private final FlowRun.Extent how;
    private final RunParts parts;
    private final ReentrantLock reading = new ReentrantLock();
    private volatile boolean closed;
    private volatile boolean all;
    private volatile long last = Long.MAX_VALUE;
    private volatile IOException failure;
    /** How many records were taken from the source; changed only by the thread that holds {@link #reading}. */
    private long taken;

    Intake(RecordSource source, Past past, FlowRun.Extent how, RunParts parts) {
        this.source = source;
        this.past = past;
        this.how = how;
        this.parts = parts;
    }

    /** Returns the last record there is, {@link Long#MAX_VALUE} while there may be others. */
    long last() {
        return last;
    }

    /** Tells whether everything was read. */
    boolean all() {
        return all;
    }

    /** Returns why the source could not be read, or null. */
    IOException failure() {
        return failure;
    }

    /** Lets nothing more be taken. */
    void close() {
        closed = true;
    }

    /** Takes the next record that has no end yet from the source; null when there is nothing more to read. */
    Task next() throws InterruptedException {
        reading.lockInterruptibly();
        try {
            Task task = null;
            while (task == null && last == Long.MAX_VALUE && !closed) {
                task = read();
            }
            return task;
        } finally {
            reading.unlock();
        }
    }

    private Task read() throws InterruptedException {
        try {
            if (!parts.stop().stopped() && taken < how.most()) {
                RecordSource.Item item = source.next();
                if (item != null) {
                    Task task = begun(taken + 1, item);
                    taken++;
                    if (parts.batches() != null && task != null) {
                        parts.batches().begins();
                    }
                    return task;
                }
                all = true;
            }
            all |= !parts.stop().stopped() && taken >= how.most() && how.pilot() && source.next() == null;
        } catch (PagedSource.ReadStopped e) {
            // the run is over
        } catch (IOException e) {
            failure = e;
        } catch (InterruptedException | Stopped e) {
            // the run is over
        } catch (Throwable e) {
            failure = new IOException("the run could not go on: " + e, e);
        }
        last = taken;
        reads(false);
        return null;
    }

    /** Says whether records may still come to a batch that are not read yet. */
    private void reads(boolean more) {
        if (parts.batches() != null) {
            parts.batches().reads(more);
        }
    }

    /** Returns the work for a record; null for one that ended before, which is only compared. */
    private Task begun(long next, RecordSource.Item given) throws IOException, InterruptedException, Stopped {
        if (!parts.window().takes(next)) {
            reads(false);
            while (!parts.window().takes(next)) {
                if (closed) {
                    throw new Stopped();
                }
                Thread.sleep(1);
            }
            reads(true);
        }
        Node corrected = past.corrected(next, given.node());
        RecordSource.Item item =
                corrected == given.node() ? given : new RecordSource.Item(corrected, given.problem(), given.fits());
        String fingerprint = past.ended(next);
        if (parts.watermark() != null) {
            parts.watermark().reads(next, item.node(), fingerprint != null);
        }
        if (fingerprint != null) {
            same(next, item, fingerprint);
            parts.window().put(next, Window.NOTHING);
            return null;
        }
        Past.OpenRecord known = past.open(next);
        String seen = known == null ? past.seen(next) : known.fingerprint();
        // what was corrected is another one than it was, and meant to be
        if (seen != null && item == given) {
            same(next, item, seen);
        }
        MemoryBudget.Share share = parts.shares().open(next);
        if (parts.window().head() == next) {
            share.goFirst();
        }
        room(share, item.node() == null ? 0 : NodeSize.of(item.node()));
        parts.books().read(Math.max(next, parts.books().totals().read()));
        if (parts.order() != null) {
            parts.order().reads(next, parts.work().key(item.node()));
        }
        Replay did = past.takesBack(next);
        RecordWork.TakenBack back = did == null ? null : new RecordWork.TakenBack(given.node(), did);
        return new Task(next, item, known, back, share);
    }

    private void room(MemoryBudget.Share share, long bytes) throws IOException, InterruptedException {
        try {
            share.grow(bytes, System.nanoTime());
        } catch (MemoryBudget.Full e) {
            reads(false);
            try {
                share.grow(bytes, Long.MAX_VALUE);
            } catch (MemoryBudget.Full never) {
                throw new IOException(never.getMessage(), never);
            }
            reads(true);
        }
    }

    private static void same(long ordinal, RecordSource.Item item, String fingerprint) throws IOException {
        String now = Fingerprint.of(item.node());
        if (!now.equals(fingerprint)) {
            throw new IOException("the source has changed since the run began: record " + ordinal
                    + " is another now. Bring the old content back to go on, or start a new run");
        }
    }
}
