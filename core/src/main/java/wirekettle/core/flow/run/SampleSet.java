package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Random;
import wirekettle.core.value.Node;

/**
 * The sample records that everything is checked against.
 *
 * @param numbers their places in the dataset, from 1, ascending
 * @param records the records
 */
public record SampleSet(List<Long> numbers, List<Node> records) {
    /** How many records count as samples unless all do. */
    public static final int SIZE = 50;

    private static final long MOST_READ = 200_000;

    /** Returns the first of the records known. */
    public static SampleSet first(List<Node> known) {
        List<Node> records = known.subList(0, Math.min(SIZE, known.size()));
        List<Long> numbers = new ArrayList<>();
        for (int i = 0; i < records.size(); i++) {
            numbers.add(i + 1L);
        }
        return new SampleSet(numbers, List.copyOf(records));
    }

    /** Returns records from anywhere in a source, the same ones each time; of a very large source its beginning. */
    public static SampleSet random(RecordSource source) throws IOException {
        Random random = new Random(20_481);
        List<Long> numbers = new ArrayList<>();
        List<Node> records = new ArrayList<>();
        long seen = 0;
        for (RecordSource.Item item = source.next(); item != null && seen < MOST_READ; item = source.next()) {
            seen++;
            if (item.problem() != null) {
                continue;
            }
            if (records.size() < SIZE) {
                numbers.add(seen);
                records.add(item.node());
            } else {
                long at = random.nextLong(seen);
                if (at < SIZE) {
                    numbers.set((int) at, seen);
                    records.set((int) at, item.node());
                }
            }
        }
        List<Integer> order = new ArrayList<>();
        for (int i = 0; i < numbers.size(); i++) {
            order.add(i);
        }
        order.sort(Comparator.comparing(numbers::get));
        return new SampleSet(
                order.stream().map(numbers::get).toList(),
                order.stream().map(records::get).toList());
    }
}
