package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;

/**
 * Where records wait for company. A batch closes when it is full, when its first record has waited long enough, and when
 * nothing more can reach it. Safe for several threads.
 */
final class Batches {
    /** What the run does with batches and their records. */
    interface Run {
        /** Lets a batch go its way in a thread of its own. */
        void go(BatchStep batch, List<Item> members);

        /** Lets go of a record that is not worked on any more, because the run stops. */
        void leave(Item item);
    }

    private static final class Open {
        private final BatchStep step;
        private final List<Item> members = new ArrayList<>();
        private final Set<String> keys = new HashSet<>();
        private final long since = System.nanoTime();
        private long bytes;

        Open(BatchStep step) {
            this.step = step;
        }
    }

    private final Map<String, Open> open = new LinkedHashMap<>();
    private Run run;
    private int going;
    private boolean idle;

    /** Takes what the run does with batches. */
    synchronized void of(Run its) {
        run = its;
    }

    /** Notes that a record is worked on. */
    synchronized void begins() {
        going++;
    }

    /** Notes that a record has its end, or cannot go on until another one has. */
    synchronized void rests() {
        going--;
        settle();
    }

    /** Notes whether nothing more is read: at the end, or until there is room. */
    synchronized void reads(boolean more) {
        idle = !more;
        settle();
    }

    /** Takes a record that waits. */
    synchronized void join(Item item) {
        BatchStep.Waiting wanted = item.company().waiting();
        String key = wanted.step().id() + "\n" + wanted.by();
        Open its = open.get(key);
        if (its != null && !fits(its, wanted)) {
            close(key);
            its = null;
        }
        if (its == null) {
            its = new Open(wanted.step());
            open.put(key, its);
        }
        its.members.add(item);
        its.bytes += wanted.bytes();
        if (wanted.key() != null) {
            its.keys.add(wanted.key());
        }
        going--;
        if (its.members.size() >= wanted.step().most()) {
            close(key);
        }
        settle();
    }

    /** Two records of one key cannot be told apart in the reply, so they go in two batches. */
    private static boolean fits(Open its, BatchStep.Waiting wanted) {
        Integer most = wanted.step().mostBytes();
        return (most == null || its.bytes + wanted.bytes() <= most) && !its.keys.contains(wanted.key());
    }

    /** Closes what has waited long enough; lets everything go when the run stops. */
    synchronized void tick(boolean stopping) {
        for (String key : List.copyOf(open.keySet())) {
            Open its = open.get(key);
            if (stopping) {
                open.remove(key);
                its.members.forEach(run::leave);
            } else if (System.nanoTime() - its.since >= its.step.waitNanos()) {
                close(key);
            }
        }
    }

    private void settle() {
        if (going == 0 && idle) {
            List.copyOf(open.keySet()).forEach(this::close);
        }
    }

    private void close(String key) {
        Open its = open.remove(key);
        going += its.members.size();
        run.go(its.step, its.members);
    }
}
