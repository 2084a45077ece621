package wirekettle.core.soap;

/**
 * How many bytes everything that is in memory at one time may take together: answers with what is read from them,
 * imports, previews. Each piece of work opens a {@link Share} and asks for room before it fills it; what does not fit
 * waits until others have ended. A piece that is larger than the whole budget gets its room once nobody else has any.
 * Safe for several threads.
 */
public final class MemoryBudget {
    /** No limit. */
    public static final MemoryBudget NONE = new MemoryBudget(Long.MAX_VALUE);

    private final long total;
    private long used;

    private MemoryBudget(long total) {
        this.total = total;
    }

    /** Makes a budget of so many bytes. */
    public static MemoryBudget of(long bytes) {
        return new MemoryBudget(bytes);
    }

    /** Makes the budget of a program that has its memory for itself: two fifths of the largest heap. */
    public static MemoryBudget ofHeap() {
        return of(Runtime.getRuntime().maxMemory() / 5 * 2);
    }

    /** Returns how many bytes are given away now. */
    public synchronized long used() {
        return used;
    }

    /** Returns how many bytes there are in all. */
    public long total() {
        return total;
    }

    /** Opens the share of one piece of work. */
    public Share share() {
        return new Share();
    }

    /** There was no room in time. */
    public static final class Full extends Exception {
        Full(long bytes) {
            super(
                    "there is no memory for " + Math.max(1, bytes >> 20)
                            + " MB more: other calls, imports or previews have it; try again when they are done, or"
                            + " give the server more memory",
                    null,
                    false,
                    false);
        }
    }

    /** What one piece of work has of the budget, until it is closed. */
    public final class Share implements AutoCloseable {
        private final Share whole;
        private long mine;
        private long lent;
        private boolean first;

        private Share() {
            whole = this;
        }

        private Share(Share whole) {
            this.whole = whole;
        }

        /** From now on this piece of work gets its room at once: others wait for it, so it must not wait for them. */
        public void goFirst() {
            synchronized (MemoryBudget.this) {
                first = true;
                MemoryBudget.this.notifyAll();
            }
        }

        /**
         * Opens a loan: room for a step of this piece of work, asked for as a guess and given back when the step ends.
         * It belongs to this piece of work, but does not count in {@link #tooLarge()}.
         */
        public Share loan() {
            return new Share(this);
        }

        /** Counts what is there already, without waiting. */
        public void take(long bytes) {
            synchronized (MemoryBudget.this) {
                adds(bytes);
            }
        }

        /** Tells whether this piece of work has taken more than there is in all, not counting its loans. */
        public boolean tooLarge() {
            synchronized (MemoryBudget.this) {
                return mine - lent > total;
            }
        }

        private void adds(long bytes) {
            used += bytes;
            mine += bytes;
            if (whole != this) {
                whole.mine += bytes;
                whole.lent += bytes;
            }
        }

        /**
         * Asks for more room, and waits for it.
         *
         * @param bytes how many more
         * @param until how long to wait at most, in the time of {@link System#nanoTime()}
         * @throws Full when there was no room in time
         * @throws InterruptedException when the thread was interrupted while it waited
         */
        public void grow(long bytes, long until) throws Full, InterruptedException {
            synchronized (MemoryBudget.this) {
                while (used + bytes > total && used > whole.mine && !whole.first) {
                    long left = (until - System.nanoTime()) / 1_000_000;
                    if (left <= 0) {
                        throw new Full(bytes);
                    }
                    MemoryBudget.this.wait(left);
                }
                adds(bytes);
            }
        }

        /** Gives some of it back. */
        public void shrink(long bytes) {
            synchronized (MemoryBudget.this) {
                adds(-Math.min(bytes, mine));
                MemoryBudget.this.notifyAll();
            }
        }

        /** Gives everything back. */
        @Override
        public void close() {
            synchronized (MemoryBudget.this) {
                adds(-mine);
                MemoryBudget.this.notifyAll();
            }
        }
    }
}
