package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.List;

/** Where the outcome of every record is kept, durably. Used by the run's threads one at a time per method. */
public interface Ledger {
    /** Says that records up to {@code ordinal} may have been sent from now on. */
    void claim(long ordinal) throws IOException;

    /**
     * Keeps lines together with the output's committed offset, and says how far records may be sent from now on; durable
     * when it returns.
     */
    void append(List<LedgerLine> lines, long outputOffset, long claimed) throws IOException;

    /** A ledger that keeps nothing. */
    Ledger NONE = new Ledger() {
        @Override
        public void claim(long ordinal) {}

        @Override
        public void append(List<LedgerLine> lines, long outputOffset, long claimed) {}
    };
}
