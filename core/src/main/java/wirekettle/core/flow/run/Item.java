package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;
import wirekettle.core.expression.Places;
import wirekettle.core.expression.Scope;
import wirekettle.core.soap.CallRoom;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeSize;

/** One record on its way through the steps. For one thread at a time. */
final class Item {
    /** Rows of one Write stage. */
    record Rows(String stage, List<String[]> rows) {}

    /**
     * A change that was done and can be reversed.
     *
     * @param stage the stage that says how
     * @param what what was done, in a word
     * @param path where its item is in the record
     * @param scope what it knew and got
     */
    record Reversal(String stage, String what, Effect effect, String path, Scope scope) {}

    /**
     * Nothing new is begun: a call that is not known from before a crash fails.
     *
     * @param failure with what
     * @param reads whether calls that only read fail too
     */
    record Halt(Failure failure, boolean reads) {}

    /** How much there was before a step, to go back to. */
    record Mark(Scope scope, int rows, Answer answer) {}

    private final long ordinal;
    private final String path;
    private final Node record;
    private final String fingerprint;
    private final String key;
    private final CallRoom room;
    private final Replay replay;
    private final boolean known;
    private final Scope begun;
    private Scope scope;
    private final List<Rows> rows = new ArrayList<>(2);
    private final List<Passage> passages = new ArrayList<>(1);
    private List<Passage> earlier = List.of();
    private boolean ofEarlierRun;
    private final List<Reversal> reversals = new ArrayList<>(0);
    private final List<ItemEnd> items = new ArrayList<>(0);
    private int[] entered = new int[8];
    private int stages;
    private String note;
    private String leftAt;
    private boolean saved;
    private boolean again;
    private boolean sending;
    private Answer answer;
    private Function<Answer, String> fits = any -> null;
    private Halt halt;
    private boolean looked;
    private long held;
    private final DrawnNumbers numbers = new DrawnNumbers(this);
    private final Company company = new Company();
    private final Paging paging = new Paging();

    /**
     * Makes an item.
     *
     * @param path where in its record it is; empty for the record itself
     * @param known whether the replay comes from before a crash
     */
    Item(
            long ordinal,
            String path,
            Node record,
            String fingerprint,
            String key,
            Scope scope,
            CallRoom room,
            Replay replay,
            boolean known) {
        this.ordinal = ordinal;
        this.path = path;
        this.record = record;
        this.fingerprint = fingerprint;
        this.key = key;
        this.begun = RunKey.in(scope, replay.key(), path);
        this.scope = begun;
        this.room = room;
        this.replay = replay;
        this.known = known;
    }

    long ordinal() {
        return ordinal;
    }

    /** Returns an item within this one; to be worked on by the thread that asks for it. */
    Item inside(String step, String variable, Node its, Places places) {
        String at = path.isEmpty() ? step : path + "/" + step;
        Item item = new Item(
                ordinal, at, record, fingerprint, key, scope.apart(places).inside(variable, its), room, replay, known);
        item.halt = halt;
        item.looked = looked;
        item.ofEarlierRun = ofEarlierRun;
        return item;
    }

    /** Returns the item that reverses a change, with the failure because of which it is reversed. */
    Item reversing(Reversal reversal, Failure why) {
        String within = Effect.undoing(reversal.path(), reversal.stage());
        String at = ofEarlierRun ? Effect.earlier(within) : within;
        Scope its = reversal.scope().apart().with("failure", why.node());
        Item item = new Item(ordinal, at, record, fingerprint, key, its, room, replay, known);
        item.looked = looked;
        return item;
    }

    /** Returns an item that asks what became of a change of this one: nothing of before is known to it. */
    Item asking(Scope its) {
        Replay nothing = Replay.starting(replay.now(), replay.key());
        return new Item(ordinal, path, record, fingerprint, key, its, room, nothing, false);
    }

    /** Adds what an item within it did. */
    void takes(Item item) {
        passages.addAll(item.passages);
        rows.addAll(item.rows);
        reversals.addAll(item.reversals);
        item.items.forEach(this::ends);
        numbers.takes(item.numbers);
        entersAll(item);
        note(item.note);
        saved |= item.saved;
        held += item.held;
    }

    /** Returns where in its record it is; empty for the record itself. */
    String path() {
        return path;
    }

    Node record() {
        return record;
    }

    String fingerprint() {
        return fingerprint;
    }

    String key() {
        return key;
    }

    CallRoom room() {
        return room;
    }

    Replay replay() {
        return replay;
    }

    /** Tells whether the replay comes from before a crash, so that its results are used instead of calling again. */
    boolean known() {
        return known;
    }

    Scope scope() {
        return scope;
    }

