package wirekettle.core.flow.run;

/** Ends waiting. */
public interface Stop {
    /** Tells whether the run is being cancelled or paused. */
    boolean stopped();

    /** Waits, as long as the run goes on; tells whether it does. */
    default boolean waited(long millis) {
        long until = System.nanoTime() + millis * 1_000_000;
        try {
            while (!stopped()) {
                long left = (until - System.nanoTime()) / 1_000_000;
                if (left <= 0) {
                    return true;
                }
                Thread.sleep(Math.min(50, left));
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
        return false;
    }

    /** Nothing stops. */
    Stop NEVER = () -> false;
}
