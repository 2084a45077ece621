package wirekettle.server.datasets;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNotEquals;
import static org.testng.Assert.assertSame;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Set;
import org.testng.annotations.AfterMethod;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.flow.file.DatasetSpec;
import wirekettle.core.flow.file.DatasetSpec.Kind;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.flow.run.RecordSink;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.value.Column;
import wirekettle.core.value.Content;
import wirekettle.core.value.DocumentForm;
import wirekettle.core.value.Node;
import wirekettle.core.value.ScalarType;
import wirekettle.server.Database;
import wirekettle.server.web.Json;
import wirekettle.server.web.Problem;

/** Datasets in a real database and real files. */
public class DatasetStoreTest {
    private static final List<Column> COLUMNS = List.of(new Column("no", "no", ScalarType.STRING, null, false));

    private Database database;
    private DatasetStore store;

    @BeforeMethod
    public void open() throws Exception {
        database = Database.open();
        store = Datasets.over(database, Files.createTempDirectory("datasets"));
    }

    @AfterMethod(alwaysRun = true)
    public void close() throws Exception {
        database.close();
    }

    private static DatasetSpec spec(String name, Kind kind, String file) {
        return new DatasetSpec(name, kind, file, null, null, null, null, null);
    }

    private long add(DatasetSpec spec) {
        return store.mapper.add(spec.name(), Json.write(spec), "ada");
    }

    private DatasetMapper.Row csv(String name, String content) throws IOException {
        return Datasets.csv(store, name, content);
    }

    @Test
    public void aFileIsKnownByLookingAtAllOfIt() throws Exception {
        DatasetMapper.Row row = csv("loans", "loan_no;weight\nL-1;1,5\nL-2;2,25\nL-3\n");
        assertEquals(row.rows(), (Long) 3L);
        assertEquals(row.findingCount(), (Long) 1L);
        DatasetSpec known = DatasetStore.spec(row);
        assertEquals(known.csv().delimiter(), ";");
        assertEquals(known.layout().columns().get(1).type(), ScalarType.DECIMAL);
    }

    @Test
    public void aFileWithoutRecordsIsAFinding() throws Exception {
        DatasetMapper.Row row = csv("loans", "loan_no;weight\n");
        assertEquals(row.rows(), (Long) 0L);
        assertTrue(row.findings().contains("the file has no records"), row.findings());
    }

    @Test
    public void samplesStayInMemoryUntilTheDatasetIsLookedAtAgain() throws Exception {
        DatasetMapper.Row row = csv("loans", "loan_no\nL-1\nL-2\n");
        List<Node> first = store.samples(row);
        assertEquals(first.get(1).textOf("loan_no"), "L-2");
        assertSame(store.samples(row).get(0), first.get(0));
        Files.writeString(store.file(DatasetStore.spec(row)), "loan_no\nL-7\nL-8\n");
        DatasetMapper.Row again = store.look(row.id(), DatasetStore.spec(row));
        assertEquals(store.samples(again).get(0).textOf("loan_no"), "L-7");
    }

    @Test
    public void aThousandRecordsAreSamplesOfALongFile() throws Exception {
        StringBuilder text = new StringBuilder("loan_no\n");
        for (int i = 1; i <= 1_500; i++) {
            text.append("L-").append(i).append('\n');
        }
        DatasetMapper.Row row = csv("loans", text.toString());
        assertEquals(row.rows(), (Long) 1_500L);
        assertEquals(store.samples(row).size(), 1_000);
        try (RecordSource source = store.openForRun(row)) {
            int read = 0;
            while (source.next() != null) {
                read++;
            }
            assertEquals(read, 1_500);
        }
    }

    @DataProvider
    public Object[][] names() {
        return new Object[][] {
            {"loans 2024", "loans_2024"},
            {"Öffnung/Schließung", "Öffnung_Schließung"},
            {"../../etc/passwd", "______etc_passwd"},
            {"x".repeat(200), "x".repeat(60)},
        };
    }

    @Test(dataProvider = "names")
    public void aFileHasAReadableNameAndLeavesItsFolderNever(String name, String start) {
        assertEquals(DatasetStore.fileName(name, 7, ".csv"), start + "-7.csv");
        assertNotEquals(DatasetStore.fileName(name, 7, ".csv"), DatasetStore.fileName(name, 8, ".csv"));
    }

