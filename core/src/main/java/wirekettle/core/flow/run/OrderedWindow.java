package wirekettle.core.flow.run;

import java.util.concurrent.atomic.AtomicReferenceArray;
import java.util.concurrent.locks.LockSupport;

/** Records end in the order of the input: workers put into it as they get ready, one thread takes from its head. */
final class OrderedWindow implements Window {
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
    OrderedWindow(int size, long first, boolean atOnce) {
        this.atOnce = atOnce;
        slots = new AtomicReferenceArray<>(size);
        head = first;
    }

    @Override
    public boolean takes(long ordinal) {
        return ordinal < head + slots.length();
    }

    @Override
    public long head() {
        return head;
    }

    @Override
    public boolean over(long last) {
        return head > last;
    }

    @Override
    public long taken() {
        return head - 1;
    }

    @Override
    public void put(long ordinal, Object done) {
        slots.set((int) (ordinal % slots.length()), done);
        if (atOnce && ordinal == head) {
            LockSupport.unpark(taker);
        }
    }

    @Override
    public Object take(long nanos) {
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
