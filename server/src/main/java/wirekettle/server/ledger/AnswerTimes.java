package wirekettle.server.ledger;

import java.util.Arrays;
import java.util.List;
import java.util.stream.Collectors;

/** How long answers took, counted between bounds: what is kept of many. */
public final class AnswerTimes {
    /** The upper bounds that are counted apart, in milliseconds; longer ones are counted last. */
    private static final List<Long> BOUNDS =
            List.of(1L, 2L, 5L, 10L, 20L, 50L, 100L, 200L, 500L, 1_000L, 2_000L, 5_000L, 10_000L, 30_000L, 60_000L);

    private AnswerTimes() {}

    /** Returns counts of nothing. */
    public static Long[] none() {
        Long[] counts = new Long[BOUNDS.size() + 1];
        Arrays.fill(counts, 0L);
        return counts;
    }

    /** Returns counts as an array of the database is written. */
    public static String array(Long[] counts) {
        return Arrays.stream(counts).map(String::valueOf).collect(Collectors.joining(",", "{", "}"));
    }

    /** Returns the place of an answer among the counts. */
    public static int place(long millis) {
        int at = 0;
        while (at < BOUNDS.size() && millis > BOUNDS.get(at)) {
            at++;
        }
        return at;
    }

    /**
     * Returns the time within which a share of answers came, in milliseconds, as near as the bounds tell it; null for
     * none.
     *
     * @param answered how many came within each bound
     * @param share from 0 to 1
     */
    public static Double within(List<Long> answered, double share) {
        long all = answered.stream().mapToLong(Long::longValue).sum();
        if (all == 0) {
            return null;
        }
        double wanted = all * share;
        long before = 0;
        for (int i = 0; i < answered.size(); i++) {
            long its = answered.get(i);
            if (its > 0 && before + its >= wanted) {
                double from = i == 0 ? 0 : BOUNDS.get(i - 1);
                double to = i < BOUNDS.size() ? BOUNDS.get(i) : BOUNDS.get(i - 1) * 2.0;
                return from + (to - from) * Math.max(0, wanted - before) / its;
            }
            before += its;
        }
        return null;
    }
}
