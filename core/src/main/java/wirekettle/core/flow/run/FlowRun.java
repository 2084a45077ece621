package wirekettle.core.flow.run;

import java.io.IOException;
import java.io.InterruptedIOException;
import java.io.UncheckedIOException;
import java.util.ArrayList;
import java.util.Collections;
import java.util.IdentityHashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.ReentrantLock;
import wirekettle.core.flow.compile.CompiledBatch;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.AfterLast;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeSize;

/**
 * Runs a flow over a source: several records at once, ends in input order, memory bounded in bytes. A record has ended
 * when its rows are flushed and its ledger line is durable. A run that was interrupted or paused goes on from its
 * ledger.
 */
public final class FlowRun {
    private static final int WINDOW = 1024;
    private static final int BATCH = 500;
    private static final long COMPANY_NANOS = 100_000_000;
    private static final int MOST_THREADS = 256;

    /** How a run came to its end. */
    public enum Ended {
        /** Everything was read and has an end. */
        DONE,
        /** Somebody cancelled it. */
        CANCELLED,
        /** Somebody paused it, or it was a pilot: it goes on with the rest. */
        PAUSED,
        /** A failure lane stopped the run. */
        STOPPED
    }

    private final CompiledFlow flow;
    private final RecordWork work;
    private final RecordSource source;
    private final PagedSource pages;
    private final Watermark watermark;
    private final Outputs outputs;
    private final LedgerWriter books;
    private final Past past;
    private final Doors doors;
    private final Extent how;
    private final Window window;
    private final ReentrantLock reading = new ReentrantLock();
    private final Map<Long, MemoryBudget.Share> shares = new java.util.concurrent.ConcurrentHashMap<>();
    private final KeyOrder order;
    private final CarryOver carry;
    private final Batches batches;
    private final ThreadPoolExecutor together;
    private volatile boolean cancelled;
    private volatile boolean paused;
    private volatile boolean takePart;
    private volatile boolean stoppedByLane;
    private volatile boolean over;
    private volatile boolean readAll;
    private volatile long last = Long.MAX_VALUE;
    private volatile IOException readFailure;
    private final OnceWork once;
    private Map<String, Node> made;
    private volatile String note;
    /** How many records were taken from the source; changed only by the thread that holds {@link #reading}. */
    private long taken;

    /**
     * How far a run goes.
     *
     * @param limit how many records at most, 0 for all
     * @param pilot whether it is paused at the limit, to go on with the rest, instead of done
     */
    public record Extent(long limit, boolean pilot) {
        /** All records. */
        public static final Extent ALL = new Extent(0, false);

        /** Only the first records. */
        public static Extent only(long limit) {
            return new Extent(limit, false);
        }

        private long most() {
            return limit <= 0 ? Long.MAX_VALUE : limit;
        }
    }

    private record Task(long ordinal, RecordSource.Item item, Past.OpenRecord past, MemoryBudget.Share memory) {}

    /** Makes a run. */
    public FlowRun(
            CompiledFlow flow,
            Doors doors,
            RunNames names,
            RecordSource source,
            Outputs outputs,
            Ledger ledger,
            Past past,
            Extent how) {
        this.flow = flow;
        this.doors = doors;
        this.past = past;
        this.how = how;
        this.outputs = outputs;
        if (source instanceof PagedSource paged) {
            paged.asks(flow, doors, names, this::stopping);
        }
        this.pages = source instanceof PagedSource paged ? paged : null;
        this.source =
                PickedSource.of(GroupedSource.of(source, flow.source().stage().groupBy()), past.picked());
        this.books = new LedgerWriter(ledger, flow.file().all(), past.totals());
        this.once = new OnceWork(flow, doors, names, books, outputs, past);
        this.work = new RecordWork(flow, doors, names, books, this::stopping);
        this.order = flow.source().stage().keepsOrder() ? new KeyOrder(past.held()) : null;
        this.carry = flow.source().carried().isEmpty() ? null : new CarryOver(flow.source(), past);
        boolean marks = flow.source().watermark() != null && past.picked() == null;
        this.watermark = marks ? new Watermark(flow.source()) : null;
        this.window = new Window(WINDOW, 1, order != null);
        boolean batched = !flow.all(CompiledBatch.class).isEmpty();
        this.batches = batched ? work.batches() : null;
        this.together = batched ? threads() : null;
        if (batched) {
            batches.of(new Together());
        }
    }

    private ThreadPoolExecutor threads() {
        int most = workers();
        ThreadPoolExecutor threads =
                new ThreadPoolExecutor(most, most, 10, TimeUnit.SECONDS, new LinkedBlockingQueue<>(), task -> {
                    Thread thread = new Thread(task, "run-batch");
                    thread.setDaemon(true);
                    return thread;
                });
        threads.allowCoreThreadTimeOut(true);
        return threads;
    }