    @Test
    public void datasetsThatShareAFileGetOneEach() throws Exception {
        DatasetSpec first = spec("loans 2024", Kind.CSV, "loans_2024.csv");
        DatasetSpec second = spec("loans_2024", Kind.CSV, "Loans_2024.csv");
        DatasetSpec third = spec("papers", Kind.FOLDER, "papers");
        DatasetSpec fourth = spec("papers!", Kind.FOLDER, "papers");
        add(first);
        add(second);
        add(third);
        add(fourth);
        Files.writeString(store.data().resolve("datasets/Loans_2024.csv"), "no\n1\n");
        Files.createDirectories(store.file(third));
        Files.writeString(store.file(third).resolve("a.pdf"), "paper");
        store.apart(null);
        DatasetSpec moved = DatasetStore.spec(store.named("loans_2024"));
        assertTrue(moved.file().matches("loans_2024-\\d+\\.csv"), moved.file());
        assertEquals(Files.readString(store.file(moved)), "no\n1\n");
        assertEquals(DatasetStore.spec(store.named("loans 2024")).file(), "loans_2024.csv");
        Path copied = store.file(DatasetStore.spec(store.named("papers!"))).resolve("a.pdf");
        assertEquals(Files.readString(copied), "paper");
        store.apart(null);
        assertEquals(DatasetStore.spec(store.named("loans_2024")).file(), moved.file());
    }

    @Test
    public void rowsGoToAFileWhenTheRunEndsAndNotBefore() throws Exception {
        DatasetMapper.Row row = csv("out", "no\nbefore\n");
        Path file = store.file(DatasetStore.spec(row));
        Path staged = store.data().resolve("runs/1.csv");
        WriteStage write = new WriteStage("w", "out", WriteStage.Mode.REPLACE, null, "", COLUMNS, List.of());
        try (RecordSink sink = store.sink(write, staged, "run 1 w", 0, store.transaction(), null)) {
            sink.write(1, List.<String[]>of(new String[] {"after"}));
            sink.flush();
            assertEquals(Files.readString(file), "no\nbefore\n");
            sink.finish();
        }
        assertEquals(Files.readString(file).strip().lines().toList(), List.of("no", "after"));
    }

    @DataProvider
    public Object[][] unwritable() {
        return new Object[][] {
            {Kind.JSON, null, "takes documents in JSON"},
            {Kind.FOLDER, null, "is a folder"},
            {Kind.QUERY, null, "is a query"},
            {Kind.TABLE, DocumentForm.XML, "takes rows"},
            {Kind.TABLE, null, "No database connection"},
        };
    }

    @Test(dataProvider = "unwritable")
    public void aTargetThatCannotBeWrittenSaysWhy(Kind kind, DocumentForm form, String why) {
        add(spec("out", kind, "out"));
        WriteStage write = new WriteStage("w", "out", null, null, "", COLUMNS, List.of(), form, List.of(), null, null);
        Problem problem = expectThrows(
                Problem.class,
                () -> store.sink(write, store.data().resolve("staged"), "run 1 w", 0, store.transaction(), null));
        assertTrue(problem.getMessage().contains(why), problem.getMessage());
    }

    @Test
    public void whatCannotBeReadSaysWhatToDo() throws Exception {
        long never = add(spec("never given", Kind.CSV, "never.csv"));
        Problem none = expectThrows(Problem.class, () -> store.openForRun(store.mapper.byId(never)));
        assertTrue(none.getMessage().contains("has no file yet"), none.getMessage());
        Problem missing = expectThrows(Problem.class, () -> store.named("no such"));
        assertTrue(missing.getMessage().contains("add it or pick another"), missing.getMessage());
        long papers = add(spec("papers", Kind.JSON, "papers.json"));
        expectThrows(Problem.class, () -> store.openForRun(store.mapper.byId(papers)));
    }

    @Test
    public void filesOfAFolderAreNamedByItsDatasetAlone() throws Exception {
        DatasetSpec folder = spec("papers", Kind.FOLDER, "papers-1");
        long id = add(folder);
        Files.createDirectories(store.file(folder));
        Files.writeString(store.file(folder).resolve("a.pdf"), "paper");
        Files.writeString(store.data().resolve("datasets/outside.txt"), "outside");
        csv("loans", "no\n1\n");
        DatasetFolders folders = Datasets.folders(store);
        assertEquals(folders.among(Set.of("papers", "loans", "no such")), Set.of("papers"));
        assertEquals(folders.file("papers", "a.pdf").length(), 5L);
        for (String outside : List.of("../outside.txt", "no such.pdf", "", ".")) {
            expectThrows(Folders.NoSuchFile.class, () -> folders.file("papers", outside));
        }
        expectThrows(Folders.NoSuchFile.class, () -> folders.file("loans", "loans.csv"));
        folders.keep("papers", "b.pdf", Content.of("more".getBytes(java.nio.charset.StandardCharsets.UTF_8)));
        assertEquals(store.look(id, folder).rows(), (Long) 2L);
        folders.remove("papers", "b.pdf");
        assertEquals(store.look(id, folder).rows(), (Long) 1L);
        store.mapper.remove(id);
        folders.forget();
        expectThrows(Folders.NoSuchFile.class, () -> folders.file("papers", "a.pdf"));
    }
}
