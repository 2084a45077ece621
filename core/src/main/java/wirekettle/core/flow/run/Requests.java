package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.List;
import java.util.Map;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import wirekettle.core.value.Node;

/**
 * Records that callers send one by one while a run goes on: each is told when its end is durable. The run is done when
 * it is closed and what was sent before has ended. Safe for several threads.
 */
public final class Requests implements RecordSource, Answered {
    private static final long LOOK_MILLIS = 50;

    /** Somebody who waits for the end of a record. */
    public interface Waiting {
        /**
         * Says how the record ended; its end is durable.
         *
         * @param line its ledger line; null where the run came to its end before
         * @param answer what the flow answers, null where it says nothing
         */
        void ended(LedgerLine line, Answer answer);

        /** Says what is wrong with an answer before its record is done, null where it will do. */
        default String wrong(Answer answer) {
            return null;
        }

        /** Tells whether the answer is kept: it may be asked for later. */
        default boolean kept() {
            return false;
        }
    }

    private record Request(Item item, Waiting waiting) {}

    private final String name;
    private final Keeper keeper;
    private final BlockingQueue<Request> queue = new LinkedBlockingQueue<>();
    private final Map<Long, Waiting> waiting = new ConcurrentHashMap<>();
    private volatile boolean closed;
    private volatile Stop stop = () -> false;
    private long taken;

    /**
     * Makes a source nobody has sent anything to.
     *
     * @param name what it is called in the run
     * @param keeper keeps the answers of those who may ask later
     */
    public Requests(String name, Keeper keeper) {
        this.name = name;
        this.keeper = keeper;
    }

    /**
     * Sends a record; records get their places in the order they are sent, from 1.
     *
     * @param node the record
     * @param problem why it ends rejected without any work, null where it is worked on
     * @param waits who is told of its end, null for nobody
     * @return false when the run takes nothing more: nobody is told then
     */
    public synchronized boolean send(Node node, String problem, Waiting waits) {
        return !closed && queue.add(new Request(item(node, problem, waits), waits));
    }

    private static Item item(Node node, String problem, Waiting waits) {
        return waits == null ? new Item(node, problem) : new Item(node, problem, waits::wrong);
    }

    /** Tells whether nothing more is taken. */
    public boolean closed() {
        return closed;
    }

    /** Lets nothing more be sent: the run is done once all has ended. */
    public synchronized void finish() {
        closed = true;
    }

    @Override
    public Item next() throws IOException {
        try {
            while (true) {
                Request next = queue.poll(LOOK_MILLIS, TimeUnit.MILLISECONDS);
                if (next != null) {
                    taken++;
                    if (next.waiting() != null) {
                        waiting.put(taken, next.waiting());
                    }
                    return next.item();
                }
                if (closed && queue.isEmpty() || stop.stopped()) {
                    return null;
                }
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return null;
        }
    }

    /** Lets nothing more be taken once the run stops. */
    void until(Stop its) {
        stop = its;
    }

    /** Tells everybody who still waits that the run came to its end before their records did. */
    public void over() {
        finish();
        for (Request left = queue.poll(); left != null; left = queue.poll()) {
            if (left.waiting() != null) {
                left.waiting().ended(null, null);
            }
        }
        for (Long each : List.copyOf(waiting.keySet())) {
            Waiting waits = waiting.remove(each);
            if (waits != null) {
                waits.ended(null, null);
            }
        }
    }

    @Override
    public void ending(List<Ending> endings) throws IOException {
        List<Ending> kept = endings.stream()
                .filter(each -> {
                    Waiting waits = waiting.get(each.line().ordinal());
                    return waits != null && waits.kept();
                })
                .toList();
        if (!kept.isEmpty()) {
            keeper.keep(kept);
        }
    }

    @Override
    public void ended(LedgerLine line, Answer answer) {
        Waiting waits = waiting.remove(line.ordinal());
        if (waits != null) {
            waits.ended(line, answer);
        }
    }

    @Override
    public long size() {
        return -1;
    }

    @Override
    public String name() {
        return name;
    }

    @Override
    public void close() {
        finish();
    }
}
