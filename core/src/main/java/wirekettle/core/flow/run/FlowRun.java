package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.AtomicLong;
import wirekettle.core.flow.compile.PreparedFlow;
import wirekettle.core.soap.FailureClass;

/**
 * Runs a prepared flow over a source: several records at once, outcomes in input order, memory bounded by a window. A
 * record is acknowledged only after its rows are flushed and its ledger line is durable.
 */
public final class FlowRun {
    private static final int WINDOW = 512;
    private static final int BATCH = 500;
    private static final long FLUSH_MILLIS = 100;

    private final RecordWork work;
    private final RecordSource source;
    private final Outputs outputs;
    private final Ledger ledger;
    private final int atOnce;
    private final long limit;
    private final AtomicLong written = new AtomicLong();
    private final AtomicLong rejected = new AtomicLong();
    private final AtomicLong inDoubt = new AtomicLong();
    private final AtomicLong rows = new AtomicLong();
    private final AtomicLong read = new AtomicLong();
    private final AtomicLong calls = new AtomicLong();
    private volatile boolean cancelled;
    private volatile boolean takePart;
    private volatile long claimed;
    private volatile boolean over;
    private volatile IOException readFailure;

    /**
     * Makes a run.
     *
     * @param limit how many records at most, 0 for all
     */
    public FlowRun(
            PreparedFlow flow, RecordWork work, RecordSource source, Outputs outputs, Ledger ledger, long limit) {
        this.work = work;
        this.source = GroupedSource.of(source, flow.read().groupBy());
        this.outputs = outputs;
        this.ledger = ledger;
        this.atOnce = flow.call().delivery().atOnce();
        this.limit = limit <= 0 ? Long.MAX_VALUE : limit;
    }

    /**
     * Where a run stands. Counts are of records whose ledger line is durable.
     *
     * @param read records read so far
     * @param written records written
     * @param rejected records rejected
     * @param inDoubt records in doubt
     * @param rows rows written
     * @param calls tries to call
     */
    public record Counts(long read, long written, long rejected, long inDoubt, long rows, long calls) {}

    /** Returns the counts as they are now. */
    public Counts counts() {
        return new Counts(read.get(), written.get(), rejected.get(), inDoubt.get(), rows.get(), calls.get());
    }

    /**
     * Asks the run to end: nothing new is sent, what is on its way is waited for and kept.
     *
     * @param takeResults whether what was written so far takes the place of what the files held before; else they stay
     */
    public void cancel(boolean takeResults) {
        takePart = takeResults;
        cancelled = true;
    }

    /** Tells whether the run was asked to end. */
    public boolean cancelled() {
        return cancelled;
    }

    private record Pending(RecordSource.Item item, CompletableFuture<RecordWork.Done> done) {}

    /**
     * Runs to the end and returns the counts.
     *
     * @throws IOException when the source, the sink or the ledger fails as a whole; what is done is kept
     */
    public Counts run() throws IOException {
        ExecutorService workers = Executors.newFixedThreadPool(atOnce, task -> {
            Thread thread = new Thread(task, "run-worker");
            thread.setDaemon(true);
            return thread;
        });
        BlockingQueue<Pending> window = new ArrayBlockingQueue<>(WINDOW);
        Thread reader = new Thread(() -> feed(workers, window), "run-reader");
        reader.setDaemon(true);
        reader.start();
        boolean whole = false;
        try {
            finishInOrder(window);
            whole = readFailure == null && (!cancelled || takePart);
        } finally {
            over = true;
            workers.shutdownNow();
            if (!whole) {
                // half a file never takes the place of a whole one
                outputs.leave();
            }
        }
        if (readFailure != null) {
            throw readFailure;
        }
        if (whole) {
            outputs.finish();
        }
        return counts();
    }

