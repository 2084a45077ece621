package wirekettle.connect;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.List;
import java.util.Map;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.Test;
import wirekettle.core.flow.run.Ledger;
import wirekettle.core.flow.run.Totals;

/** What a run's books in a file are after a crash, in the middle of a line and elsewhere. */
public class FileLedgerTest {
    private Path file;

    @BeforeMethod
    public void begin() throws IOException {
        file = Files.createTempDirectory("ledger").resolve("run.ledger");
        try (FileLedger ledger = FileLedger.begin(file)) {
            ledger.keep(batch(7));
        }
    }

    private static Ledger.Batch batch(long written) {
        return new Ledger.Batch(List.of(), List.of(), List.of(), Map.of("out", written), null, Totals.NONE);
    }

    private void append(String text) throws IOException {
        Files.writeString(file, text, StandardOpenOption.APPEND);
    }

    @Test
    public void whatACrashToreOffIsCutAndTheRestGoesOn() throws Exception {
        long sound = Files.size(file);
        append("{\"claim\":\"book\",\"number\":1,\"ordinal\":3,\"fing\n\0\0\0\n{\"claim");
        try (FileLedger ledger = FileLedger.resume(file)) {
            assertEquals(ledger.position("out"), 7);
            assertEquals(ledger.open(3), null, "a claim that was not durable is none");
            assertEquals(Files.size(file), sound);
            ledger.keep(batch(9));
        }
        try (FileLedger ledger = FileLedger.resume(file)) {
            assertEquals(ledger.position("out"), 9);
        }
    }

    @Test
    public void whatIsWrongBeforeSoundLinesIsDamageAndTold() throws Exception {
        append("not a line\n" + Files.readString(file));
        IOException e = expectThrows(IOException.class, () -> FileLedger.resume(file));
        assertTrue(e.getMessage().startsWith("the ledger is damaged at byte "), e.getMessage());
    }

    @Test
    public void aRunThatEndedDoesNotGoOnAndNoLedgerIsWrittenOver() throws Exception {
        assertTrue(expectThrows(IOException.class, () -> FileLedger.begin(file))
                .getMessage()
                .contains("--resume"));
        try (FileLedger ledger = FileLedger.resume(file)) {
            ledger.over();
        }
        assertTrue(expectThrows(IOException.class, () -> FileLedger.resume(file))
                .getMessage()
                .contains("has ended"));
        Path none = file.resolveSibling("none");
        assertTrue(expectThrows(IOException.class, () -> FileLedger.resume(none))
                .getMessage()
                .contains("there is no ledger"));
    }
}
