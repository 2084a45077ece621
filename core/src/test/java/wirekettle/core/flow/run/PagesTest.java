package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.function.IntFunction;
import org.testng.annotations.Test;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.Paging;
import wirekettle.core.flow.file.Paging.By;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.Transport;
import wirekettle.core.value.Node;

/** Calls that ask for page after page, and operations that give the records of a flow. */
public class PagesTest extends OutlineFixture {
    private static Paging by(By by, String rows, String next, Integer size, String until, Integer most) {
        return new Paging(by, rows, next, null, size, until, most);
    }

    private static Paging tokens() {
        return by(By.TOKEN, "$c/list/loan", "$c/next", null, null, null);
    }

    /** A service with so many rows, so many on a page; the request says where the page begins. */
    private void pages(int rows, int size, IntFunction<String> next) {
        service = request -> {
            int from = Integer.parseInt(reference(request).replaceAll("\\D", ""));
            StringBuilder list = new StringBuilder();
            for (int i = from; i < Math.min(rows, from + size); i++) {
                list.append("<loan><no>").append(i).append("</no></loan>");
            }
            String events = list.toString().replace("loan>", "event>");
            return reply("<list>" + list + "</list>" + events + "<next>" + next.apply(from + size) + "</next>");
        };
    }

    private static Transport.Answer reply(String content) {
        String body = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>"
                + "<TrackTransportResponse xmlns='urn:halewick:vanline:2'>" + content
                + "</TrackTransportResponse></s:Body></s:Envelope>";
        return new Transport.Answer(200, Map.of(), body.getBytes(StandardCharsets.UTF_8), 1);
    }

    private void tokensOf(int rows, int size) {
        pages(rows, size, next -> next < rows ? "t" + next : "");
    }

    private static CallStage paged(String asking, Paging paging) {
        return reads("c", asking).paged(paging);
    }

    private static final String BY_TOKEN = "if ($page/token) then $page/token else '0'";

    @Test
    public void theRowsOfAllPagesComeTogether() throws Exception {
        tokensOf(7, 3);
        Ran ran = run(
                file(paged(BY_TOKEN, tokens()), write("out", "string-join($c/list/loan/no, ' ')", "count($c/list)")),
                "a");
        assertEquals(ran.rows.get("out"), List.of("0 1 2 3 4 5 6|1"));
        assertEquals(sent, List.of("0", "t3", "t6"));
        assertEquals(
                ran.line(1).passages().stream().map(p -> p.effect().number()).toList(), List.of(1, 2, 3));
    }

    @Test
    public void pagesByOffsetEndWithAPageThatIsNotFull() throws Exception {
        pages(7, 3, next -> "");
        Ran ran = run(
                file(
                        paged("string($page/offset)", by(By.OFFSET, "$c/list/loan", null, 3, null, null)),
                        write("out", "count($c/list/loan)")),
                "a");
        assertEquals(ran.rows.get("out"), List.of("7"));
        assertEquals(sent, List.of("0", "3", "6"));
    }

    @Test
    public void pagesByNumberEndWithAnEmptyPageOrWhereTheFlowSaysSo() throws Exception {
        pages(40, 10, next -> "");
        String number = "string(10 * ($page/number - 1))";
        Ran all = run(
                file(
                        paged(number, by(By.NUMBER, "$c/list/loan", null, null, null, null)),
                        write("out", "count($c/list/loan)")),
                "a");
        assertEquals(all.rows.get("out"), List.of("40"));
        assertEquals(sent.size(), 5);
        Ran two = run(
                file(
                        paged(number, by(By.NUMBER, "$c/list/loan", null, null, "$page/number >= 2", null)),
                        write("out", "count($c/list/loan)")),
                "a");
        assertEquals(two.rows.get("out"), List.of("20"));
    }

    @Test
    public void aTokenThatComesBackFailsTheCall() throws Exception {
        pages(100, 3, next -> "t3");
        Ran ran = run(file(paged(BY_TOKEN, tokens())), "a");
        assertEquals(ran.line(1).failure().cause(), "a page token came back");
        assertEquals(sent.size(), 2);
    }

