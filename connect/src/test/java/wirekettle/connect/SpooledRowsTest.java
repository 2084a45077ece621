package wirekettle.connect;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Iterator;
import java.util.List;
import org.testng.annotations.Test;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.value.Node;

/** Rows of a query that are read once into a file. */
public class SpooledRowsTest {
    private int opened;

    private RecordSource query(List<String> values) {
        opened++;
        Iterator<String> left = values.iterator();
        return new RecordSource() {
            @Override
            public Item next() {
                return left.hasNext()
                        ? new Item(
                                Node.build(wirekettle.core.value.Name.of("record"))
                                        .add("no", left.next())
                                        .add("empty", "")
                                        .done(),
                                null)
                        : null;
            }

            @Override
            public long size() {
                return -1;
            }

            @Override
            public String name() {
                return "loans";
            }

            @Override
            public void close() {}
        };
    }

    private static List<String> all(RecordSource source) throws IOException {
        List<String> all = new ArrayList<>();
        for (RecordSource.Item item = source.next(); item != null; item = source.next()) {
            all.add(item.node().textOf("no") + "/" + item.node().children().size());
        }
        source.close();
        return all;
    }

    private static Path file() throws IOException {
        return Files.createTempDirectory("rows").resolve("1-rows");
    }

    @Test
    public void theSameRowsAreReadAgainWhateverTheQueryGivesThen() throws Exception {
        Path file = file();
        opened = 0;
        List<String> rows = List.of("ä\n1", "", "2");
        assertEquals(all(new SpooledRows(file, "loans", () -> query(rows))), List.of("ä\n1/2", "/2", "2/2"));
        assertEquals(
                all(new SpooledRows(file, "loans", () -> query(List.of("other")))), List.of("ä\n1/2", "/2", "2/2"));
        assertEquals(opened, 1);
        assertEquals(all(new SpooledRows(file(), "loans", () -> query(List.of()))), List.of());
    }

    @Test
    public void aFileIsThereOnlyWhole() throws Exception {
        Path file = file();
        SpooledRows broken = new SpooledRows(file, "loans", () -> {
            throw new IOException("the database says: no");
        });
        assertEquals(expectThrows(IOException.class, broken::next).getMessage(), "the database says: no");
        assertFalse(Files.exists(file));
        SpooledRows stopped = new SpooledRows(file, "loans", () -> query(List.of("1", "2")));
        stopped.stop();
        assertNull(stopped.next());
        assertFalse(Files.exists(file));
        assertEquals(all(new SpooledRows(file, "loans", () -> query(List.of("1")))), List.of("1/2"));
        byte[] whole = Files.readAllBytes(file);
        Files.write(file, java.util.Arrays.copyOf(whole, whole.length - 5));
        SpooledRows damaged = new SpooledRows(file, "loans", () -> query(List.of("1")));
        assertTrue(
                expectThrows(IOException.class, () -> all(damaged)).getMessage().contains("not whole"));
    }
}