    /** Batches go their way in threads of their own, and so do their records afterwards. */
    private final class Together implements Batches.Run {
        @Override
        public void go(BatchStep batch, List<Item> members) {
            together.execute(() -> {
                Set<Item> left = Collections.newSetFromMap(new IdentityHashMap<>());
                left.addAll(members);
                try {
                    if (!stopping()) {
                        batch.go(members, item -> {
                            left.remove(item);
                            together.execute(() -> worked(item.ordinal(), () -> work.goOn(item)));
                        });
                    }
                } catch (Stopped e) {
                    // its records have no end yet
                } catch (Throwable e) {
                    left.forEach(item -> ended(item.ordinal(), e));
                    return;
                }
                left.forEach(item -> ended(item.ordinal(), Window.NOTHING));
            });
        }

        @Override
        public void leave(Item item) {
            window.put(item.ordinal(), Window.NOTHING);
        }
    }

    /** Returns where the run stands. */
    public Totals totals() {
        return books.totals();
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

    /** Asks the run to pause: what is on its way is waited for; it goes on from its ledger. */
    public void pause() {
        paused = true;
    }

    /** Tells whether nothing new is sent. */
    public boolean stopping() {
        return cancelled || paused || stoppedByLane || books.failed() != null;
    }

    /**
     * Runs until there is nothing more to do.
     *
     * @return how it ended
     * @throws IOException when the source, a target or the ledger fails as a whole; what is durable is kept
     */
    public Ended run() throws IOException {
        List<Thread> threads = new ArrayList<>();
        Ended ended = null;
        try {
            if (before()) {
                for (int i = 0; i < workers(); i++) {
                    threads.add(started(this::work, "run-worker"));
                }
                finishInOrder();
            }
            ended = ended();
            after(ended);
        } catch (IOException e) {
            farewell(e);
            throw e;
        } finally {
            over = true;
            threads.forEach(Thread::interrupt);
            if (together != null) {
                together.shutdownNow();
            }
            books.close();
            shares.values().forEach(MemoryBudget.Share::close);
            if (ended == null || ended == Ended.STOPPED || ended == Ended.CANCELLED && !takePart) {
                // half a file never takes the place of a whole one
                outputs.leave();
            }
        }
        if (readFailure != null) {
            throw readFailure;
        }
        if (ended == Ended.DONE || ended == Ended.CANCELLED && takePart) {
            outputs.finish();
        }
        return ended;
    }

    /** Runs what comes before the first record; tells whether there may be records now. */
    private boolean before() throws IOException {
        try {
            Map<String, Node> its = once.before(this::stopping);
            work.base(its);
            if (pages != null) {
                pages.base(its);
            }
            made = its;
            return true;
        } catch (Stopped e) {
            if (books.failed() != null) {
                throw new IOException(
                        "the ledger cannot be written: " + books.failed().getMessage(), books.failed());
            }
            return false;
        }
    }

    /** Runs what comes after the last record, where the flow wants it after such a run. */
    private void after(Ended ended) throws IOException {
        AfterLast.When when = ended == null || ended == Ended.STOPPED
                ? AfterLast.When.FAILED
                : ended == Ended.CANCELLED
                        ? AfterLast.When.CANCELLED
                        : totals().read() == 0 ? AfterLast.When.EMPTY : AfterLast.When.DONE;
        if (ended == Ended.PAUSED
                || made == null
                || flow.after() == null
                || !flow.after().stage().when().contains(when)) {
            return;
        }
        try {
            note = once.after(made, totals());
        } catch (AfterFailed e) {
            if (when == AfterLast.When.DONE || when == AfterLast.When.EMPTY) {
                throw e;
            }
            note = e.getMessage(); // the run is over all the same
        }
    }

    /** What is run after a run that failed, is run although it broke off, as long as the ledger can be written. */
    private void farewell(IOException why) {
        if (why instanceof AfterFailed || why instanceof InterruptedIOException || books.failed() != null) {
            return;
        }
        try {
            after(null);
        } catch (IOException e) {
            why.addSuppressed(e);
        }
    }

    /** Returns what is in doubt of what was run after the last record, null for nothing. */
    public String note() {
        return note;
    }

    private Ended ended() {
        if (readFailure != null) {
            return null;
        }
        if (stoppedByLane) {
            return Ended.STOPPED;
        }
        if (cancelled) {
            return Ended.CANCELLED;
        }
        return paused || how.pilot() && !readAll ? Ended.PAUSED : Ended.DONE;
    }

    private static Thread started(Runnable what, String name) {
        Thread thread = new Thread(what, name);
        thread.setDaemon(true);
        thread.start();
        return thread;
    }

    /** As many as may be on the wire, and some that map, judge or wait for the ledger meanwhile. */
    private int workers() {
        int wire = 0;
        boolean changes = false;
        for (CompiledCall call : flow.all(CompiledCall.class)) {
            wire += call.stage().delivery().atOnce();
            changes |= !call.stage().delivery().reads();
        }
        return Math.max(2, Math.min(MOST_THREADS, wire * (changes ? 2 : 1) + 2));
    }

    /** Takes the next record that has no end yet from the source; null when there is nothing more to read. */
    private Task next() throws InterruptedException {
        reading.lockInterruptibly();
        try {
            Task task = null;
            while (task == null && last == Long.MAX_VALUE && !over) {
                task = read();
            }
            return task;
        } finally {
            reading.unlock();
        }
    }

    private Task read() throws InterruptedException {
        try {
            if (!stopping() && taken < how.most()) {
                RecordSource.Item item = source.next();
                if (item != null) {
                    Task task = begun(taken + 1, item);
                    taken++;
                    if (batches != null && task != null) {
                        batches.begins();
                    }
                    return task;
                }
                readAll = true;
            }
            readAll |= !stopping() && taken >= how.most() && how.pilot() && source.next() == null;
        } catch (PagedSource.ReadStopped e) {
            // the run is over
        } catch (IOException e) {
            readFailure = e;
        } catch (InterruptedException | Stopped e) {
            // the run is over
        } catch (Throwable e) {
            readFailure = new IOException("the run could not go on: " + e, e);
        }
        last = taken;
        reads(false);
        return null;
    }

    /** Says whether records may still come to a batch that are not read yet. */
    private void reads(boolean more) {
        if (batches != null) {
            batches.reads(more);
        }
    }

    /** Returns the work for a record; null for one that ended before, which is only compared. */
    private Task begun(long next, RecordSource.Item item) throws IOException, InterruptedException, Stopped {
        if (!window.takes(next)) {
            reads(false);
            while (!window.takes(next)) {
                if (over) {
                    throw new Stopped();
                }
                Thread.sleep(1);
            }
            reads(true);
        }
        String fingerprint = past.ended(next);
        if (watermark != null) {
            watermark.reads(next, item.node(), fingerprint != null);
        }
        if (fingerprint != null) {
            same(next, item, fingerprint);
            window.put(next, Window.NOTHING);
            return null;
        }
        Past.OpenRecord known = past.open(next);
        String seen = known == null ? past.seen(next) : known.fingerprint();
        if (seen != null) {
            same(next, item, seen);
        }
        MemoryBudget.Share share = doors.memory().share();
        shares.put(next, share);
        if (window.head() == next) {
            share.goFirst();
        }
        room(share, item.node() == null ? 0 : NodeSize.of(item.node()));
        books.read(Math.max(next, books.totals().read()));
        if (order != null) {
            order.reads(next, work.key(item.node()));
        }
        return new Task(next, item, known, share);
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

    private void work() {
        try {
            for (Task next = next(); next != null; next = next()) {
                Task task = next;
                worked(task.ordinal(), () -> begun(task));
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private interface Piece {
        RecordWork.RecordResult work() throws Stopped;
    }

    /** Does a piece of work for a record: until its end, or until it waits in a batch. */
    private void worked(long ordinal, Piece piece) {
        Object done;
        try {
            RecordWork.RecordResult result = piece.work();
            if (result != null && result.line() == null) {
                batches.join(result.item());
                return;
            }
            done = result == null ? Window.NOTHING : result;
        } catch (Stopped e) {
            done = Window.NOTHING;
        } catch (Throwable e) {
            done = e;
        }
        ended(ordinal, done);
    }

    private void ended(long ordinal, Object done) {
        window.put(ordinal, done);
        if (batches != null) {
            batches.rests();
        }
    }

    /** Works on a record from its beginning; returns null when the run stops. */
    private RecordWork.RecordResult begun(Task task) throws Stopped {
        if (stopping()) {
            return null;
        }
        Long behind = null;
        Node carried = null;
        if (order != null) {
            turn(task.ordinal());
            String key = work.key(task.item().node());
            behind = order.heldBehind(key);
            carried = carried(key, task.ordinal());
        }
        return work.process(task.ordinal(), task.item(), task.past(), behind, carried, task.memory());
    }

    private Node carried(String key, long ordinal) {
        try {
            return carry == null ? null : carry.before(key, ordinal);
        } catch (IOException e) {
            throw new UncheckedIOException("what the record before it handed on cannot be read", e);
        }
    }

    /** Waits for the record before it of the same key; meanwhile it can come to no batch. */
    private void turn(long ordinal) throws Stopped {
        if (batches != null) {
            batches.rests();
        }
        try {
            order.turn(ordinal, this::stopping);
        } finally {
            if (batches != null) {
                batches.begins();
            }
        }
    }

    private void finishInOrder() throws IOException {
        List<RecordWork.RecordResult> batch = new ArrayList<>();
        CompletableFuture<Void> written = CompletableFuture.completedFuture(null);
        long since = 0;
        while (window.head() <= last) {
            MemoryBudget.Share share = shares.get(window.head());
            if (share != null) {
                share.goFirst();
            }
            long patience = batch.isEmpty() ? COMPANY_NANOS : since + patience() - System.nanoTime();
            long ordinal = window.head();
            if (batches != null) {
                batches.tick(stopping());
            }
            Object done = window.take(Math.max(0, patience));
            if (Thread.currentThread().isInterrupted()) {
                throw new InterruptedIOException("the run was interrupted");
            }
            if (done instanceof RecordWork.RecordResult record) {
                since = batch.isEmpty() ? System.nanoTime() : since;
                batch.add(record);
                stoppedByLane |= record.stops();
            } else if (done == Window.NOTHING) {
                close(ordinal);
            } else if (done instanceof Throwable thrown) {
                throw new IOException("a record could not be worked on: " + thrown, thrown);
            }
            boolean waitedLong = !batch.isEmpty() && System.nanoTime() - since >= patience();
            if (batch.size() >= BATCH || waitedLong) {
                written = flushed(batch, written);
            }
            if (books.failed() != null) {
                throw new IOException(
                        "the ledger cannot be written: " + books.failed().getMessage(), books.failed());
            }
        }
        durable(flushed(batch, written));
        String far = watermark == null || ended() != Ended.DONE ? null : watermark.over(readAll);
        if (far != null) {
            durable(books.ends(List.of(), outputs.positions(), far));
        }
    }

    /** Records of one key go one after the other, so an end is not held back to be batched. */
    private long patience() {
        return order == null ? COMPANY_NANOS : 0;
    }

    private void close(long ordinal) {
        MemoryBudget.Share share = shares.remove(ordinal);
        if (share != null) {
            share.close();
        }
    }

    /** Makes the rows of a batch durable, then its lines; returns while these are being written. */
    private CompletableFuture<Void> flushed(List<RecordWork.RecordResult> batch, CompletableFuture<Void> before)
            throws IOException {
        if (batch.isEmpty()) {
            return before;
        }
        Map<Long, RecordWork.RecordResult> ends = new LinkedHashMap<>();
        batch.forEach(done -> ends.put(done.line().ordinal(), done));
        batch.clear();
        // targets that may refuse rows first: what one of them refuses leaves no row elsewhere
        for (RecordWork.RecordResult done : ends.values()) {
            outputs.write(done.line().ordinal(), done.rows(), true);
        }
        for (Map<Long, Outputs.Refused> refused = outputs.tryRows(); !refused.isEmpty(); refused = outputs.tryRows()) {
            for (Map.Entry<Long, Outputs.Refused> each : refused.entrySet()) {
                ends.put(each.getKey(), refused(ends.get(each.getKey()), each.getValue()));
            }
        }
        for (RecordWork.RecordResult done : ends.values()) {
            outputs.write(done.line().ordinal(), done.rows(), false);
        }
        outputs.flush();
        List<LedgerLine> lines =
                ends.values().stream().map(RecordWork.RecordResult::line).toList();
        durable(before);
        CompletableFuture<Void> now =
                books.ends(lines, outputs.positions(), watermark == null ? null : watermark.ended(lines));
        return now.thenRun(() -> lines.forEach(line -> {
            close(line.ordinal());
            if (carry != null) {
                carry.ended(line);
            }
            if (order != null) {
                order.ended(line);
            }
        }));
    }

    /** A record whose row was refused: what its lanes say may give rows for other targets. */
    private RecordWork.RecordResult refused(RecordWork.RecordResult done, Outputs.Refused why) throws IOException {
        try {
            RecordWork.RecordResult now = work.refused(done, why);
            outputs.takeBack(now.line().ordinal());
            outputs.write(now.line().ordinal(), now.rows(), true);
            return now;
        } catch (Stopped e) {
            throw new InterruptedIOException("the run was stopped while a refused row was seen to");
        }
    }

    private static void durable(CompletableFuture<Void> written) throws IOException {
        try {
            written.get();
        } catch (ExecutionException e) {
            throw new IOException(
                    "the ledger cannot be written: " + e.getCause().getMessage(), e.getCause());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new InterruptedIOException("the run was interrupted");
        }
    }
}
