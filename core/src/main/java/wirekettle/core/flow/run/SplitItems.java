package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Future;
import java.util.concurrent.atomic.AtomicInteger;
import wirekettle.core.expression.Places;
import wirekettle.core.flow.compile.CompiledSplit;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeSize;

/**
 * The items of one record that go through a Split, and what is left of each when it is over. The record's own thread
 * works on items too, so that it never waits for threads that wait for it; the others help while there are items left.
 */
final class SplitItems {
    private static final Failure LATER =
            Failure.of(FailureClass.CONDITION, "not begun", "it had not begun when the run was interrupted", "");

    /** About how many bytes an item takes itself that did something its record has to know. */
    private static final long BARE = 2_500;

    /** About how many bytes are left of any other. */
    private static final long FOLDED = 100;

    private static final Name ITEM = Name.of("item");

    /**
     * How an item ended.
     *
     * @param item what it did; null when that was nothing its record has to know
     * @param why null for one that did not fail
     * @param gathered what is gathered of it
     * @param bytes about how much memory that takes
     */
    record Part(Item item, End end, Failed why, Node gathered, long bytes) {
        List<Item.Reversal> reversals() {
            return item == null ? List.of() : item.reversals();
        }
    }

    private final CompiledSplit split;
    private final SplitStage stage;
    private final Steps steps;
    private final Step block;
    private final Set<String> kept;
    private final Item record;
    private final List<Node> nodes;
    private final Part[] parts;
    private final Places places;
    private final AtomicInteger next = new AtomicInteger();
    private volatile boolean over;
    private volatile Failed tooLarge;
    private Item.Halt halt;

    SplitItems(CompiledSplit split, Steps steps, Step block, Set<String> kept, Item record, List<Node> nodes) {
        this.split = split;
        this.stage = split.stage();
        this.steps = steps;
        this.block = block;
        this.kept = kept;
        this.record = record;
        this.nodes = nodes;
        this.parts = new Part[nodes.size()];
        this.places = nodes.isEmpty() ? null : Places.of(nodes, split.over().tree(record.scope()), record.scope());
    }

    /** Takes what was known of items before a crash only, and begins no other. */
    void haltsLater() {
        halt = new Item.Halt(LATER, false);
    }

    /** Returns what became of them, null for one that did not begin. */
    Part[] parts() {
        return parts;
    }

    /** Returns why no further item began: what they made took too much memory; or null. */
    Failed tooLarge() {
        return tooLarge;
    }

    /** What items left is in what was gathered now, but for what may still be taken back. */
    void gathered() {
        long bytes = 0;
        for (Part part : parts) {
            bytes += part == null || !part.reversals().isEmpty() ? 0 : part.bytes();
        }
        if (record.room().memory() != null) {
            record.room().memory().shrink(bytes);
        }
    }

    /** Takes only items that something was claimed for before a crash; they begin nothing new. */
    void knownOnly(Item.Halt other) throws Stopped {
        halt = other;
        for (int i = 0; i < parts.length; i++) {
            if (parts[i] == null
                    && record.replay()
                            .knows(record.inside(step(i), stage.item(), nodes.get(i), places)
                                    .path())) {
                one(i);
            }
        }
    }

    void run() throws Stopped {
        if (steps.looking()) {
            look();
            return;
        }
        List<Future<?>> others = new ArrayList<>();
        int helpers = Math.min(stage.atOnce(), nodes.size()) - 1;
        for (int i = 0; i < helpers; i++) {
            Future<?> other = steps.helped(() -> {
                work();
                return null;
            });
            if (other != null) {
                others.add(other);
            }
        }
        try {
            work();
        } finally {
            over |= next.get() < nodes.size();
            awaited(others);
        }
        if (over && record.known() && tooLarge == null) {
            // what was on its way before a crash is looked at, though no further item begins
            knownOnly(new Item.Halt(LATER, false));
        }
    }

