package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.List;
import java.util.Map;

/** What a run's ledger knows from before, when the run goes on. Asked by one thread, in the order of the input. */
public interface Past {
    /** Returns the fingerprint of a record that has ended, null for one that has not. */
    String ended(long ordinal) throws IOException;

    /** Returns what is known of a record that has not ended, null when it claimed nothing. */
    OpenRecord open(long ordinal) throws IOException;

    /** Returns the places in the input of the records that are sent again, in order; null where all are run. */
    default List<Long> picked() {
        return null;
    }

    /** Returns the fingerprint a record had in an earlier run that it is sent again from, null when there was none. */
    default String seen(long ordinal) {
        return null;
    }

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
    record OpenRecord(String fingerprint, Replay replay) {
        /**
         * Returns a record with one more of its claims; claims may come in any order.
         *
         * @param before the record with those read so far, null for none
         * @param effect what was claimed
         * @param made what the claim kept: {@link Claim#made()}
         * @throws IllegalArgumentException when that is damaged
         */
        public static OpenRecord claimed(OpenRecord before, String fingerprint, Effect effect, String made) {
            Replay replay = Replay.of(made);
            if (before != null) {
                before.replay().add(replay);
                replay = before.replay();
            }
            replay.claim(effect);
            return new OpenRecord(fingerprint, replay);
        }
    }

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
