package wirekettle.server.serve;

import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;

/** How often callers may ask: a minute's worth at once, and then as it comes back. Counts on this server. */
final class CallerPace {
    private static final double NANOS = 60e9;

    private static final class Left {
        private double requests;
        private long at;

        private Left(double requests, long at) {
            this.requests = requests;
            this.at = at;
        }
    }

    private final Map<String, Left> callers = new ConcurrentHashMap<>();

    /**
     * Takes a request of a caller.
     *
     * @param aMinute how many there may be, null for any number
     * @param now in nanoseconds, of a clock that never goes back
     * @return 0 when it may be, else after how many seconds the next one may be
     */
    long takes(String caller, Integer aMinute, long now) {
        if (aMinute == null) {
            return 0;
        }
        Left left = callers.computeIfAbsent(caller, name -> new Left(aMinute, now));
        synchronized (left) {
            left.requests = Math.min(aMinute, left.requests + (now - left.at) / NANOS * aMinute);
            left.at = now;
            if (left.requests >= 1) {
                left.requests--;
                return 0;
            }
            return (long) Math.ceil((1 - left.requests) / aMinute * 60);
        }
    }
}
