package wirekettle.server.limits;

import jakarta.enterprise.inject.Produces;
import jakarta.inject.Singleton;
import wirekettle.core.soap.MemoryBudget;

/** The one budget all calls, imports and previews of this server share. */
public class Memory {
    /** Returns the budget. */
    @Produces
    @Singleton
    MemoryBudget budget() {
        return MemoryBudget.ofHeap();
    }
}
