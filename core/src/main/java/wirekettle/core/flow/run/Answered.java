package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.List;

/** A source whose records somebody wants the answers of. */
public interface Answered {
    /**
     * How a record is about to end.
     *
     * @param line its ledger line
     * @param answer what the flow answers, null where it says nothing
     */
    record Ending(LedgerLine line, Answer answer) {}

    /** Keeps answers for those who ask later. */
    interface Keeper {
        /** Keeps answers whose records have no durable end yet: each counts once it has, and a later one replaces it. */
        void keep(List<Ending> endings) throws IOException;
    }

    /** Is told before the ends of records are durable. */
    void ending(List<Ending> endings) throws IOException;

    /** Is told once the end of a record is durable. */
    void ended(LedgerLine line, Answer answer);
}
