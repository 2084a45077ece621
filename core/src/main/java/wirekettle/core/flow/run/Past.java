package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.Map;

/** What a run's ledger knows from before, when the run goes on. Asked by one thread, in the order of the input. */
public interface Past {
    /** Returns the fingerprint of a record that has ended, null for one that has not. */
    String ended(long ordinal) throws IOException;

    /** Returns what is known of a record that has not ended, null when it claimed nothing. */
    OpenRecord open(long ordinal) throws IOException;

    /** Returns what the run had come to. */
    Totals totals();

    /** Returns the keys held back, with the records they are held back behind. */
    default Map<String, Long> held() {
        return Map.of();
    }

    /**
     * A record on its way.
     *
     * @param fingerprint a hash of its input
     * @param replay what it made, claimed and did
     */
    record OpenRecord(String fingerprint, Replay replay) {}

    /** Nothing: the run begins. */
    Past NONE = new Past() {
        @Override
        public String ended(long ordinal) {
            return null;
        }

        @Override
        public OpenRecord open(long ordinal) {
            return null;
        }

        @Override
        public Totals totals() {
            return Totals.NONE;
        }
    };
}
