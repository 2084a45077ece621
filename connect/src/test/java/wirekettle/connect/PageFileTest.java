package wirekettle.connect;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;

import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.List;
import org.testng.annotations.Test;
import wirekettle.core.flow.run.PagedSource.Page;
import wirekettle.core.flow.run.PagedSource.Standing;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/** Pages kept in a file, found again by a run that goes on. */
public class PageFileTest {
    private static Page page(int count, String token, boolean over, String... loans) {
        List<Node> rows = java.util.Arrays.stream(loans)
                .map(no -> Node.build(Name.of("loan")).add("no", no).done())
                .toList();
        return new Page(rows, new Standing(count, loans.length, token, over));
    }

    private static String shown(Page page) {
        return page == null
                ? null
                : page.rows().stream().map(row -> row.textOf("no")).toList() + " " + page.after();
    }

    @Test
    public void pagesAreFoundAgainInTheirOrder() throws Exception {
        Path file = Files.createTempDirectory("pages").resolve("run").resolve("1-rows");
        Page first = page(1, "t2", false, "Öderstad", "b");
        Page second = page(2, null, true);
        try (PageFile pages = PageFile.open(file, "2026-11-28")) {
            assertNull(pages.next());
            pages.keep(first);
            pages.keep(second);
        }
        try (PageFile pages = PageFile.open(file, "later")) {
            assertEquals(pages.watermark(), "2026-11-28", "the one the run began with");
            assertEquals(shown(pages.next()), shown(first));
            assertEquals(shown(pages.next()), shown(second));
            assertNull(pages.next());
        }
    }

    @Test
    public void aPageTornByACrashIsAskedForAgain() throws Exception {
        Path file = Files.createTempDirectory("pages").resolve("1-rows");
        Page first = page(1, "t2", false, "a");
        Page other = page(2, null, true, "c", "d");
        try (PageFile pages = PageFile.open(file, null)) {
            assertNull(pages.watermark());
            assertNull(pages.next());
            pages.keep(first);
            pages.keep(page(2, null, true, "b"));
        }
        byte[] whole = Files.readAllBytes(file);
        Files.write(file, java.util.Arrays.copyOf(whole, whole.length - 5), StandardOpenOption.TRUNCATE_EXISTING);
        try (PageFile pages = PageFile.open(file, null)) {
            assertEquals(shown(pages.next()), shown(first));
            assertNull(pages.next());
            pages.keep(other);
        }
        try (PageFile pages = PageFile.open(file, null)) {
            pages.next();
            assertEquals(shown(pages.next()), shown(other));
            assertNull(pages.next());
        }
    }
}
