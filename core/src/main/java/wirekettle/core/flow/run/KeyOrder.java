package wirekettle.core.flow.run;

import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;

/**
 * Keeps records of one key one after the other: each waits until the one before it has ended, and is held back when an
 * earlier one was rejected or is in doubt. A record without a key has no order. Safe for several threads.
 */
final class KeyOrder {
    private final Map<String, Long> last = new HashMap<>();
    private final Map<Long, Long> before = new HashMap<>();
    private final Set<Long> going = new HashSet<>();
    private final Map<String, Long> held = new HashMap<>();

    /** Takes the keys held back from before. */
    KeyOrder(Map<String, Long> held) {
        this.held.putAll(held);
    }

    /** Notes a record, in the order of the input. */
    synchronized void reads(long ordinal, String key) {
        if (key == null || key.isBlank()) {
            return;
        }
        Long earlier = last.put(key, ordinal);
        if (earlier != null && going.contains(earlier)) {
            before.put(ordinal, earlier);
        }
        going.add(ordinal);
    }

    /** Waits until the record before it has ended. */
    synchronized void turn(long ordinal, Stop stop) throws Stopped {
        Long earlier = before.remove(ordinal);
        try {
            while (earlier != null && going.contains(earlier)) {
                if (stop.stopped()) {
                    throw new Stopped();
                }
                wait(100);
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new Stopped();
        }
    }

    /** Returns the record a key is held back behind, null when it is not. */
    synchronized Long heldBehind(String key) {
        return key == null || key.isBlank() ? null : held.get(key);
    }

    /** Notes that a record's end is durable. */
    synchronized void ended(LedgerLine line) {
        String key = line.key();
        if (key == null || key.isBlank()) {
            return;
        }
        if (line.end() == End.REJECTED || line.end() == End.IN_DOUBT) {
            held.putIfAbsent(key, line.ordinal());
        }
        going.remove(line.ordinal());
        last.remove(key, line.ordinal());
        notifyAll();
    }
}