    private void awaited(List<Future<?>> others) throws Stopped {
        for (Future<?> other : others) {
            try {
                other.get();
            } catch (InterruptedException e) {
                over = true;
                others.forEach(each -> each.cancel(true));
                Thread.currentThread().interrupt();
                throw new Stopped();
            } catch (ExecutionException e) {
                if (e.getCause() instanceof Stopped) {
                    throw new Stopped();
                }
                throw new IllegalStateException(e.getCause());
            }
        }
    }

    /** Works on items while there are some, and none of them ended the record. */
    private void work() throws Stopped {
        for (int i = next.getAndIncrement(); i < nodes.size() && !over; i = next.getAndIncrement()) {
            one(i);
        }
    }

    private void one(int i) throws Stopped {
        Part part = part(i);
        parts[i] = part;
        keep(part.bytes());
        boolean ends = part.why() != null
                && (!stage.goesOn() || part.end() == End.IN_DOUBT || part.why().stopping());
        over |= ends;
    }

    /**
     * Waits for room for an item, whose result stays until all items are gathered. When the record has taken more
     * than there is in all, no further item begins.
     */
    private void keep(long bytes) throws Stopped {
        MemoryBudget.Share memory = record.room().memory();
        if (memory == null) {
            return;
        }
        try {
            memory.grow(bytes, Long.MAX_VALUE);
            record.fits(stage.id());
        } catch (Failed e) {
            tooLarge = e;
            over = true;
        } catch (MemoryBudget.Full e) {
            throw new IllegalStateException("there is no end to the waiting", e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new Stopped();
        }
    }

    /** Takes the items of a sample one after the other, the one that is shown first. */
    private void look() throws Stopped {
        int shown = steps.watch().shown(stage.id(), nodes.size()) - 1;
        if (shown >= 0 && shown < nodes.size()) {
            one(shown);
        }
        for (int i = 0; i < nodes.size() && !over; i++) {
            if (i != shown) {
                one(i);
            }
        }
    }

    private Part part(int i) throws Stopped {
        Item item = record.inside(step(i), stage.item(), nodes.get(i), places);
        if (halt != null) {
            item.halts(halt);
        }
        try {
            StepResult go = block.run(item);
            return settled(i, item, go == StepResult.ON ? End.DONE : End.LEFT_OUT, null);
        } catch (Failed failed) {
            if (!failed.settled() || failed.failure().doubtful()) {
                item.backRows(0);
            }
            return settled(i, item, failed.failure().doubtful() ? End.IN_DOUBT : End.REJECTED, failed);
        } catch (SampleWalk.NoReply e) {
            throw e; // a sample comes no further
        } catch (RuntimeException | StackOverflowError e) {
            steps.doors().trouble().accept(e);
            item.backRows(0);
            Failure why = Failure.internal(stage.id());
            boolean doubtful = item.sending();
            return settled(
                    i, item, doubtful ? End.IN_DOUBT : End.REJECTED, new Failed(doubtful ? why.inDoubt() : why, false));
        }
    }

    /** Keeps of an item that is over what its record has to know, and what is gathered of it. */
    private Part settled(int i, Item item, End end, Failed why) {
        item.numbers().settle(end);
        Node its = gatheredOf(i, item, end, why);
        item.scope().forgetViews();
        if (steps.looking()) {
            return new Part(item, end, why, its, 0);
        }
        item.letsGo();
        if (end == End.DONE && item.leftNothing()) {
            synchronized (this) {
                record.entersAll(item);
            }
            return new Part(null, end, null, its, FOLDED + NodeSize.of(its));
        }
        return new Part(item, end, why, its, BARE + NodeSize.of(its));
    }

    private Node gatheredOf(int i, Item item, End end, Failed why) {
        Node.Builder node =
                Node.build(ITEM).add("position", Integer.toString(i + 1)).add("end", end.word());
        for (String name : split.made()) {
            Node made = kept.contains(name) ? item.scope().get(name) : null;
            if (made != null) {
                node.add(made.named(Name.of(name)));
            }
        }
        if (why != null) {
            node.add(why.failure().node());
        }
        return node.done();
    }

    private String step(int i) {
        return stage.id() + ":" + (i + 1);
    }
}
