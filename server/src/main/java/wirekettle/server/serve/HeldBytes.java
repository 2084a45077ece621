package wirekettle.server.serve;

import java.util.concurrent.atomic.AtomicLong;

/** How much of what callers sent is held at one time, over all of them: a part of the memory there is. */
final class HeldBytes {
    private static final int PART = 16;

    private final AtomicLong held = new AtomicLong();
    private final long most;

    HeldBytes() {
        this(Runtime.getRuntime().maxMemory() / PART);
    }

    HeldBytes(long most) {
        this.most = most;
    }

    /** Takes so many bytes; false where others hold too many. A large one is taken alone. */
    boolean take(long bytes) {
        long before = held.getAndAdd(bytes);
        if (before > 0 && before + bytes > most) {
            held.addAndGet(-bytes);
            return false;
        }
        return true;
    }

    /** Gives bytes back. */
    void give(long bytes) {
        held.addAndGet(-bytes);
    }
}
