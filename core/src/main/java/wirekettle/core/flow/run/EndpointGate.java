package wirekettle.core.flow.run;

import java.time.Clock;
import java.time.Instant;
import wirekettle.core.soap.EndpointHours;
import wirekettle.core.soap.EndpointSettings;

/**
 * The gate of one endpoint: how many calls are on the wire at one time, over all runs that share it, how many a second;
 * and whether the endpoint rests because it is down. While it rests one call at a time looks whether it is back. Safe
 * for several threads.
 */
public final class EndpointGate {
    private static final long FIRST_PAUSE_MILLIS = 500;
    private static final long LONGEST_PAUSE_MILLIS = 30_000;
    private static final long LOOK_MILLIS = 100;

    private final int atOnce;
    private final double perSecond;
    private final boolean rests;
    private final EndpointHours hours;
    private final Clock clock;
    private int used;
    private long nextNanos = System.nanoTime();
    private String resting;
    private boolean looking;
    private long pauseMillis = FIRST_PAUSE_MILLIS;
    private long lookAt;

    /**
     * Makes a gate.
     *
     * @param atOnce how many calls at one time, 0 for no limit
     * @param perSecond how many calls a second, 0 for no limit
     * @param rests whether records wait for the endpoint when it cannot be reached; else they fail
     */
    public EndpointGate(int atOnce, double perSecond, boolean rests) {
        this(atOnce, perSecond, rests, null, Clock.systemUTC());
    }

    /**
     * Makes a gate with hours.
     *
     * @param hours when calls may leave, null for always
     * @param clock the time
     */
    public EndpointGate(int atOnce, double perSecond, boolean rests, EndpointHours hours, Clock clock) {
        this.rests = rests;
        this.atOnce = atOnce <= 0 ? Integer.MAX_VALUE : atOnce;
        this.perSecond = perSecond;
        this.hours = hours;
        this.clock = clock;
    }

    /** Returns the gate of runs at an endpoint's limits: they have their share of them, at least one call at a time. */
    public static EndpointGate of(EndpointSettings.Limits limits, Clock clock) {
        if (limits == null) {
            return new EndpointGate(0, 0, true);
        }
        double share = limits.runsPercent() == null ? 1 : limits.runsPercent() / 100.0;
        int atOnce = limits.atOnce() == null ? 0 : Math.max(1, (int) (limits.atOnce() * share));
        double perSecond = limits.perSecond() == null ? 0 : limits.perSecond() * share;
        return new EndpointGate(atOnce, perSecond, true, limits.hours(), clock);
    }

    /** Returns the gate of callers at an endpoint's limits: what they ask fails at once where the endpoint is down. */
    public static EndpointGate ofCallers(EndpointSettings.Limits limits) {
        return limits == null
                ? open()
                : new EndpointGate(
                        limits.atOnce() == null ? 0 : limits.atOnce(),
                        limits.perSecond() == null ? 0 : limits.perSecond(),
                        false);
    }

    /** Returns a gate without limits, behind which nothing waits for an endpoint that is down. */
    public static EndpointGate open() {
        return new EndpointGate(0, 0, false);
    }

    /** Tells whether records wait for the endpoint when it cannot be reached. */
    boolean rests() {
        return rests;
    }

    /** Waits for a slot. */
    synchronized void enter(Stop stop) throws Stopped {
        try {
            while (true) {
                if (stop.stopped()) {
                    throw new Stopped();
                }
                long now = System.nanoTime();
                if (resting != null) {
                    if (!looking && now >= lookAt) {
                        looking = true;
                        used++;
                        return;
                    }
                    wait(LOOK_MILLIS);
                } else if (used >= atOnce || closed() != null) {
                    wait(LOOK_MILLIS);
                } else if (gapNanos() > 0 && now < nextNanos) {
                    wait(Math.max(1, Math.min(LOOK_MILLIS, (nextNanos - now) / 1_000_000)));
                } else {
                    nextNanos = Math.max(now, nextNanos) + gapNanos();
                    used++;
                    return;
                }
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new Stopped();
        }
    }

    /** Returns when the endpoint opens, null while it is open. */
    private Instant closed() {
        return hours == null ? null : hours.opens(clock.instant());
    }

    private long gapNanos() {
        Double now = hours == null ? null : hours.perSecond(clock.instant());
        double rate = now == null ? perSecond : now;
        return rate <= 0 ? 0 : (long) (1e9 / rate);
    }

    /** Gives the slot back; {@code down} says why the endpoint is down, null when it is not. */
    synchronized void leave(String down) {
        used--;
        looking = false;
        if (down == null) {
            resting = null;
            pauseMillis = FIRST_PAUSE_MILLIS;
        } else {
            pauseMillis = resting == null ? FIRST_PAUSE_MILLIS : Math.min(LONGEST_PAUSE_MILLIS, pauseMillis * 2);
            lookAt = System.nanoTime() + pauseMillis * 1_000_000;
            resting = down;
        }
        notifyAll();
    }

    /** Returns why nothing leaves, null where calls do: the endpoint rests, or it is closed. */
    public synchronized String resting() {
        if (resting != null) {
            return "the endpoint rests: " + resting;
        }
        Instant opens = closed();
        return opens == null ? null : "the endpoint is closed until " + opens;
    }
}
