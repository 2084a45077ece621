package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;

/** A record's part in batches: where it waits, where it comes back to, and the places it had. For one thread at a time. */
final class Company {
    private final List<BatchPlace> places = new ArrayList<>(0);
    private Map<Guard, Guard.Before> left;
    private BatchStep.Member member;
    private BatchStep.Waiting waiting;

    /** Notes where a record was at a step with a lane that it leaves to wait. */
    void leaves(Guard guard, Guard.Before before) {
        if (left == null) {
            left = new IdentityHashMap<>();
        }
        left.put(guard, before);
    }

    /** Returns where the record was when it left a step it comes back to, null when it did not. */
    Guard.Before left(Guard guard) {
        return left == null || member == null ? null : left.remove(guard);
    }

    /** Notes in which batch it waits. */
    void waits(BatchStep.Waiting at) {
        waiting = at;
    }

    /** Returns in which batch it waits. */
    BatchStep.Waiting waiting() {
        return waiting;
    }

    /** Lets it come back to the batch it waited in. */
    void comesBack(BatchStep.Member as) {
        member = as;
    }

    /** Returns what it was in the batch it comes back to; null when it comes back to none, or has come there. */
    BatchStep.Member member() {
        return member;
    }

    /** Notes the place it had in a batch. */
    void wasIn(BatchPlace place) {
        places.add(place);
    }

    /** Returns the places it had in batches. */
    List<BatchPlace> places() {
        return List.copyOf(places);
    }

    /** Notes that what a batch accepted was taken back: it is not accepted any more. */
    void tookBack(String stage) {
        places.replaceAll(place -> place.stage().equals(stage) ? place.withoutVerdict() : place);
    }
}