    private void feed(ExecutorService workers, BlockingQueue<Pending> window) {
        try {
            while (!cancelled && read.get() < limit) {
                RecordSource.Item item = source.next();
                if (item == null) {
                    break;
                }
                long ordinal = read.incrementAndGet();
                if (ordinal > claimed) {
                    ledger.claim(ordinal + 4L * atOnce);
                    claimed = ordinal + 4L * atOnce;
                }
                CompletableFuture<RecordWork.Done> done = new CompletableFuture<>();
                put(window, new Pending(item, done));
                workers.execute(() -> {
                    try {
                        // what waits for its turn when the run is cancelled is never sent and gets no line
                        done.complete(cancelled ? null : work.process(ordinal, item, () -> cancelled));
                    } catch (Throwable e) {
                        done.completeExceptionally(e);
                    }
                });
            }
        } catch (IOException e) {
            readFailure = e;
        } catch (RuntimeException e) {
            readFailure = new IOException("the run could not go on: " + e.getMessage(), e);
        } finally {
            put(window, new Pending(null, null));
        }
    }

    private void put(BlockingQueue<Pending> window, Pending pending) {
        try {
            while (!over && !window.offer(pending, 200, TimeUnit.MILLISECONDS)) {
                // the window is full: whoever finishes in order makes room
            }
        } catch (InterruptedException e) {
            cancelled = true;
        }
    }

    private void finishInOrder(BlockingQueue<Pending> window) throws IOException {
        List<LedgerLine> batch = new ArrayList<>();
        long lastFlush = System.nanoTime();
        try {
            while (true) {
                Pending next = window.poll(FLUSH_MILLIS, TimeUnit.MILLISECONDS);
                if (next != null && next.item() == null) {
                    break;
                }
                if (next != null) {
                    RecordWork.Done done = await(next, batch);
                    if (done != null) {
                        outputs.write(done.line().ordinal(), done.rows());
                        batch.add(done.line());
                    }
                }
                if (batch.size() >= BATCH || System.nanoTime() - lastFlush > FLUSH_MILLIS * 1_000_000) {
                    flush(batch);
                    lastFlush = System.nanoTime();
                }
            }
            flush(batch);
        } catch (InterruptedException e) {
            cancelled = true;
            flush(batch);
            Thread.currentThread().interrupt();
        }
    }

    /** Waits for one record; what is ready before it does not wait for a slow answer to become durable. */
    private RecordWork.Done await(Pending next, List<LedgerLine> batch) throws IOException, InterruptedException {
        while (true) {
            try {
                return next.done().get(FLUSH_MILLIS, TimeUnit.MILLISECONDS);
            } catch (TimeoutException e) {
                flush(batch);
            } catch (java.util.concurrent.ExecutionException e) {
                throw new IOException("a record could not be worked on: " + e.getCause(), e.getCause());
            }
        }
    }

    private void flush(List<LedgerLine> batch) throws IOException {
        if (batch.isEmpty()) {
            return;
        }
        Map<Long, Outputs.Refused> refused = outputs.flush();
        List<LedgerLine> lines = refused.isEmpty()
                ? batch
                : batch.stream().map(l -> refused(l, refused)).toList();
        // far enough ahead for the reader never to wait, near enough to say after a crash what may have been sent
        long ahead = Math.max(claimed, read.get() + Math.max(4L * atOnce, 3L * batch.size()));
        ledger.append(lines, outputs.offset(), ahead);
        claimed = Math.max(claimed, ahead);
        for (LedgerLine line : lines) {
            switch (line.outcome()) {
                case WRITTEN -> written.incrementAndGet();
                case REJECTED -> rejected.incrementAndGet();
                case IN_DOUBT -> inDoubt.incrementAndGet();
            }
            rows.addAndGet(line.rows());
            calls.addAndGet(line.attempts().size());
        }
        batch.clear();
    }

    private LedgerLine refused(LedgerLine line, Map<Long, Outputs.Refused> refused) {
        Outputs.Refused reason = refused.get(line.ordinal());
        return reason == null || line.outcome() != Outcome.WRITTEN
                ? line
                : new LedgerLine(
                        line.ordinal(),
                        line.key(),
                        line.fingerprint(),
                        Outcome.REJECTED,
                        0,
                        FailureClass.WRITE,
                        "row refused",
                        reason.reason(),
                        reason.stage(),
                        null,
                        line.note(),
                        line.input(),
                        line.attempts(),
                        line.exchange());
    }
}
