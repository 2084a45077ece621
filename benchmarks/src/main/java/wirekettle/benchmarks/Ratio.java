package wirekettle.benchmarks;

import java.util.Arrays;
import java.util.Locale;

/** Measures two pieces of work in turn and prints their ratio. */
final class Ratio {
    /** A piece of work. */
    interface Work {
        void run() throws Exception;
    }

    private Ratio() {}

    static double seconds(Work work) throws Exception {
        long start = System.nanoTime();
        work.run();
        return (System.nanoTime() - start) / 1e9;
    }

    /** Runs both in turn and returns the median seconds of each; the first rounds only warm up. */
    static double[] medians(Work ours, Work yardstick, int warmUp, int rounds) throws Exception {
        double[] a = new double[rounds];
        double[] b = new double[rounds];
        for (int i = -warmUp; i < rounds; i++) {
            double one = seconds(ours);
            double other = seconds(yardstick);
            if (i >= 0) {
                a[i] = one;
                b[i] = other;
            }
        }
        return new double[] {median(a), median(b)};
    }

    /** Returns the middle one of an odd number of values. */
    static double median(double[] values) {
        double[] sorted = values.clone();
        Arrays.sort(sorted);
        return sorted[sorted.length / 2];
    }

    /** Prints the closing line and returns the exit code. */
    static int atLeast(double ratio, double hold) {
        System.out.printf(Locale.ROOT, "ratio: %.2f (hold: at least %.2f)%n", ratio, hold);
        return ratio >= hold ? 0 : 1;
    }

    /** Prints the closing line and returns the exit code. */
    static int atMost(double ratio, double hold) {
        System.out.printf(Locale.ROOT, "ratio: %.2f (hold: at most %.2f)%n", ratio, hold);
        return ratio <= hold ? 0 : 1;
    }
}
