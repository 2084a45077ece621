package wirekettle.core.assist;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.request.FillPlan;

/**
 * The coverage of one field over sample records: how many are fine, empty and invalid, and which are invalid. For one
 * thread.
 */
public final class FieldCoverage {
    /** A sample record with a wrong value. */
    public record Offender(long record, String value, String message) {}

    private static final int KEPT = 200;
    private static final int SHOWN = 50;

    private int fine;
    private int empty;
    private int invalid;
    private final List<Offender> offenders = new ArrayList<>();

    /** Counts the value of one more sample. */
    public void count(long record, FillPlan.Computed value) {
        count(
                record,
                value.value(),
                value.problem() == null ? null : value.problem().message());
    }

    /** Counts a value and what is wrong with it, null when it fits. */
    public void count(long record, String text, String wrong) {
        if (wrong != null) {
            invalid++;
            if (offenders.size() < KEPT) {
                offenders.add(new Offender(record, text, wrong));
            }
        } else if (text.isEmpty()) {
            empty++;
        } else {
            fine++;
        }
    }

    /** Returns the values that do not fit, as many as were kept. */
    public List<String> misfits() {
        return offenders.stream().map(Offender::value).filter(v -> !v.isEmpty()).toList();
    }

    /** Returns the first of those to blame. */
    public List<Offender> offenders() {
        return offenders.stream().limit(SHOWN).toList();
    }

    /** Returns how many samples have a value that fits. */
    public int fine() {
        return fine;
    }

    /** Returns how many have none. */
    public int empty() {
        return empty;
    }

    /** Returns how many have one that does not fit. */
    public int invalid() {
        return invalid;
    }
}
