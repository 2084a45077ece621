package wirekettle.core.flow.run;

import java.util.BitSet;
import wirekettle.core.flow.file.Brake;

/** Counts how many of the last records of a run were rejected. For one thread. */
final class BrakeWatch {
    private final Brake brake;
    private final BitSet rejected;
    private long ended;
    private int count;

    BrakeWatch(Brake brake) {
        this.brake = brake;
        this.rejected = new BitSet(brake.last());
    }

    /** Takes a record's end; tells whether the run is to stop. */
    boolean ended(End end) {
        int at = (int) (ended++ % brake.last());
        count -= rejected.get(at) ? 1 : 0;
        boolean its = end == End.REJECTED;
        rejected.set(at, its);
        count += its ? 1 : 0;
        boolean whole = brake.rejected() != null || ended >= brake.last();
        return whole && count >= brake.enough();
    }

    /** Says why the run stops. */
    String why() {
        return count + " of the last " + Math.min(ended, brake.last()) + " records were rejected: the flow stops at "
                + brake.words() + ".";
    }
}
