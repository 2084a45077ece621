package wirekettle.core.flow.run;

/** What became of the records between the oldest without an end and the one read last. One thread takes from it. */
interface Window {
    /** A record of which nothing is to be written: the run stops before it has an end. */
    Object NOTHING = new Object();

    /** Tells whether there is room for a record. */
    boolean takes(long ordinal);

    /** Returns the oldest record that was not taken. */
    long head();

    /** Tells whether every record up to the last one was taken. */
    boolean over(long last);

    /** Says what became of a record. */
    void put(long ordinal, Object done);

    /** Returns what became of the next record and moves on; null when that is not known in time. */
    Object take(long nanos);

    /** Returns which record {@link #take} gave last. */
    long taken();
}
