package wirekettle.connect;

import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.locks.LockSupport;
import org.apache.hc.client5.http.classic.methods.HttpUriRequestBase;

/**
 * Ends calls that take too long or whose thread was interrupted: reading from a socket notices neither. One thread
 * looks at all calls on their way every few milliseconds, so that a call costs no timer of its own.
 */
final class CallWatch {
    private static final long LOOK_NANOS = 20_000_000L;
    private static final CallWatch ALL = new CallWatch();

    /** Why a call was ended from outside. */
    enum Ended {
        /** The answer had not begun in time. */
        NOT_BEGUN,
        /** The answer was not complete in time. */
        NOT_COMPLETE,
        /** The thread that waits for it was interrupted. */
        CANCELLED
    }

    /** One call on its way. */
    static final class Watched implements AutoCloseable {
        private final Thread thread = Thread.currentThread();
        private final HttpUriRequestBase request;
        private final long beginNanos;
        private final long completeBy;
        private volatile long sentAt;
        private volatile boolean sending;
        private volatile boolean begun;
        private volatile Ended ended;

        private Watched(HttpUriRequestBase request, long beginNanos, long completeBy) {
            this.request = request;
            this.beginNanos = beginNanos;
            this.completeBy = completeBy;
        }

        /** Says that the request itself is being sent. */
        void send() {
            sentAt = System.nanoTime();
            sending = true;
        }

        /** Tells whether any of the request itself may have been sent. */
        boolean sending() {
            return sending;
        }

        /** Says that the answer has begun. */
        void begin() {
            begun = true;
        }

        /** Returns why the call was ended from outside, null when it was not. */
        Ended ended() {
            return ended;
        }

        private void look(long now) {
            Ended why = thread.isInterrupted()
                    ? Ended.CANCELLED
                    : now - completeBy > 0
                            ? Ended.NOT_COMPLETE
                            : sending && !begun && now - sentAt > beginNanos ? Ended.NOT_BEGUN : null;
            if (why != null && ended == null) {
                ended = why;
                request.abort();
            }
        }

        @Override
        public void close() {
            ALL.calls.remove(this);
        }
    }

    private final Set<Watched> calls = ConcurrentHashMap.newKeySet();
    private final Thread thread;

    private CallWatch() {
        thread = new Thread(this::watch, "http-watch");
        thread.setDaemon(true);
        thread.start();
    }

    /**
     * Watches a call made by this thread until it is closed.
     *
     * @param beginNanos how long after sending began its answer must have begun
     * @param completeBy when its answer must be complete, in the time of {@link System#nanoTime()}
     */
    static Watched watch(HttpUriRequestBase request, long beginNanos, long completeBy) {
        Watched watched = new Watched(request, beginNanos, completeBy);
        ALL.calls.add(watched);
        return watched;
    }

    private void watch() {
        while (true) {
            LockSupport.parkNanos(calls.isEmpty() ? LOOK_NANOS * 2 : LOOK_NANOS);
            long now = System.nanoTime();
            for (Watched call : calls) {
                try {
                    call.look(now);
                } catch (RuntimeException e) {
                    // closing a broken socket failed: the call ends by itself, the others are still watched
                    call.close();
                }
            }
        }
    }
}
