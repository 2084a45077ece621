package wirekettle.core.flow.run;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.util.ArrayList;
import java.util.Collections;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Set;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.value.Node;

/**
 * The threads that work on the records of a run: each takes one and works on it until it has an end or waits in a batch.
 * Batches go their way in threads of their own, and so do their records afterwards.
 */
final class Workers implements Batches.Run {
    private static final int MOST_THREADS = 256;

    private final RunParts parts;
    private final Intake intake;
    private final int count;
    private final ThreadPoolExecutor together;
    private final List<Thread> threads = new ArrayList<>();

    Workers(CompiledFlow flow, RunParts parts, Intake intake) {
        this.parts = parts;
        this.intake = intake;
        this.count = count(flow);
        this.together = parts.batches() == null ? null : pool(count);
        if (together != null) {
            parts.batches().of(this);
        }
    }

    /** As many as may be on the wire, and some that map, judge or wait for the ledger meanwhile. */
    private static int count(CompiledFlow flow) {
        int wire = 0;
        boolean changes = false;
        for (CompiledCall call : flow.all(CompiledCall.class)) {
            wire += call.stage().delivery().atOnce();
            changes |= !call.stage().delivery().reads();
        }
        return Math.max(2, Math.min(MOST_THREADS, wire * (changes ? 2 : 1) + 2));
    }

    private static ThreadPoolExecutor pool(int most) {
        ThreadPoolExecutor pool = new ThreadPoolExecutor(
                most, most, 10, TimeUnit.SECONDS, new LinkedBlockingQueue<>(), task -> thread(task, "run-batch"));
        pool.allowCoreThreadTimeOut(true);
        return pool;
    }

    private static Thread thread(Runnable what, String name) {
        Thread thread = new Thread(what, name);
        thread.setDaemon(true);
        return thread;
    }

    /** Begins to work. */
    void start() {
        for (int i = 0; i < count; i++) {
            threads.add(thread(this::work, "run-worker"));
        }
        threads.forEach(Thread::start);
    }

    /** Ends what is still at work. */
    void stop() {
        threads.forEach(Thread::interrupt);
        if (together != null) {
            together.shutdownNow();
        }
    }

    @Override
    public void go(BatchStep batch, List<Item> members) {
        together.execute(() -> {
            Set<Item> left = Collections.newSetFromMap(new IdentityHashMap<>());
            left.addAll(members);
            try {
                if (!parts.stop().stopped()) {
                    batch.go(members, item -> {
                        left.remove(item);
                        together.execute(
                                () -> worked(item.ordinal(), () -> parts.work().goOn(item)));
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
        parts.window().put(item.ordinal(), Window.NOTHING);
    }

    private void work() {
        try {
            for (Intake.Task next = intake.next(); next != null; next = intake.next()) {
                Intake.Task task = next;
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
                parts.batches().join(result.item());
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
        parts.window().put(ordinal, done);
        if (parts.batches() != null) {
            parts.batches().rests();
        }
    }

    /** Works on a record from its beginning; returns null when the run stops. */
    private RecordWork.RecordResult begun(Intake.Task task) throws Stopped {
        if (parts.stop().stopped()) {
            return null;
        }
        Long behind = null;
        Node carried = null;
        if (parts.order() != null) {
            turn(task.ordinal());
            String key = parts.work().key(task.item().node());
            behind = parts.order().heldBehind(key);
            carried = carried(key, task.ordinal());
        }
        return parts.work().process(task, behind, carried);
    }

    private Node carried(String key, long ordinal) {
        try {
            return parts.carry() == null ? null : parts.carry().before(key, ordinal);
        } catch (IOException e) {
            throw new UncheckedIOException("what the record before it handed on cannot be read", e);
        }
    }

    /** Waits for the record before it of the same key; meanwhile it can come to no batch. */
    private void turn(long ordinal) throws Stopped {
        if (parts.batches() != null) {
            parts.batches().rests();
        }
        try {
            parts.order().turn(ordinal, parts.stop());
        } finally {
            if (parts.batches() != null) {
                parts.batches().begins();
            }
        }
    }
}
