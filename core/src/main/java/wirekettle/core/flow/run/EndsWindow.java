package wirekettle.core.flow.run;

import java.util.TreeSet;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;

/** Records end in the order they get ready: nobody whose request is answered waits for another's. */
final class EndsWindow implements Window {
    private record Ready(long ordinal, Object done) {}

    private final LinkedBlockingQueue<Ready> ready = new LinkedBlockingQueue<>();
    private final TreeSet<Long> ahead = new TreeSet<>();
    private final int size;
    private final long first;
    private volatile long head;
    private volatile long count;
    private long last;

    /**
     * Makes a window.
     *
     * @param size how many records are on their way at most
     * @param first the record it begins with
     */
    EndsWindow(int size, long first) {
        this.size = size;
        this.first = first;
        this.head = first;
    }

    @Override
    public boolean takes(long ordinal) {
        return ordinal - first < count + size;
    }

    @Override
    public long head() {
        return head;
    }

    @Override
    public boolean over(long end) {
        return first + count > end;
    }

    @Override
    public void put(long ordinal, Object done) {
        ready.add(new Ready(ordinal, done));
    }

    @Override
    public Object take(long nanos) {
        try {
            Ready next = ready.poll(nanos, TimeUnit.NANOSECONDS);
            if (next == null) {
                return null;
            }
            last = next.ordinal();
            count = count + 1;
            ahead.add(last);
            while (ahead.remove(head)) {
                head = head + 1;
            }
            return next.done();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return null;
        }
    }

    @Override
    public long taken() {
        return last;
    }
}
