package wirekettle.connect;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.value.Content;
import wirekettle.core.value.Node;

/** Folders: nothing outside them is reached, nothing in them is lost. */
public class FolderFilesTest {
    private Path folder;
    private FolderFiles files;

    @BeforeMethod
    public void photographs() throws Exception {
        Path home = Files.createTempDirectory("folders");
        folder = Files.createDirectories(home.resolve("photographs"));
        Files.writeString(home.resolve("private.txt"), "private");
        Files.createSymbolicLink(folder.resolve("link.txt"), home.resolve("private.txt"));
        Files.writeString(folder.resolve("b.png"), "bb");
        Files.writeString(folder.resolve("a.pdf"), "a");
        Files.createDirectories(folder.resolve("inner"));
        files = new FolderFiles(Map.of("photographs", folder));
    }

    private static Content text(String text) {
        return Content.of(text.getBytes(StandardCharsets.UTF_8));
    }

    @DataProvider
    public Object[][] outside() {
        return new Object[][] {
            {"../private.txt", "leads out"},
            {"link.txt", "leads out"},
            {"/etc/passwd", "leads out"},
            {"inner", "is no file"},
            {"c.png", "is no file"},
            {"a\u0000b", "cannot be read"},
            {"", "is no file"},
        };
    }

    @Test(dataProvider = "outside")
    public void onlyFilesOfTheFolderAreFound(String name, String said) {
        Folders.NoSuchFile e = expectThrows(Folders.NoSuchFile.class, () -> files.file("photographs", name));
        assertTrue(e.getMessage().contains(said), e.getMessage());
    }

    @Test
    public void anUnknownFolderIsTold() {
        Folders.NoSuchFile e = expectThrows(Folders.NoSuchFile.class, () -> files.file("papers", "a.pdf"));
        assertTrue(e.getMessage().contains("there is no folder “papers”"), e.getMessage());
    }

    @Test
    public void whatIsThereIsNeverOverwrittenAndTheSameIsNotKeptTwice() throws Exception {
        assertEquals(files.file("photographs", "a.pdf").bytes(), "a".getBytes());
        assertEquals(files.keep("photographs", "a.pdf", text("a")), new Folders.Kept("a.pdf", false));
        assertEquals(files.keep("photographs", "a.pdf", text("other")), new Folders.Kept("a-2.pdf", true));
        assertEquals(files.keep("photographs", "a.pdf", text("other")), new Folders.Kept("a-2.pdf", false));
        assertEquals(files.keep("photographs", "../../a/b", text("x")), new Folders.Kept("_.._a_b", true));
        assertEquals(Files.readString(folder.resolve("a.pdf")), "a");
        files.remove("photographs", "a-2.pdf");
        files.remove("photographs", "../private.txt");
        assertTrue(Files.exists(folder.resolveSibling("private.txt")));
        List<String> names = new ArrayList<>();
        for (Path file : FolderFiles.list(folder)) {
            names.add(file.getFileName().toString());
        }
        assertEquals(names, List.of("_.._a_b", "a.pdf", "b.png", "link.txt"));
    }

    @Test
    public void manyRecordsAtOnceKeepEachItsOwn() throws Exception {
        ExecutorService threads = Executors.newFixedThreadPool(8);
        try {
            List<Callable<String>> work = new ArrayList<>();
            for (int i = 0; i < 60; i++) {
                String content = "label " + i;
                work.add(() ->
                        files.keep("photographs", "label.svg", text(content)).name());
            }
            TreeSet<String> names = new TreeSet<>();
            for (Future<String> done : threads.invokeAll(work)) {
                names.add(done.get());
            }
            assertEquals(names.size(), 60);
            TreeSet<String> contents = new TreeSet<>();
            for (String name : names) {
                contents.add(Files.readString(folder.resolve(name)));
            }
            assertEquals(contents.size(), 60);
        } finally {
            threads.shutdown();
        }
    }

    @Test
    public void aFolderIsReadFileByFile() throws Exception {
        List<Node> records = new ArrayList<>();
        try (FolderSource source = new FolderSource(folder)) {
            for (RecordSource.Item item = source.next(); item != null; item = source.next()) {
                records.add(item.node());
            }
        }
        assertEquals(records.stream().map(r -> r.textOf("name")).toList(), List.of("a.pdf", "b.png", "link.txt"));
        assertEquals(records.get(0).textOf("type"), "application/pdf");
        assertEquals(records.get(1).textOf("bytes"), "2");
        assertTrue(records.get(0).textOf("written").matches("2\\d{3}-\\d\\d-\\d\\dT\\d\\d:\\d\\d:\\d\\dZ"));
    }
}