    /** Adds what a stage made to what is in reach, where it stays. */
    void bind(String variable, Node node) {
        shows(variable, node);
        holds(node);
    }

    /** Counts what is held for it, and is in reach later. */
    void holds(Node node) {
        if (room.memory() != null) {
            long bytes = NodeSize.of(node);
            held += bytes;
            room.memory().take(bytes);
        }
    }

    /**
     * Lets go of what its stages made: nothing reaches it any more. What can still be taken back keeps all, for that may
     * need it.
     */
    void letsGo() {
        if (reversals.isEmpty()) {
            scope = begun;
            if (room.memory() != null) {
                room.memory().shrink(held);
            }
            held = 0;
        }
    }

    /** Tells whether it left nothing behind that its record has to know, but for the stages it came to. */
    boolean leftNothing() {
        return passages.isEmpty()
                && rows.isEmpty()
                && reversals.isEmpty()
                && items.isEmpty()
                && numbers.isEmpty()
                && company.places().isEmpty()
                && note == null
                && !saved;
    }

    /** Lets something be in reach that is to be replaced or taken back. */
    void shows(String variable, Node node) {
        scope = scope.with(variable, node);
    }

    /** Returns about how many bytes its stages made, and those of the items within it. */
    long held() {
        return held;
    }

    /**
     * Refuses to go on with a record that has taken more memory than there is for all.
     *
     * @param stage the stage that would go on
     */
    void fits(String stage) throws Failed {
        if (room.memory() != null && room.memory().tooLarge()) {
            throw new Failed(
                    Failure.of(
                            FailureClass.MAPPING,
                            "record too large",
                            "what the record holds takes more memory than there is for all records together; give the"
                                    + " server more memory, or let the flow keep less of it",
                            stage),
                    false);
        }
    }

    void scope(Scope other) {
        scope = other;
    }

    void enters(int stage) {
        if (stages == entered.length) {
            entered = Arrays.copyOf(entered, stages * 2);
        }
        entered[stages++] = stage;
    }

    /** Adds the stages that what is within it came to. */
    void entersAll(Item item) {
        for (int i = 0; i < item.stages; i++) {
            enters(item.entered[i]);
        }
    }

    int[] entered() {
        return Arrays.copyOf(entered, stages);
    }

    void writes(String stage, List<String[]> some) {
        if (!some.isEmpty()) {
            rows.add(new Rows(stage, some));
        }
    }

    List<Rows> rows() {
        return List.copyOf(rows);
    }

    Mark mark() {
        return new Mark(scope, rows.size(), answer);
    }

    /** Takes back what was made since a mark. */
    void back(Mark mark) {
        scope = mark.scope();
        backRows(mark.rows());
        answer = mark.answer();
    }

    void backRows(int count) {
        while (rows.size() > count) {
            rows.remove(rows.size() - 1);
        }
    }

    /** Forgets the rows before a place: those of a record that is rejected behind it. */
    void forgetRowsBefore(int count) {
        rows.subList(0, Math.min(count, rows.size())).clear();
    }

    /** Adds a passage; that of a call tried again takes the place of what its earlier attempts left. */
    void passes(Passage passage) {
        if (room.memory() != null && passage.exchange() != null) {
            room.memory().take(passage.exchange().bytes());
        }
        int last = passages.size() - 1;
        if (last >= 0 && passages.get(last).effect().equals(passage.effect())) {
            passages.set(last, passage);
        } else {
            passages.add(passage);
        }
    }

    /** Returns its passages; those of what was taken back come first, but for what it did once more. */
    List<Passage> passages() {
        if (earlier.isEmpty()) {
            return List.copyOf(passages);
        }
        Set<Effect> own = passages.stream().map(Passage::effect).collect(Collectors.toSet());
        List<Passage> all = new ArrayList<>(earlier);
        all.removeIf(each -> own.contains(each.effect()));
        all.addAll(passages);
        return all;
    }

    /** Returns its passages without those of what was taken back of an earlier run. */
    List<Passage> own() {
        return passages;
    }

    /** Lets nothing new begin: what an earlier run did for its record is gone through, to be taken back. */
    void takesBackEarlier(Failure why) {
        ofEarlierRun = true;
        halt = new Halt(why, true);
    }

    /** Begins behind an item that took back what an earlier run did. */
    void begins(Item back) {
        earlier = List.copyOf(back.passages);
        note(back.note);
    }

    /** Returns the passage of a call that is tried again, null when it is not. It stays until there is a new one. */
    Passage tried(String stage) {
        Passage last = passages.isEmpty() ? null : passages.get(passages.size() - 1);
        if (!again || last == null || !last.stage().equals(stage)) {
            return null;
        }
        again = false;
        return last;
    }

    /** Notes that the step which failed is tried again. */
    void triesAgain() {
        again = true;
    }

