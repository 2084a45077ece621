package wirekettle.core.mapping;

import java.util.Set;
import java.util.concurrent.Callable;
import java.util.concurrent.ConcurrentHashMap;

/**
 * Ends work that runs longer than it may. An interrupt does not stop an expression, so its thread is ended the hard way,
 * only ever inside the guarded piece of work.
 */
final class Watchdog {
    private static final Set<Guarded> RUNNING = ConcurrentHashMap.newKeySet();

    static {
        Thread thread = new Thread(Watchdog::watch, "expression-watchdog");
        thread.setDaemon(true);
        thread.start();
    }

    private static final class Guarded {
        final Thread thread = Thread.currentThread();
        final long deadline;
        boolean over;

        Guarded(long deadline) {
            this.deadline = deadline;
        }
    }

    /** Thrown into a piece of work that took too long. */
    static final class TooLong extends Exception {}

    private Watchdog() {}

    /** Runs {@code work} for at most {@code millis}; running out of memory counts as taking too long. */
    static <T> T within(long millis, Callable<T> work) throws Exception {
        Guarded guarded = new Guarded(System.nanoTime() + millis * 1_000_000);
        RUNNING.add(guarded);
        try {
            T result = work.call();
            end(guarded);
            return result;
        } catch (ThreadDeath | OutOfMemoryError | StackOverflowError e) {
            throw new TooLong();
        } finally {
            end(guarded);
        }
    }

    private static void end(Guarded guarded) {
        synchronized (guarded) {
            guarded.over = true;
        }
        RUNNING.remove(guarded);
    }

    @SuppressWarnings({"removal", "BusyWait"})
    private static void watch() {
        while (true) {
            try {
                Thread.sleep(100);
            } catch (InterruptedException e) {
                return;
            }
            long now = System.nanoTime();
            for (Guarded guarded : RUNNING) {
                if (now - guarded.deadline > 0) {
                    synchronized (guarded) {
                        if (!guarded.over) {
                            guarded.over = true;
                            guarded.thread.stop();
                        }
                    }
                }
            }
        }
    }
}
