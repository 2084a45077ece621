package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNotNull;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import java.util.ArrayList;
import java.util.Iterator;
import java.util.List;
import java.util.stream.IntStream;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.flow.run.RecordSource.Item;
import wirekettle.core.value.Grouping;

/** Rows put together by what they say: what a key says counts, not its hash. */
public class GroupedSourceTest {
    private static RecordSource rows(List<String> loans) {
        Iterator<String> left = loans.iterator();
        return new RecordSource() {
            @Override
            public Item next() {
                return left.hasNext() ? new Item(World.record("record", "loan", left.next()), null) : null;
            }

            @Override
            public long size() {
                return loans.size();
            }

            @Override
            public String name() {
                return "crates.csv";
            }

            @Override
            public void close() {}
        };
    }

    private static List<Item> grouped(List<String> loans) throws Exception {
        List<Item> made = new ArrayList<>();
        try (RecordSource source = GroupedSource.of(rows(loans), List.of("loan"))) {
            for (Item item = source.next(); item != null; item = source.next()) {
                made.add(item);
            }
        }
        return made;
    }

    @Test
    public void keysOfOneHashAreDifferentKeys() throws Exception {
        assertEquals("A1O".hashCode(), "A20".hashCode());
        List<Item> made = grouped(List.of("A1O", "A1O", "A20"));
        assertEquals(made.size(), 2);
        made.forEach(item -> assertNull(item.problem()));
        assertEquals(
                made.get(0).node().children().stream()
                        .filter(c -> c.name().local().equals(Grouping.LINE))
                        .count(),
                2);
        assertEquals(made.get(1).node().textOf("loan"), "A20");
    }

    @Test
    public void rowsThatComeAgainLaterAreToldWithBothPlaces() throws Exception {
        List<String> loans = new ArrayList<>(
                IntStream.rangeClosed(1, 20_000).mapToObj(i -> "HC-" + i).toList());
        loans.add("HC-7");
        List<Item> made = grouped(loans);
        made.subList(0, 20_000).forEach(item -> assertNull(item.problem()));
        Item again = made.get(20_000);
        assertNotNull(again.problem());
        assertTrue(again.problem().contains("at row 7, more at row 20001"), again.problem());
    }
}
