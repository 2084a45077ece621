package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.util.List;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.value.Node;

/** Records against the memory there is for all of them: large ones go first, too large ones are rejected. */
public class RecordMemoryTest extends OutlineFixture {
    private static final long ALL = 1 << 20;

    private final MemoryBudget budget = MemoryBudget.of(ALL);

    private Ran ran(Stage[] stages, Node... records) throws Exception {
        CompiledFlow flow = sound(file(stages));
        Doors open = doors(flow);
        Doors bounded = new Doors(open.lines(), open.lookUps(), open.folders(), open.clock(), budget, open.trouble());
        Ran ran = Ran.of(flow, bounded, List.of(records));
        addsUp(ran);
        assertEquals(budget.used(), 0, "all of it was given back");
        return ran;
    }

    private static Node record(String key, int size) {
        return World.record("record", "key", key, "n", "x".repeat(size));
    }

    @Test
    public void aRecordLargerThanAllMemoryIsRejectedAndTheOthersGoOn() throws Exception {
        Stage[] stages = {reads("c", "$t/key"), write("out", "$t/key")};
        Ran ran = ran(stages, record("a", 10), record("big", 2 << 20), record("c", 10));
        assertEquals(ran.line(2).end(), End.REJECTED);
        assertEquals(ran.line(2).failure().cause(), "record too large");
        assertEquals(ran.line(2).failure().stage(), "read");
        assertEquals(ran.rows.get("out"), List.of("a", "c"));
        assertTrue(!sent.contains("big"), "nothing is sent for it");
    }

    /** Two records that each fit alone, but not together, go one after the other. */
    @Test
    public void recordsThatFitOnlyAloneWaitForEachOther() throws Exception {
        int most = (int) (ALL / 10 * 9);
        Stage[] stages = {reads("c", "$t/key"), write("out", "$t/key")};
        Ran ran = ran(stages, record("a", most), record("b", most), record("c", most));
        assertEquals(ran.rows.get("out"), List.of("a", "b", "c"));
    }

    @Test
    public void aRecordWhoseAnswersTakeTooMuchCallsNobodyMore() throws Exception {
        service = request -> answer(reference(request), "y".repeat((int) (ALL / 10 * 4)));
        Stage[] stages = new Stage[6];
        for (int i = 0; i < 5; i++) {
            stages[i] = reads("c" + i, "'c" + i + "'");
        }
        stages[5] = write("out", "$t/key");
        Ran ran = ran(stages, record("a", 10));
        assertEquals(ran.line(1).end(), End.REJECTED);
        assertEquals(ran.line(1).failure().cause(), "record too large");
        assertEquals(ran.line(1).failure().stage(), sent.isEmpty() ? "" : "c" + sent.size());
        assertTrue(sent.size() < 5, sent.toString());
    }

    /** What is in a file takes no memory, and is not read to find out. */
    @Test
    public void contentInAFileTakesNoMemory() {
        wirekettle.core.value.Content file = new wirekettle.core.value.Content() {
            @Override
            public long length() {
                return 1L << 40;
            }

            @Override
            public java.io.InputStream open() {
                throw new AssertionError("nobody reads it");
            }
        };
        Node node = World.record("record", "key", "k").named(wirekettle.core.value.Name.of("r"));
        long bare = wirekettle.core.value.NodeSize.of(node);
        Node holding = Node.branch(
                wirekettle.core.value.Name.of("r"),
                List.of(Node.leaf(wirekettle.core.value.Name.of("key"), "k").holding(file)));
        assertTrue(wirekettle.core.value.NodeSize.of(holding) <= bare);
    }

    /** A guess at how long an answer may be is lent and given back: only what an answer turned out to take counts. */
    @Test
    public void whatACallBorrowsWhileItReadsDoesNotMakeARecordTooLarge() throws Exception {
        service = request -> {
            try {
                request.room().memory().grow(3 * ALL, Long.MAX_VALUE);
            } catch (MemoryBudget.Full | InterruptedException e) {
                throw new IllegalStateException(e);
            }
            return answer(reference(request), "fine");
        };
        Stage[] stages = {reads("c", "$t/key"), reads("d", "$t/key"), write("out", "$d/status")};
        Ran ran = ran(stages, record("a", 10), record("b", 10), record("c", 10));
        assertEquals(ran.rows.get("out"), List.of("fine", "fine", "fine"));
    }
}
