package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import java.io.IOException;
import java.util.Collections;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.flow.file.Brake;
import wirekettle.core.flow.file.FlowFile;

/** A flow that stops by itself when too many of its last records are rejected. */
public class BrakeTest extends OutlineFixture {
    private static FlowFile braked(Brake brake) {
        FlowFile plain = file(reads("track", "$t/key"), write("w", "$t/key"));
        return new FlowFile(
                plain.format(), plain.name(), plain.before(), plain.stages(), null, null, brake, "Call the desk.");
    }

    private Ran of(Brake brake, String... keys) throws IOException {
        service = request -> reference(request).startsWith("bad") ? fault("no") : answer(reference(request), "fine");
        return run(braked(brake), keys);
    }

    @Test
    public void aRunStopsAtSoManyOfTheLast() throws IOException {
        String[] keys = Collections.nCopies(400, "bad").toArray(String[]::new);
        Ran ran = of(new Brake(3, null, 10), keys);
        assertEquals(ran.ended, FlowRun.Ended.STOPPED);
        assertTrue(ran.run.note().startsWith("3 of the last 3 records were rejected"), ran.run.note());
        assertTrue(ran.totals.of(End.REJECTED) >= 3 && ran.totals.read() < 400, ran.totals.toString());
        assertTrue(ran.left, "what was written takes no place");
        addsUp(ran);
    }

    @Test
    public void aShareIsLookedAtOnceThereAreEnough() throws IOException {
        Ran ran = of(new Brake(null, 50, 4), "bad", "bad", "a", "b", "c", "bad", "d", "e");
        assertEquals(ran.ended, FlowRun.Ended.STOPPED);
        assertTrue(ran.run.note().startsWith("2 of the last 4 records"), ran.run.note());
    }

    @Test
    public void fewerAreNoReason() throws IOException {
        Ran ran = of(new Brake(2, null, 2), "bad", "a", "bad", "b", "bad");
        assertEquals(ran.ended, FlowRun.Ended.DONE);
        assertEquals(ran.totals.of(End.REJECTED), 3L);
    }

    @DataProvider
    Object[][] wrong() {
        return new Object[][] {
            {new Brake(null, null, 5)},
            {new Brake(1, 1, 5)},
            {new Brake(6, null, 5)},
            {new Brake(0, null, 5)},
            {new Brake(null, 101, 5)},
            {new Brake(1, null, 0)},
            {new Brake(1, null, 100_001)},
        };
    }

    @Test(dataProvider = "wrong")
    public void aWrongBrakeIsAProblem(Brake brake) {
        assertFalse(compiled(braked(brake)).problems().isEmpty());
    }

    @Test
    public void theFileKeepsBrakeAndRunbook() {
        FlowFile file = braked(new Brake(3, null, 10));
        assertEquals(FlowFile.parse(file.text()), file);
        assertEquals(file.with(write("w", "$t/n")).runbook(), "Call the desk.");
        assertEquals(file.filled("w", write("w", "$t/n").fills()).brake(), file.brake());
    }
}
