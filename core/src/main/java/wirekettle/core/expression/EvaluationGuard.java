package wirekettle.core.expression;

import java.lang.management.ManagementFactory;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.concurrent.ConcurrentHashMap;

/**
 * Ends evaluations that take more processor time or memory than they may. No thread is stopped from outside:
 * one thread looks at all evaluations and marks those that are over; the places where an evaluation may go round
 * ({@link CheckedExpression}, {@link CheckedText}) look at the mark. Time spent waiting for a processor does not count.
 */
final class EvaluationGuard {
    /** How often evaluations are looked at, in milliseconds. */
    private static final long LOOK_MILLIS = 50;

    /** How many bytes one evaluation may ask for in all: a third of the heap, at least 64 MB. */
    private static final long MOST_BYTES =
            Math.max(64L << 20, Runtime.getRuntime().maxMemory() / 3);

    private static final com.sun.management.ThreadMXBean THREADS =
            (com.sun.management.ThreadMXBean) ManagementFactory.getThreadMXBean();
    private static final Set<Running> RUNNING = ConcurrentHashMap.newKeySet();
    private static final ThreadLocal<Running> CURRENT = new ThreadLocal<>();

    static {
        Thread thread = new Thread(EvaluationGuard::watch, "expression-watch");
        thread.setDaemon(true);
        thread.start();
    }

    private EvaluationGuard() {}

    /** One evaluation on one thread. */
    private static final class Running {
        private final long thread = Thread.currentThread().getId();
        private final long mostNanos;
        private final Running outer = CURRENT.get();
        private long startNanos = -1;
        private long startBytes;
        private volatile boolean over;

        Running(long millis) {
            this.mostNanos = millis * 1_000_000;
        }

        void look() {
            long nanos = THREADS.getThreadCpuTime(thread);
            long bytes = THREADS.getThreadAllocatedBytes(thread);
            if (startNanos < 0) {
                // most evaluations end before they are looked at once: they cost nothing
                startNanos = nanos;
                startBytes = bytes;
            } else if (nanos - startNanos > mostNanos || bytes - startBytes > MOST_BYTES) {
                over = true;
            }
        }
    }

    /** Ends a runaway evaluation; code that catches it on the way ends too. */
    static final class Ended extends RuntimeException {
        Ended() {
            super("the evaluation is over", null, false, false);
        }
    }

    /** A piece of work that took too long or too much memory. */
    static final class TooMuch extends Exception {}

    /** Throws where the evaluation of this thread is over, or nobody wants its result any more. */
    static void check() {
        Running current = CURRENT.get();
        if (current != null && (current.over || Thread.currentThread().isInterrupted())) {
            throw new Ended();
        }
    }

    /**
     * Runs {@code work} for at most so many milliseconds of the processor; running out of memory or of stack counts as
     * too much.
     */
    static <T> T within(long millis, Callable<T> work) throws Exception {
        Running running = new Running(millis);
        CURRENT.set(running);
        RUNNING.add(running);
        try {
            return work.call();
        } catch (OutOfMemoryError | StackOverflowError | Ended e) {
            throw new TooMuch();
        } catch (Exception e) {
            // the engine may wrap what ended it in an error of its own
            throw running.over || Thread.currentThread().isInterrupted() ? new TooMuch() : e;
        } finally {
            RUNNING.remove(running);
            CURRENT.set(running.outer);
        }
    }

    @SuppressWarnings("BusyWait")
    private static void watch() {
        while (true) {
            try {
                Thread.sleep(LOOK_MILLIS);
            } catch (InterruptedException e) {
                return;
            }
            RUNNING.forEach(Running::look);
        }
    }
}
