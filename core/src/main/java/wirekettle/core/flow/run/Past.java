package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.function.LongPredicate;
import wirekettle.core.value.Node;

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

    /** Returns a record as a person corrected it; the record itself where nobody did. */
    default Node corrected(long ordinal, Node given) {
        return given;
    }

    /**
     * Returns what a record made and did in earlier runs that is taken back before it is sent again; null where nothing
     * is.
     */
    default Replay takesBack(long ordinal) {
        return null;
    }

    /** Returns what the run had come to. */
    Totals totals();

    /** Tells whether it knows what records handed on to the next one of their key; else that is kept in memory. */
    default boolean carries() {
        return false;
    }

    /**
     * Returns what the last record of a key that was done before one handed on, null for nothing.
     *
     * @param ordinal the one it is asked for
     */
    default Node carried(String key, long ordinal) throws IOException {
        return null;
    }

    /** Returns the keys held back, with the records they are held back behind. */
    default Map<String, Long> held() {
        return Map.of();
    }

    /**
     * What is known of what is run once.
     *
     * @param record what it made, claimed and did; null when it claimed nothing
     * @param ended whether its line is written
     */
    record Once(OpenRecord record, boolean ended) {}

    /** Returns what is known of what is run once, 0 before the first record and -1 after the last; null for nothing. */
    default Once once(long ordinal) {
        return null;
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

        /** Returns a record that claimed nothing. */
        public static OpenRecord bare(String fingerprint) {
            return new OpenRecord(
                    fingerprint, Replay.starting(java.time.Instant.now().toString()));
        }

        /** Tells whether it leads a batch, whose records may be open when it has ended. */
        public boolean leads() {
            return !replay.led().isEmpty();
        }

        /**
         * Tells open records of the batches they were in, once all claims are read.
         *
         * @param claimed what is known of the records that claimed something, those that have ended among them
         * @param open the open records, by their ordinals; those that only were in a batch are added
         * @param ended tells whether a record has ended
         */
        public static void batches(Collection<OpenRecord> claimed, Map<Long, OpenRecord> open, LongPredicate ended) {
            KeptBatch.share(claimed.stream().map(OpenRecord::replay).toList(), open, ended);
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