    @Test
    public void morePagesThanAllowedFailTheCall() throws Exception {
        tokensOf(100, 3);
        Ran ran = run(file(paged(BY_TOKEN, by(By.TOKEN, "$c/list/loan", "$c/next", null, null, 4))), "a");
        assertEquals(
                ran.line(1).failure().message(), "there are more than 4 pages: allow more of them, or ask for less");
        assertEquals(sent.size(), 4);
    }

    /** A page that fails is asked for again, those before it are not. */
    @Test
    public void aTryAgainGoesOnWithThePageThatFailed() throws Exception {
        tokensOf(7, 3);
        Transport sound = service;
        service = request -> sent.stream().filter("t3"::equals).count() == 1
                        && reference(request).equals("t3")
                ? fault("Busy")
                : sound.send(request);
        Lane again = Lane.of(Lane.Rule.again("r", List.of(FailureClass.FAULT), 2, 0));
        Ran ran = run(file(paged(BY_TOKEN, tokens()).failing(again), write("out", "count($c/list/loan)")), "a");
        assertEquals(ran.rows.get("out"), List.of("7"));
        assertEquals(sent, List.of("0", "t3", "t3", "t6"));
    }

    @Test
    public void whatCannotBeAskedPageByPageIsAProblem() {
        List<String> said =
                compiled(file(changes("c", "1").paged(by(null, "$x/loan", null, 0, null, null)))).problems().stream()
                        .map(FlowProblem::message)
                        .toList();
        assertEquals(
                said,
                List.of(
                        "only an operation that reads can be asked page after page",
                        "pages: say what tells that there is another one",
                        "pages: their number and size are at least 1",
                        "pages: say which element of the reply repeats, as $c/list/loan"));
        assertTrue(compiled(file(paged("1", by(By.TOKEN, "$c/loan", null, null, null, null)))).problems().stream()
                .anyMatch(p -> p.message().equals("pages: say where in the reply the token of the next page is")));
    }

    private static FlowFile reading(CallStage call, String watermark, Stage... stages) {
        ReadStage read = new ReadStage("read", null, "loan", "$loan/no")
                .from(new ReadStage.FromOperation(call, "$c/event", watermark, "0"));
        List<Stage> all = new ArrayList<>(List.of(read));
        all.addAll(List.of(stages));
        return FlowFile.of("Reading an operation", all.toArray(Stage[]::new));
    }

    /** Pages kept in memory, as a run that goes on finds them. */
    private static final class KeptPages implements PagedSource.Kept {
        private final List<PagedSource.Page> pages = new ArrayList<>();
        private int at;

        @Override
        public PagedSource.Page next() {
            return at < pages.size() ? pages.get(at++) : null;
        }

        @Override
        public void keep(PagedSource.Page page) {
            pages.add(page);
            at = pages.size();
        }

        @Override
        public void close() {
            at = 0;
        }
    }

    private static final class Marked extends Ran {
        private final List<String> marks = new ArrayList<>();

        @Override
        public synchronized void keep(Batch batch) throws IOException {
            super.keep(batch);
            if (batch.watermark() != null) {
                marks.add(batch.watermark());
            }
        }
    }

    private Marked read(FlowFile file, PagedSource source, FlowRun.Extent how) throws IOException {
        CompiledFlow flow = sound(file);
        Marked ran = new Marked();
        ran.prepared(flow, doors(flow), source, Past.NONE, how).go();
        return ran;
    }

    @Test
    public void anOperationGivesTheRecordsOfAFlow() throws Exception {
        tokensOf(7, 3);
        FlowFile file = reading(paged(BY_TOKEN, tokens()), "$loan/no", write("out", "$loan/no", "$run/source"));
        Marked ran = read(file, new PagedSource("TrackTransport", new KeptPages(), null), FlowRun.Extent.ALL);
        assertEquals(ran.rows.get("out").size(), 7);
        assertEquals(ran.rows.get("out").get(6), "6|TrackTransport");
        assertEquals(ran.line(3).key(), "2");
        assertEquals(ran.marks.get(ran.marks.size() - 1), "6");
    }

