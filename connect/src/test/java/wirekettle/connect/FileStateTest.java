package wirekettle.connect;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.expectThrows;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.Test;
import wirekettle.core.flow.run.Numbers;
import wirekettle.core.value.Series;

/** What a run from a shell leaves for the next one. */
public class FileStateTest {
    private static final Series PAPERS = new Series("papers", true, 1, null, false, null);
    private static final Series YEARLY = new Series("yearly", false, 7, "{year}/{number}", true, null);

    private Path file;

    @BeforeMethod
    public void nothingLeft() throws IOException {
        file = Files.createTempDirectory("state").resolve("state");
    }

    private static Numbers.Place at(long ordinal) {
        return new Numbers.Place(ordinal, "crates:2", "draw");
    }

    @Test
    public void theNextRunDrawsOn() throws Exception {
        try (FileState state = FileState.open(file, "", false)) {
            assertEquals(state.draw(PAPERS, 2026, at(1)), 1);
            assertEquals(state.draw(PAPERS, 2026, at(1)), 1, "the same place");
            assertEquals(state.draw(PAPERS, 2026, at(2)), 2);
            assertEquals(state.draw(YEARLY, 2026, at(1)), 7);
            assertEquals(state.draw(YEARLY, 2027, at(1)), 7);
        }
        try (FileState state = FileState.open(file, "", false)) {
            assertEquals(state.draw(PAPERS, 2026, at(1)), 3);
            assertEquals(state.draw(YEARLY, 2026, at(1)), 8);
        }
    }

    @Test
    public void aRunThatGoesOnHasTheNumbersItHeld() throws Exception {
        try (FileState state = FileState.open(file, "books", false)) {
            state.draw(PAPERS, 2026, at(1));
            state.draw(PAPERS, 2026, at(2));
        }
        FileState.open(file, "other books", false).close();
        Files.writeString(file, "{\"drawn\":9,\"ser", StandardOpenOption.APPEND);
        try (FileState state = FileState.open(file, "books", true)) {
            assertEquals(state.draw(PAPERS, 2026, at(2)), 2);
            assertEquals(state.draw(PAPERS, 2026, at(3)), 3, "what was torn was seen by nobody");
        }
    }

    @Test
    public void oneRunAtATimeHasTheFile() throws Exception {
        try (FileState state = FileState.open(file, "", false)) {
            IOException why = expectThrows(IOException.class, () -> FileState.open(file, "", false));
            assertEquals(why.getMessage(), "another run uses " + file + ": wait until it has ended");
            state.watermark("Events", "2026-11-28");
        }
        try (FileState state = FileState.open(file, "", false)) {
            assertEquals(state.watermark("Events"), "2026-11-28");
            assertNull(state.watermark("Loans"));
        }
    }

    @Test
    public void damageIsSaidWithItsLine() throws Exception {
        Files.writeString(file, "{\"run\":1,\"ledger\":\"\"}\n{oh\n");
        IOException why = expectThrows(IOException.class, () -> FileState.open(file, "", false));
        assertEquals(why.getMessage().startsWith("the state is damaged in line 2"), true, why.getMessage());
    }
}
