package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.List;
import java.util.Map;

/** The durable ledger of a run. Used by one thread. */
public interface Ledger {
    /**
     * What is kept at one time.
     *
     * @param claims what may leave from now on
     * @param passages effects of records that are still on their way, by their records' places
     * @param ends records that ended
     * @param positions how far outputs are durable, by the ids of their stages; empty when there is nothing new
     * @param watermark how far the source was read with records that have an end; null when there is nothing new
     * @param totals what the run has come to with all this
     */
    record Batch(
            List<Claim> claims,
            List<KnownPassage> passages,
            List<LedgerLine> ends,
            Map<String, Long> positions,
            String watermark,
            Totals totals) {}

    /**
     * The passage of a record that has not ended.
     *
     * @param reply what came back and is needed to go on, as XML; null for nothing
     */
    record KnownPassage(long ordinal, Passage passage, String reply) {}

    /** Keeps a batch; durable when it returns. */
    void keep(Batch batch) throws IOException;

    /** A ledger that keeps nothing. */
    Ledger NONE = batch -> {};
}
