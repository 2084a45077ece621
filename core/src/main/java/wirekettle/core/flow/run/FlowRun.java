package wirekettle.core.flow.run;

import java.io.IOException;
import java.io.InterruptedIOException;
import java.util.Map;
import wirekettle.core.flow.compile.CompiledBatch;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.AfterLast;
import wirekettle.core.value.Node;

/**
 * Runs a flow over a source: several records at once, ends in input order, memory bounded in bytes. A record has ended
 * when its rows are flushed and its ledger line is durable. A run that was interrupted or paused goes on from its
 * ledger.
 */
public final class FlowRun {
    private static final int WINDOW = 1024;

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
    private final PagedSource pages;
    private final Outputs outputs;
    private final OnceWork once;
    private final RunParts parts;
    private final Intake intake;
    private final RecordEnds ends;
    private final Workers workers;
    private final boolean pilot;
    private volatile boolean cancelled;
    private volatile boolean paused;
    private volatile boolean takePart;
    private volatile String note;
    private Map<String, Node> made;

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

        long most() {
            return limit <= 0 ? Long.MAX_VALUE : limit;
        }
    }

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
        this.outputs = outputs;
        this.pilot = how.pilot();
        if (source instanceof PagedSource paged) {
            paged.asks(flow, doors, names, this::stopping);
        }
        if (source instanceof Requests requests) {
            requests.until(this::stopping);
        }
        this.pages = source instanceof PagedSource paged ? paged : null;
        LedgerWriter books = new LedgerWriter(ledger, flow.file().all(), past.totals());
        this.once = new OnceWork(flow, doors, names, books, outputs, past);
        this.parts = parts(doors, names, books, past, source);
        RecordSource grouped = GroupedSource.of(source, flow.source().stage().groupBy());
        this.intake = new Intake(PickedSource.of(grouped, past.picked()), past, how, parts);
        this.ends = new RecordEnds(
                parts, intake, outputs, past.picked() == null ? flow.file().brake() : null);
        this.workers = new Workers(flow, parts, intake);
    }

    private RunParts parts(Doors doors, RunNames names, LedgerWriter books, Past past, RecordSource source) {
        RecordWork work = new RecordWork(flow, doors, names, books, this::stopping);
        boolean inOrder = flow.source().stage().keepsOrder();
        boolean marks = flow.source().watermark() != null && past.picked() == null;
        return new RunParts(
                work,
                source instanceof Requests ? new EndsWindow(WINDOW, 1) : new OrderedWindow(WINDOW, 1, inOrder),
                new Shares(doors.memory()),
                books,
                inOrder ? new KeyOrder(past.held()) : null,
                flow.source().carried().isEmpty() ? null : new CarryOver(flow.source(), past),
                marks ? new Watermark(flow.source()) : null,
                flow.all(CompiledBatch.class).isEmpty() ? null : work.batches(),
                source instanceof Answered answered ? answered : null,
                this::stopping);
    }

    /** Returns where the run stands. */
    public Totals totals() {
        return parts.books().totals();
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
        return cancelled || paused || ends.stopped() || parts.books().failed() != null;
    }

    /**
     * Runs until there is nothing more to do.
     *
     * @return how it ended
     * @throws IOException when the source, a target or the ledger fails as a whole; what is durable is kept
     */
    public Ended run() throws IOException {
        Ended ended = null;
        try {
            if (before()) {
                workers.start();
                ends.write(() -> ended() == Ended.DONE);
            }
            ended = ended();
            after(ended);
        } catch (IOException e) {
            farewell(e);
            throw e;
        } finally {
            intake.close();
            workers.stop();
            parts.books().close();
            parts.shares().closeAll();
            if (ended == null || ended == Ended.STOPPED || ended == Ended.CANCELLED && !takePart) {
                // half a file never takes the place of a whole one
                outputs.leave();
            }
        }
        if (intake.failure() != null) {
            throw intake.failure();
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
            parts.work().base(its);
            if (pages != null) {
                pages.base(its);
            }
            made = its;
            return true;
        } catch (Stopped e) {
            parts.books().check();
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
        if (why instanceof AfterFailed
                || why instanceof InterruptedIOException
                || parts.books().failed() != null) {
            return;
        }
        try {
            after(null);
        } catch (IOException e) {
            why.addSuppressed(e);
        }
    }

    /** Returns what is in doubt of what was run after the last record, or why the flow's brake stopped the run. */
    public String note() {
        return ends.why() != null ? ends.why() : note;
    }

    private Ended ended() {
        if (intake.failure() != null) {
            return null;
        }
        if (ends.stopped()) {
            return Ended.STOPPED;
        }
        if (cancelled) {
            return Ended.CANCELLED;
        }
        return paused || pilot && !intake.all() ? Ended.PAUSED : Ended.DONE;
    }
}
