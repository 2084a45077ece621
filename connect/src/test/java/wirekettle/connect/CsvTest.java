package wirekettle.connect;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import java.io.BufferedWriter;
import java.io.File;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.flow.file.DatasetSpec.CsvShape;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.value.ScalarType;

public class CsvTest {
    private static Path file(String text, String charset) throws Exception {
        Path file = Files.createTempFile("rows", ".csv");
        Files.write(file, text.getBytes(Charset.forName(charset)));
        return file;
    }

    @DataProvider
    public Object[][] shapes() {
        String body = "größe;ort\r\n12,5;Lünbrück\r\n7,0;\"Öder;stad\"\r\n";
        return new Object[][] {
            {body, "UTF-8", ";", "UTF-8", true}, {body, "windows-1252", ";", "windows-1252", true},
            {"\uFEFF" + body, "UTF-8", ";", "UTF-8", true}, {"\uFEFF" + body, "UTF-16LE", ";", "UTF-16LE", true},
            {"a\tb\n1\t2\n", "UTF-8", "\t", "UTF-8", true}, {"a|b\n1|2\n", "UTF-8", "|", "UTF-8", true},
            {"1,2\n3,4\n", "UTF-8", ",", "UTF-8", false}, {"a,b\n\"x\ny\",2\n", "UTF-8", ",", "UTF-8", true},
        };
    }

    @Test(dataProvider = "shapes")
    public void howAFileIsWrittenIsFoundByLooking(
            String text, String written, String delimiter, String charset, boolean header) throws Exception {
        CsvShape shape = CsvLook.shape(file(text, written));
        assertEquals(shape, new CsvShape(delimiter, "\"", charset, header));
    }

    @Test
    public void layoutRowsAndUmlautsAreRight() throws Exception {
        Path file = file("\uFEFFgröße;ort\r\n12,5;Lünbrück\r\n7,0;\"Öder;stad\"\r\n", "UTF-8");
        CsvLook.Seen seen = CsvLook.look(file, CsvLook.shape(file));
        assertEquals(seen.layout().columns().get(0).name(), "größe");
        assertEquals(seen.layout().columns().get(0).type(), ScalarType.DECIMAL);
        assertEquals(seen.rows(), 2);
        try (RecordSource source = new CsvSource(file, seen.shape(), seen.layout())) {
            assertEquals(source.next().node().textOf("ort"), "Lünbrück");
            assertEquals(source.next().node().textOf("ort"), "Öder;stad");
            assertEquals(source.next(), null);
        }
    }

    @Test
    public void raggedRowsAreFoundAndOnlyTooLongOnesRejected() throws Exception {
        Path file = file("a,b,c\n1,2,3\n4,5\n6,7,8,9\n", "UTF-8");
        CsvLook.Seen seen = CsvLook.look(file, CsvLook.shape(file));
        assertEquals(seen.findings().stream().map(CsvLook.RowFinding::line).toList(), List.of(3L, 4L));
        try (RecordSource source = new CsvSource(file, seen.shape(), seen.layout())) {
            assertEquals(source.next().problem(), null);
            RecordSource.Item shorter = source.next();
            assertEquals(shorter.problem(), null);
            assertEquals(shorter.node().textOf("c"), "");
            assertTrue(source.next().problem().contains("line 4 has 4 fields"));
        }
    }

    @Test
    public void theSinkReplacesOrAppendsWithOneHeaderAndOnlyAtTheEnd() throws Exception {
        Path folder = Files.createTempDirectory("out");
        Path target = folder.resolve("result.csv");
        for (int i = 0; i < 2; i++) {
            try (CsvSink sink =
                    new CsvSink(target, folder.resolve("staged.csv"), CsvShape.DEFAULT, List.of("a", "b"), true)) {
                sink.write(1, List.<String[]>of(new String[] {"x,y", null}));
                sink.flush();
                assertEquals(Files.exists(target), i == 1, "nothing is visible before the end");
                sink.finish();
            }
        }
        assertEquals(Files.readString(target), "a,b\r\n\"x,y\",\r\n\"x,y\",\r\n");
        try (CsvSink sink = new CsvSink(target, folder.resolve("staged.csv"), CsvShape.DEFAULT, List.of("a"), false)) {
            sink.finish();
        }
        assertEquals(Files.readString(target), "a\r\n");
    }

    /** Looks at a file of 300 MB in a process of its own that has 256 MB of memory. */
    @Test
    public void aFileLargerThanMemoryIsLookedAt() throws Exception {
        Path file = Files.createTempFile("large", ".csv");
        String row = "HC-20481;RG-10400;96,5;04.12.2026;" + "remark ".repeat(28) + "\r\n";
        int rows = (300 << 20) / row.length();
        try (BufferedWriter out = Files.newBufferedWriter(file, StandardCharsets.UTF_8)) {
            out.write("loan_no;institution_no;gross_kg;collect_on;remark\r\n");
            for (int i = 0; i < rows; i++) {
                out.write(row);
            }
        }
        Process process = new ProcessBuilder(
                        System.getProperty("java.home") + "/bin/java",
                        "-Xmx256m",
                        "-cp",
                        System.getProperty("java.class.path"),
                        Looking.class.getName(),
                        file.toString())
                .redirectErrorStream(true)
                .start();
        String said = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        File large = file.toFile();
        assertTrue(large.length() > 299L << 20);
        assertTrue(large.delete());
        assertEquals(process.waitFor(), 0, said);
        assertEquals(said.strip(), rows + " decimal date");
        assertFalse(large.exists());
    }

    /** Run by the test above. */
    public static final class Looking {
        private Looking() {}

        /** Prints rows and two inferred types. */
        public static void main(String[] args) throws Exception {
            Path file = Path.of(args[0]);
            CsvLook.Seen seen = CsvLook.look(file, CsvLook.shape(file));
            System.out.println(
                    seen.rows() + " " + seen.layout().columns().get(2).type().word() + " "
                            + seen.layout().columns().get(3).type().word());
        }
    }
}
