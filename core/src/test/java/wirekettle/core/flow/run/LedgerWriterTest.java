package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CountDownLatch;
import org.testng.annotations.Test;

/** What shares one write must read as if each part had been written in its turn. */
public class LedgerWriterTest {
    private static final Effect BOOK = Effect.of("book", 1);

    private final List<Ledger.Batch> written = new ArrayList<>();
    private final CountDownLatch begun = new CountDownLatch(1);
    private final CountDownLatch goOn = new CountDownLatch(1);

    /** Holds the first write back, so that what comes meanwhile shares the second. */
    private void keep(Ledger.Batch batch) {
        begun.countDown();
        try {
            goOn.await();
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
        written.add(batch);
    }

    @Test
    public void aClaimMadeAgainIsNotHiddenByWhatWasKnownBefore() throws Exception {
        Claim claim = new Claim(7, "abc", BOOK, "", null);
        Passage notDone = Passage.bare(BOOK, Passage.Outcome.NOT_DONE);
        Ledger.KnownPassage other = new Ledger.KnownPassage(8, notDone, null);
        try (LedgerWriter writer = new LedgerWriter(this::keep, List.of(), Totals.NONE)) {
            writer.known(new Ledger.KnownPassage(6, notDone, null));
            begun.await();
            writer.known(new Ledger.KnownPassage(7, notDone, null));
            writer.known(other);
            Thread again = new Thread(() -> {
                try {
                    writer.claim(claim);
                } catch (Stopped e) {
                    throw new IllegalStateException(e);
                }
            });
            again.start();
            while (again.getState() != Thread.State.WAITING) {
                Thread.onSpinWait();
            }
            goOn.countDown();
            again.join();
        }
        Ledger.Batch second = written.get(1);
        assertEquals(second.claims(), List.of(claim));
        assertEquals(second.passages(), List.of(other), "the claim came after the call was known not to be done");
    }
}
