package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.List;

/** The numbers drawn for an item and for what is within it, and what becomes of them. For one thread at a time. */
final class DrawnNumbers {
    private final Item item;
    private final List<DrawnNumber> numbers = new ArrayList<>(0);

    DrawnNumbers(Item item) {
        this.item = item;
    }

    /** Notes a number drawn for it. */
    void add(DrawnNumber number) {
        numbers.removeIf(each -> each.path().equals(number.path())
                && each.stage().equals(number.stage())
                && each.series().name().equals(number.series().name()));
        numbers.add(number);
    }

    boolean isEmpty() {
        return numbers.isEmpty();
    }

    /** Adds those of an item within it. */
    void takes(DrawnNumbers others) {
        numbers.addAll(others.numbers);
    }

    /**
     * Settles what becomes of the numbers drawn for it and for what is within it: one with which nothing was done is
     * given back where its item came to nothing.
     */
    void settle(End end) {
        numbers.replaceAll(number -> settled(number, end));
    }

    /** Returns the numbers drawn for it and for what is within it, as they are settled by its end. */
    List<DrawnNumber> settled(End end) {
        return numbers.stream().map(number -> settled(number, end)).toList();
    }

    private DrawnNumber settled(DrawnNumber number, End end) {
        if (number.fate() != DrawnNumber.Fate.OPEN) {
            return number;
        }
        boolean nothing = end == End.REJECTED || end == End.LEFT_OUT || end == End.HELD_BACK;
        if (nothing && !did(number.path())) {
            return number.with(DrawnNumber.Fate.GIVEN_BACK);
        }
        // of an item of a Split that is done the end of its record is waited for
        boolean waits = !item.path().isEmpty() && !item.once() && end == End.DONE && !leads() && !did(number.path());
        return waits ? number : number.with(DrawnNumber.Fate.USED);
    }

    /** Tells whether it is a batch. */
    private boolean leads() {
        return item.replay().led().stream().anyMatch(batch -> batch.path().equals(item.path()));
    }

    /** Tells whether anything was or may have been done within a place, or around it. */
    private boolean did(String place) {
        List<String> led = item.replay().led().stream().map(KeptBatch::path).toList();
        String batch =
                led.stream().filter(at -> Effect.within(place, at)).findFirst().orElse(null);
        for (Passage passage : item.own()) {
            String at = passage.effect().path();
            boolean other = led.stream().anyMatch(each -> Effect.within(at, each) && !each.equals(batch));
            boolean near = Effect.within(at, place) || batch == null && Effect.within(place, at);
            if (passage.changes() && passage.outcome() != Passage.Outcome.NOT_DONE && near && !other) {
                return true;
            }
        }
        return batch == null && item.company().places().stream().anyMatch(each -> each.verdict() != null);
    }
}
