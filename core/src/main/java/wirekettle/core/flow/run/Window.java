package wirekettle.core.flow.run;

import java.util.concurrent.atomic.AtomicReferenceArray;
import java.util.concurrent.locks.LockSupport;

/**
 * What became of the records between the one that is written next and the one read last, in input order. Workers put
 * into it as they get ready, one thread takes from its head.
 */
final class Window {
    /** A record of which nothing is to be written: the run stops before it has an end. */
    static final Object NOTHING = new Object();

    private static final long PAUSE_NANOS = 5_000_000;

    private final AtomicReferenceArray<Object> slots;
    private final boolean atOnce;
    private volatile long head;
    private volatile Thread taker;

    /**
     * Makes a window.
     *
     * @param size how many records it holds
     * @param first the record it begins with
     * @param atOnce whether the head is taken as soon as it is there; else every few milliseconds with what came after
     *     it, which spares a change of threads for each record
     */
    Window(int size, long first, boolean atOnce) {
        this.atOnce = atOnce;
        slots = new AtomicReferenceArray<>(size);
        head = first;
    }

    /** Tells whether there is room for a record. */
    boolean takes(long ordinal) {
        return ordinal < head + slots.length();
    }

    /** Returns the record that is written next. */
    long head() {
        return head;
    }

    void put(long ordinal, Object done) {
        slots.set((int) (ordinal % slots.length()), done);
        if (atOnce && ordinal == head) {
            LockSupport.unpark(taker);
        }
    }

    /** Returns what became of the record at the head and moves on; null when that is not known in time. */
    Object take(long nanos) {
        taker = Thread.currentThread();
        long until = System.nanoTime() + nanos;
        int at = (int) (head % slots.length());
        Object done = slots.get(at);
        while (done == null) {
            long left = until - System.nanoTime();
            if (left <= 0 || Thread.currentThread().isInterrupted()) {
                return null;
            }
            LockSupport.parkNanos(this, atOnce ? left : Math.min(left, PAUSE_NANOS));
            done = slots.get(at);
        }
        slots.set(at, null);
        head++;
        return done;
    }
}
