package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import wirekettle.core.value.Series;

/** Draws numbers as a store would, and settles them with the ends of records. */
final class NumbersInMemory implements Numbers {
    final List<Long> drawn = new ArrayList<>();
    final Map<Place, Long> held = new HashMap<>();
    final TreeSet<Long> free = new TreeSet<>();
    final TreeSet<Long> used = new TreeSet<>();
    private long next = 1;
    volatile IOException away;

    @Override
    public synchronized long draw(Series series, int year, Place place) throws IOException {
        if (away != null) {
            throw away;
        }
        Long known = series.gapless() ? held.get(place) : null;
        if (known != null) {
            return known;
        }
        long number = free.isEmpty() ? next++ : free.pollFirst();
        drawn.add(number);
        if (series.gapless()) {
            held.put(place, number);
        }
        return number;
    }

    synchronized void settle(LedgerLine line) {
        for (DrawnNumber each : line.numbers()) {
            Long number = held.remove(new Place(line.ordinal(), each.path(), each.stage()));
            if (number != null) {
                (each.fate() == DrawnNumber.Fate.GIVEN_BACK ? free : used).add(number);
            }
        }
    }
}
