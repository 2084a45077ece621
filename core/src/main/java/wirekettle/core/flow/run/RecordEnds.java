package wirekettle.core.flow.run;

import java.io.IOException;
import java.io.InterruptedIOException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.function.BooleanSupplier;
import wirekettle.core.flow.file.Brake;

/**
 * Writes what became of the records, in the order their window gives them: rows first, then the lines of the ledger,
 * many of both at a time. For one thread.
 */
final class RecordEnds {
    private static final int BATCH = 500;
    private static final long COMPANY_NANOS = 100_000_000;

    private final RunParts parts;
    private final Intake intake;
    private final Outputs outputs;
    private final BrakeWatch brake;
    private final boolean atOnce;
    private volatile boolean stopped;
    private volatile String why;

    RecordEnds(RunParts parts, Intake intake, Outputs outputs, Brake brake) {
        this.brake = brake == null ? null : new BrakeWatch(brake);
        this.parts = parts;
        this.intake = intake;
        this.outputs = outputs;
        this.atOnce = parts.order() != null || parts.answered() != null;
    }

    /** Returns why the flow's brake stopped the run, null where it did not. */
    String why() {
        return why;
    }

    /** Tells whether the failure lane of a record stopped the run, or the flow's brake. */
    boolean stopped() {
        return stopped;
    }

    /**
     * Writes records as they end, until there is none left.
     *
     * @param done tells whether the run comes to its end by itself
     */
    void write(BooleanSupplier done) throws IOException {
        List<RecordWork.RecordResult> batch = new ArrayList<>();
        CompletableFuture<Void> written = CompletableFuture.completedFuture(null);
        long since = 0;
        while (!parts.window().over(intake.last())) {
            parts.shares().goesFirst(parts.window().head());
            long patience = batch.isEmpty() ? COMPANY_NANOS : atOnce ? 0 : since + COMPANY_NANOS - System.nanoTime();
            if (parts.batches() != null) {
                parts.batches().tick(parts.stop().stopped());
            }
            Object ended = parts.window().take(Math.max(0, patience));
            if (Thread.currentThread().isInterrupted()) {
                throw new InterruptedIOException("the run was interrupted");
            }
            if (ended instanceof RecordWork.RecordResult record) {
                since = batch.isEmpty() ? System.nanoTime() : since;
                batch.add(record);
                stopped |= record.stops();
                if (brake != null && !stopped && brake.ended(record.line().end())) {
                    why = brake.why();
                    stopped = true;
                }
            } else if (ended == Window.NOTHING) {
                parts.shares().close(parts.window().taken());
            } else if (ended instanceof Throwable thrown) {
                throw new IOException("a record could not be worked on: " + thrown, thrown);
            }
            if (batch.size() >= BATCH || !batch.isEmpty() && due(ended, written, since)) {
                written = flushed(batch, written);
            }
            parts.books().check();
        }
        LedgerWriter.durable(flushed(batch, written));
        String far = parts.watermark() == null || !done.getAsBoolean()
                ? null
                : parts.watermark().over(intake.all());
        if (far != null) {
            LedgerWriter.durable(parts.books().ends(List.of(), outputs.positions(), far));
        }
    }

    /**
     * Tells whether what has ended is written now. Where somebody waits for an end, the next of its key or a caller, it
     * is not held back for company: but what gets ready while the lines before are written goes with the next.
     */
    private boolean due(Object ended, CompletableFuture<Void> before, long since) throws IOException {
        if (!atOnce) {
            return System.nanoTime() - since >= COMPANY_NANOS;
        }
        if (ended != null) {
            return false;
        }
        boolean due = before.isDone();
        LedgerWriter.durable(before);
        return due;
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
        List<RecordWork.RecordResult> all = List.copyOf(ends.values());
        List<LedgerLine> lines =
                ends.values().stream().map(RecordWork.RecordResult::line).toList();
        if (parts.answered() != null) {
            parts.answered()
                    .ending(all.stream()
                            .map(done ->
                                    new Answered.Ending(done.line(), done.item().answer()))
                            .toList());
        }
        LedgerWriter.durable(before);
        CompletableFuture<Void> now = parts.books()
                .ends(
                        lines,
                        outputs.positions(),
                        parts.watermark() == null ? null : parts.watermark().ended(lines));
        return now.thenRun(() -> lines.forEach(line -> {
                    parts.shares().close(line.ordinal());
                    if (parts.carry() != null) {
                        parts.carry().ended(line);
                    }
                    if (parts.order() != null) {
                        parts.order().ended(line);
                    }
                }))
                .thenRun(() -> {
                    if (parts.answered() != null) {
                        all.forEach(done ->
                                parts.answered().ended(done.line(), done.item().answer()));
                    }
                });
    }

    /** A record whose row was refused: what its lanes say may give rows for other targets. */
    private RecordWork.RecordResult refused(RecordWork.RecordResult done, Outputs.Refused why) throws IOException {
        try {
            RecordWork.RecordResult now = parts.work().refused(done, why);
            outputs.takeBack(now.line().ordinal());
            outputs.write(now.line().ordinal(), now.rows(), true);
            return now;
        } catch (Stopped e) {
            throw new InterruptedIOException("the run was stopped while a refused row was seen to");
        }
    }
}
