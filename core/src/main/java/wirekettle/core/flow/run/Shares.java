package wirekettle.core.flow.run;

import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import wirekettle.core.soap.MemoryBudget;

/** What the records on their way hold of the memory of all runs. Safe for several threads. */
final class Shares {
    private final MemoryBudget memory;
    private final Map<Long, MemoryBudget.Share> open = new ConcurrentHashMap<>();

    Shares(MemoryBudget memory) {
        this.memory = memory;
    }

    /** Opens the share of a record. */
    MemoryBudget.Share open(long ordinal) {
        MemoryBudget.Share share = memory.share();
        open.put(ordinal, share);
        return share;
    }

    /** Lets the record that is written next take what it needs. */
    void goesFirst(long ordinal) {
        MemoryBudget.Share share = open.get(ordinal);
        if (share != null) {
            share.goFirst();
        }
    }

    void close(long ordinal) {
        MemoryBudget.Share share = open.remove(ordinal);
        if (share != null) {
            share.close();
        }
    }

    void closeAll() {
        open.values().forEach(MemoryBudget.Share::close);
    }
}
