package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNotEquals;
import static org.testng.Assert.assertTrue;

import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.assist.FieldCoverage;
import wirekettle.core.value.Node;

public class SampleSetTest {
    private static RecordSource source(int records) {
        return new RecordSource() {
            private int n;

            @Override
            public Item next() {
                n++;
                return n > records ? null : new Item(World.record("r", "n", "" + n), n % 10 == 0 ? "unusable" : null);
            }

            @Override
            public long size() {
                return records;
            }

            @Override
            public String name() {
                return "r";
            }

            @Override
            public void close() {}
        };
    }

    @Test
    public void randomSamplesAreFromAllOverUsableAndTheSameEachTime() throws IOException {
        SampleSet set = SampleSet.random(source(10_000));
        assertEquals(set.records().size(), SampleSet.SIZE);
        assertEquals(set.numbers(), SampleSet.random(source(10_000)).numbers());
        long before = 0;
        for (int i = 0; i < set.numbers().size(); i++) {
            long number = set.numbers().get(i);
            assertTrue(number > before && number % 10 != 0, set.numbers().toString());
            assertEquals(set.records().get(i).textOf("n"), Long.toString(number));
            before = number;
        }
        assertTrue(before > 5_000, "the end of the source is among them: " + before);
        assertNotEquals(set.numbers().get(0), 1L);
    }

    @Test
    public void fewRecordsAreAllSamples() throws IOException {
        assertEquals(SampleSet.random(source(9)).numbers(), List.of(1L, 2L, 3L, 4L, 5L, 6L, 7L, 8L, 9L));
        List<Node> known = new ArrayList<>();
        for (int i = 0; i < 70; i++) {
            known.add(World.record("r", "n", "" + i));
        }
        assertEquals(SampleSet.first(known).numbers().size(), 50);
        assertEquals(SampleSet.first(known.subList(0, 3)).numbers(), List.of(1L, 2L, 3L));
    }

    @Test
    public void coverageCountsAndBlames() {
        FieldCoverage coverage = new FieldCoverage();
        for (int i = 1; i <= 90; i++) {
            coverage.count(i, i % 3 == 0 ? "" : "v" + i, i % 3 == 1 ? "does not fit" : null);
        }
        assertEquals(coverage.fine() + " " + coverage.empty() + " " + coverage.invalid(), "30 30 30");
        assertEquals(coverage.offenders().get(1), new FieldCoverage.Offender(4, "v4", "does not fit"));
        assertEquals(coverage.misfits().size(), 30);
    }
}