    @Test
    public void oneCallMayGiveAllRecordsAndTheNextRunGoesOnFromTheWatermark() throws Exception {
        pages(100, 4, next -> "");
        FlowFile file = reading(reads("c", "string($watermark)"), "$loan/no + 1", write("out", "$loan/no"));
        Marked first = read(file, new PagedSource("TrackTransport", new KeptPages(), null), FlowRun.Extent.ALL);
        assertEquals(first.rows.get("out"), List.of("0", "1", "2", "3"));
        String mark = first.marks.get(first.marks.size() - 1);
        assertEquals(mark, "4");
        Marked second = read(file, new PagedSource("TrackTransport", new KeptPages(), mark), FlowRun.Extent.ALL);
        assertEquals(second.rows.get("out"), List.of("4", "5", "6", "7"));
    }

    /** What was read and has no end is read again by the next run. */
    @Test
    public void theWatermarkMovesOnlyPastRecordsWithAnEnd() throws Exception {
        tokensOf(9, 3);
        FlowFile file = reading(paged(BY_TOKEN, tokens()), "$loan/no", write("out", "$loan/no"));
        Marked ran = read(file, new PagedSource("TrackTransport", new KeptPages(), null), FlowRun.Extent.only(2));
        assertEquals(ran.marks.get(ran.marks.size() - 1), "1");
    }

    @Test
    public void recordsOutOfOrderMoveTheWatermarkAtTheEnd() {
        Watermark mark = new Watermark(sound(reading(reads("c", "'0'"), "$loan/no", write("out", "$loan/no")))
                .source());
        mark.reads(1, loan("20"), false);
        mark.reads(2, loan("9"), false);
        mark.reads(3, loan("100"), false);
        assertEquals(mark.ended(List.of()), null);
        assertEquals(mark.over(false), null, "records that were not read may be behind it");
        assertEquals(mark.over(true), "100", "numbers are compared as numbers");
    }

    private static Node loan(String no) {
        return Node.build(wirekettle.core.value.Name.of("loan")).add("no", no).done();
    }

    /** A run that goes on takes the pages that came, and asks for what is behind them. */
    @Test
    public void aRunThatGoesOnAsksOnlyForThePagesBehind() throws Exception {
        tokensOf(9, 3);
        FlowFile file = reading(paged(BY_TOKEN, tokens()), null, write("out", "$loan/no"));
        KeptPages kept = new KeptPages();
        Transport sound = service;
        service = request -> {
            if (reference(request).equals("t6")) {
                throw new CallFailure(FailureClass.CONNECTION, "no connection", "refused", false, false, null);
            }
            return sound.send(request);
        };
        IOException why = expectThrows(
                IOException.class, () -> read(file, new PagedSource("TrackTransport", kept, null), FlowRun.Extent.ALL));
        assertEquals(why.getMessage(), "the records cannot be read: refused");
        kept.close();
        sent.clear();
        service = sound;
        Marked on = read(file, new PagedSource("TrackTransport", kept, null), FlowRun.Extent.ALL);
        assertEquals(on.rows.get("out").size(), 9);
        assertEquals(sent, List.of("t6"));
    }

    @Test
    public void whatCannotGiveRecordsIsAProblem() {
        ReadStage none = new ReadStage("read", null, "loan", (String) null)
                .from(new ReadStage.FromOperation(null, null, null, null));
        assertTrue(said(none).contains("no operation gives the records: pick one"));
        ReadStage changing = none.from(new ReadStage.FromOperation(changes("c", "1"), "$c/event", null, null));
        assertTrue(said(changing).contains("records come from an operation that reads: mark it so, without an undo"));
        ReadStage rowless = none.from(new ReadStage.FromOperation(reads("c", "1"), "", null, null));
        assertTrue(said(rowless).contains("say which element of the reply is a record, as $c/list/loan"));
        ReadStage unknown = none.from(new ReadStage.FromOperation(reads("c", "1"), "$c/nothing", null, null));
        assertTrue(said(unknown).contains("the reply has no $c/nothing: pick the element that is a record"));
        ReadStage nameless = new ReadStage("read", null, null, (String) null)
                .from(new ReadStage.FromOperation(reads("c", "1"), "$c/event", "$loan/no", null));
        assertTrue(said(nameless).contains("what it makes has no name: give it one"));
    }

    private List<String> said(ReadStage read) {
        return compiled(FlowFile.of("f", read, write("out", "'x'"))).problems().stream()
                .map(FlowProblem::message)
                .toList();
    }
}