    /** Notes that something that changes data is being sent, or that what became of it is known. */
    void sending(boolean now) {
        sending = now;
    }

    /** Tells whether something that changes data is being sent. */
    boolean sending() {
        return sending;
    }

    /** Notes how an item within it ended. */
    void ends(ItemEnd end) {
        if (items.size() < ItemEnd.MOST) {
            items.add(end);
        }
    }

    /** Returns how items within it ended that are not simply done. */
    List<ItemEnd> items() {
        return List.copyOf(items);
    }

    /** Returns the numbers drawn for it and for what is within it. */
    DrawnNumbers numbers() {
        return numbers;
    }

    /** Returns its part in batches. */
    Company company() {
        return company;
    }

    /** Returns how far its calls have asked for pages. */
    Paging paging() {
        return paging;
    }

    /** Notes a change that was done and can be reversed. */
    void reversible(Reversal reversal) {
        reversals.add(reversal);
    }

    /** Returns what can be reversed, what was done last first. */
    List<Reversal> reversals() {
        List<Reversal> lastFirst = new ArrayList<>(reversals);
        Collections.reverse(lastFirst);
        return lastFirst;
    }

    /** Notes that a change was reversed. */
    void reversed(Reversal reversal) {
        reversals.remove(reversal);
        // what a batch accepted and was taken back is not accepted any more
        company.tookBack(reversal.stage());
        for (int i = 0; i < passages.size(); i++) {
            Passage passage = passages.get(i);
            if (passage.effect().equals(reversal.effect())) {
                passages.set(i, passage.with(Passage.Outcome.UNDONE));
            }
        }
    }

    /** Lets nothing new begin from now on. */
    void halts(Halt other) {
        halt = other;
    }

    /** Returns what a call fails with that is not known from before, null when it is made. */
    Halt halt() {
        return halt;
    }

    /** Marks it as one that only shows what would be done. */
    Item looked() {
        looked = true;
        return this;
    }

    /** Tells whether it only shows what would be done. */
    boolean isLooked() {
        return looked;
    }

    /** Returns what goes through the stages of a batch that was claimed before a crash. */
    static Item of(KeptBatch batch, Replay leading, Scope its) {
        KeptBatch.Member first = batch.members().get(0);
        return new Item(
                first.ordinal(), batch.path(), null, first.fingerprint(), null, its, CallRoom.NONE, leading, true);
    }

    /** Returns an item for a batch that this record leads: what the batch does is kept under it. */
    Item leading(String step, Scope its, CallRoom other) {
        return new Item(ordinal, step, record, fingerprint, key, its, other, replay, known);
    }

    /** Adds what a batch did that this record leads, but for the rows it wrote. */
    void takesBatch(Item batch) {
        passages.addAll(batch.passages);
        batch.items.forEach(this::ends);
        numbers.takes(batch.numbers);
        entersAll(batch);
        note(batch.note);
    }

    /** Adds the rows that a batch wrote. */
    void takesRows(Item batch) {
        rows.addAll(batch.rows);
    }

    /** Returns the next effect at a stage. */
    Effect next(String stage) {
        int number = 1;
        for (Passage passage : passages) {
            number += passage.stage().equals(stage) ? 1 : 0;
        }
        return new Effect(path, stage, number);
    }

    /** Tells whether it is run once, and no record: what it read is kept though nothing is changed. */
    boolean once() {
        return ordinal < 1;
    }

    /** Returns the last record that needs what is claimed here, null when that is only this one. */
    Long last() {
        return once() ? Long.valueOf(Long.MAX_VALUE) : replay.lastAt(path);
    }

    /** Returns what a stage made before a crash, or null. */
    Node made(String stage) {
        return known ? replay.made(path, stage) : null;
    }

    /** Keeps what a stage made that could not be made again the same. */
    void makes(String stage, Node node) {
        replay.makes(path, stage, node);
    }

    void leavesAt(String filter) {
        leftAt = filter;
    }

    /** Returns the filter that left it out. */
    String leftAt() {
        return leftAt;
    }

    String note() {
        return note;
    }

    void note(String other) {
        note = note == null ? other : note;
    }

    /** Notes something unusual beside what is noted already. */
    void alsoNotes(String other) {
        note = note == null ? other : note + "; " + other;
    }

    boolean saved() {
        return saved;
    }

    void saves() {
        saved = true;
    }

    Answer answer() {
        return answer;
    }

    void answers(Answer other) {
        answer = other;
    }

    /** Holds an answer against what whoever waits can use; returns what is wrong with it, or null. */
    String wrong(Answer other) {
        return fits.apply(other);
    }

    /** Takes what says whether an answer will do for whoever waits. */
    void waitedFor(Function<Answer, String> other) {
        fits = other;
    }
}
