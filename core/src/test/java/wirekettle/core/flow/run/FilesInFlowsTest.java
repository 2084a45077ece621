package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNotNull;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.ConcurrentSkipListMap;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.expression.Expressions;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.compile.Surroundings;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.request.MessageCheck;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.MessageText;
import wirekettle.core.soap.Transport;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.soap.attachments.Multipart;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.soap.attachments.Xop;
import wirekettle.core.value.Column;
import wirekettle.core.value.Content;
import wirekettle.core.value.Node;
import wirekettle.core.value.ScalarType;

/** Files sent with requests and kept of replies: beside the envelope or within it, and everything that can be wrong. */
public class FilesInFlowsTest {
    private static final String V = "{urn:halewick:vanline:2}";
    private static final byte[] PHOTOGRAPH = new byte[50_000];
    private static final byte[] LABEL = new byte[30_000];

    static {
        new Random(1).nextBytes(PHOTOGRAPH);
        new Random(2).nextBytes(LABEL);
    }

    private final Contract vanline = World.vanline();
    private Memory folders;
    private byte[] sent;
    private String sentType;
    private int calls;

    /** Folders in memory. */
    private static final class Memory implements Folders {
        // records side by side write to it
        private final Map<String, byte[]> files = new ConcurrentSkipListMap<>();

        @Override
        public Content file(String folder, String name) throws NoSuchFile {
            byte[] bytes = files.get(folder + "/" + name);
            if (bytes == null) {
                throw new NoSuchFile("is no file of the folder “" + folder + "”");
            }
            return Content.of(bytes);
        }

        @Override
        public Kept keep(String folder, String name, Content content) {
            String possible = Folders.possible(name);
            return new Kept(possible, files.put(folder + "/" + possible, content.bytes()) == null);
        }

        @Override
        public void remove(String folder, String name) {
            files.remove(folder + "/" + name);
        }
    }

    @BeforeMethod
    public void photographs() {
        sent = null;
        calls = 0;
        folders = new Memory();
        folders.files.put("photographs/HC-1.png", PHOTOGRAPH);
    }

    private static Fill ask(String id, String field, String expression) {
        return Fill.expression(id, "/" + V + "LabelCrate/" + V + field, expression);
    }

    private static Fill photograph() {
        return Fill.wire("q3", "/" + V + "LabelCrate/" + V + "photograph", "$photo/name")
                .with(new Fill.InFolder("photographs", null));
    }

    private static FlowFile file(Fill photograph, Fill... columns) {
        return file(Delivery.Effect.READS, null, photograph, columns);
    }

    private static FlowFile file(Delivery.Effect effect, Integer memorySeconds, Fill photograph, Fill... columns) {
        CallStage call = new CallStage(
                "call",
                "Vanline Desk",
                null,
                null,
                "LabelCrate",
                "Vanline Desk",
                "reply",
                List.of(ask("q1", "reference", "'VD-1'"), ask("q2", "crateNumber", "'HC-1'"), photograph),
                new Delivery(effect, 1, null, Delivery.Keep.ALL, null, null, null, null, memorySeconds));
        List<Column> layout = Arrays.stream(columns)
                .map(f -> new Column(
                        f.target(),
                        f.target(),
                        ScalarType.STRING,
                        null,
                        f.target().equals("needed")))
                .toList();
        ReadStage read = new ReadStage("read", "photographs", "photo", null);
        return FlowFile.of(
                "Label",
                read,
                call,
                new WriteStage("write", "labels", WriteStage.Mode.REPLACE, null, null, layout, List.of(columns)));
    }

    private CompiledFlow prepared(FlowFile file) {
        return CompiledFlow.of(
                file,
                new Surroundings(
                        Map.of("Vanline Desk", vanline),
                        null,
                        Map.of(),
                        MappingContext.of(new Expressions()).with(Set.of("photographs", "labels"))));
    }

    /** Answers with a label beside the envelope, or within it. */
    private Transport.Answer answer(boolean beside) {
        String inside = beside
                ? "<xop:Include xmlns:xop='" + Xop.NAMESPACE + "' href='cid:label@x'/>"
                : Base64.getEncoder().encodeToString(LABEL);
        byte[] envelope = ("<e:Envelope xmlns:e='http://schemas.xmlsoap.org/soap/envelope/'><e:Body><LabelCrateResponse"
                        + " xmlns='urn:halewick:vanline:2'><crateNumber>HC/1</crateNumber><photographBytes>7"
                        + "</photographBytes><label>" + inside + "</label></LabelCrateResponse></e:Body></e:Envelope>")
                .getBytes(StandardCharsets.UTF_8);
        if (!beside) {
            return new Transport.Answer(200, Map.of("content-type", "text/xml"), envelope, 1);
        }
        Multipart.Written written = Multipart.write(
                List.of(
                        new Part("root@x", "application/xop+xml", envelope),
                        new Part("label@x", "image/svg+xml", LABEL)),
                "");
        return new Transport.Answer(
                200,
                Map.of("content-type", written.contentType()),
                written.content().bytes(),
                1);
    }

    private Ran run(CompiledFlow flow, String name, boolean mtom) throws Exception {
        return Ran.of(flow, doors(flow, mtom), List.of(record(name)));
    }

    private static Node record(String name) {
        return Node.build(wirekettle.core.value.Name.of("record"))
                .add("name", name)
                .done();
    }

    private Doors doors(CompiledFlow flow, boolean mtom) {
        EndpointSettings settings = new EndpointSettings(null, null, null, null, null, null, null, null, false, mtom);
        EndpointReach plain = EndpointReach.plain("http://vanline.invalid");
        EndpointReach reach =
                new EndpointReach(plain.address(), settings, plain.secrets(), plain.masking(), plain.clock(), folders);
        Transport transport = request -> {
            calls++;
            sent = request.body();
            sentType = request.headers().get("Content-Type");
            return answer(mtom);
        };
        CompiledCall call = flow.all(CompiledCall.class).get(0);
        Caller caller = Caller.of(transport, reach, call.contract(), call.offered(), Transport.Limits.DEFAULT);
        return Doors.of(caller, reach, Clock.systemUTC());
    }

    private static Fill label(String name) {
        return Fill.wire("w1", "label", "$reply/label").with(new Fill.InFolder("labels", name));
    }

    @DataProvider
    public Object[][] ways() {
        return new Object[][] {{true}, {false}};
    }

    @Test(dataProvider = "ways")
    public void aFileIsSentAndTheContentThatComesBackIsKept(boolean mtom) throws Exception {
        CompiledFlow flow = prepared(file(photograph(), label("concat($reply/crateNumber, '.svg')")));
        assertEquals(flow.problems(), List.of());
        Ran done = run(flow, "HC-1.png", mtom);
        assertEquals(done.line(1).end(), End.DONE);
        assertEquals(done.rows.get("write").get(0), "HC_1.svg");
        assertEquals(folders.files.get("labels/HC_1.svg"), LABEL);
        if (mtom) {
            List<Part> parts = Multipart.read(sentType, sent);
            assertEquals(parts.size(), 2);
            assertEquals(parts.get(1).type(), "image/png");
            assertEquals(parts.get(1).bytes(), PHOTOGRAPH);
            assertTrue(sent.length < PHOTOGRAPH.length + 2_000, "nothing is sent as base64");
        } else {
            String text = new String(sent, StandardCharsets.UTF_8);
            assertTrue(text.contains(">" + Base64.getEncoder().encodeToString(PHOTOGRAPH) + "<"));
        }
        // what is kept says which file it was, not what was in it
        String kept = new String(done.line(1).passages().get(0).exchange().request(), StandardCharsets.UTF_8);
        String mark = "<?file-content folder=\"photographs\" name=\"HC-1.png\" bytes=\"50000\"?>";
        assertTrue(kept.contains(mark), kept);
        assertTrue(MessageText.tidy(done.line(1).passages().get(0).exchange().request())
                .contains(mark));
        assertEquals(
                new MessageCheck(vanline.check(), SoapVersion.SOAP_11)
                        .problems(done.line(1).passages().get(0).exchange().request()),
                List.of());
    }

    /** The reply of a change that was done is taken from the ledger, with the attachment that came beside it. */
    @Test
    public void aRunThatGoesOnHasTheAttachmentOfWhatWasDone() throws Exception {
        CompiledFlow flow = prepared(file(Delivery.Effect.CHANGES, null, photograph(), label(null)));
        Ran whole = run(flow, "HC-1.png", true);
        assertEquals(whole.line(1).end(), End.DONE);
        Ran killed = new Ran();
        killed.claims.addAll(whole.claims);
        killed.known.addAll(whole.known);
        killed.totals = Totals.NONE.reading(1);
        folders.files.remove("labels/9-1-label.svg");
        Ran resumed = new Ran()
                .prepared(
                        flow,
                        doors(flow, true),
                        Ran.source(List.of(record("HC-1.png"))),
                        killed.past(),
                        FlowRun.Extent.ALL)
                .go();
        assertEquals(calls, 1);
        assertEquals(resumed.rows.get("write"), List.of("9-1-label.svg"));
        assertEquals(folders.files.get("labels/9-1-label.svg"), LABEL);
    }

    @Test
    public void aReplyFromMemoryHasItsAttachment() throws Exception {
        CompiledFlow flow = prepared(file(Delivery.Effect.READS, 0, photograph(), label(null)));
        Ran ran = Ran.of(flow, doors(flow, true), List.of(record("HC-1.png"), record("HC-1.png")));
        assertEquals(ran.totals.of(End.DONE), 2);
        assertEquals(calls, 1);
        assertEquals(folders.files.get("labels/9-1-label.svg"), LABEL);
        assertEquals(folders.files.get("labels/9-2-label.svg"), LABEL);
    }

    @Test
    public void aFileWithoutANameIsCalledByRunRecordColumnAndType() throws Exception {
        Ran done = run(prepared(file(photograph(), label(null))), "HC-1.png", true);
        assertEquals(done.rows.get("write").get(0), "9-1-label.svg");
    }

    @Test
    public void whatAColumnDoesNotKeepIsItsBase64() throws Exception {
        Ran done = run(
                prepared(file(photograph(), label(null), Fill.wire("w2", "text", "$reply/label"))), "HC-1.png", true);
        assertEquals(
                done.rows.get("write").get(0).split("\\|")[1],
                Base64.getEncoder().encodeToString(LABEL));
    }

    @DataProvider
    public Object[][] missing() {
        return new Object[][] {{"HC-2.png"}, {"../photographs/HC-1.png"}, {"HC-1.PNG"}};
    }

    @Test(dataProvider = "missing")
    public void aFileThatIsNotThereRejectsTheRecordAndNothingIsSent(String name) throws Exception {
        Ran done = run(prepared(file(photograph(), label(null))), name, true);
        assertEquals(done.line(1).end(), End.REJECTED);
        assertEquals(done.line(1).failure().failureClass(), FailureClass.MAPPING);
        assertTrue(
                done.line(1).failure().message().contains("is no file of the folder “photographs”"),
                done.line(1).failure().message());
        assertTrue(
                done.line(1).failure().message().contains(name),
                done.line(1).failure().message());
        assertEquals(done.line(1).failure().blame(), "q3");
        assertNull(sent);
    }

    @Test
    public void aRecordThatIsRejectedLeavesNoFile() throws Exception {
        Ran done = run(
                prepared(file(photograph(), label(null), Fill.wire("w2", "needed", "$reply/nowhere"))),
                "HC-1.png",
                true);
        assertEquals(done.line(1).end(), End.REJECTED);
        assertEquals(folders.files.keySet(), Set.of("photographs/HC-1.png"));
    }

    @Test
    public void contentThatIsNoneRejectsWithTheValue() throws Exception {
        Fill number = Fill.wire("w1", "label", "$reply/crateNumber").with(new Fill.InFolder("labels", null));
        // HC/1 is base64 as it happens; a text with a blank and a dash is not
        Ran fine = run(prepared(file(photograph(), number)), "HC-1.png", true);
        assertEquals(fine.line(1).end(), End.DONE);
        Fill words = Fill.expression("w1", "label", "'no - base64'").with(new Fill.InFolder("labels", null));
        Ran done = run(prepared(file(photograph(), words)), "HC-1.png", true);
        assertTrue(
                done.line(1).failure().message().contains("is no base64"),
                done.line(1).failure().message());
    }

    @DataProvider
    public Object[][] designs() {
        Fill reference = Fill.wire("q3", "/" + V + "LabelCrate/" + V + "reference", "$photo/name");
        return new Object[][] {
            {photograph().with(new Fill.InFolder("papers", null)), "the folder “papers” is not there"},
            {photograph().with(new Fill.InFolder(null, null)), "names no folder"},
            {reference.with(new Fill.InFolder("photographs", null)), "is no element of base64Binary"},
        };
    }

    @Test(dataProvider = "designs")
    public void whatCannotWorkIsToldBeforeAnyRecord(Fill fill, String said) {
        List<FlowProblem> problems = prepared(file(fill, label(null))).problems();
        assertTrue(problems.stream().anyMatch(p -> p.message().contains(said)), problems.toString());
    }

    @Test
    public void aFolderForLookingWritesNothing() throws Exception {
        Folders looking = folders.forLooking();
        assertEquals(looking.keep("labels", "a:b", Content.of(LABEL)).name(), "a_b");
        assertEquals(folders.files.size(), 1);
        assertNotNull(looking.file("photographs", "HC-1.png"));
        assertFalse(Folders.possible("..//.x").startsWith("."));
        assertEquals(Folders.possible("x".repeat(400) + ".pdf").length(), 150);
        assertTrue(Folders.possible("x".repeat(400) + ".pdf").endsWith(".pdf"));
    }

    /** A value of a record can look like a mark: it is text and stays that. */
    @Test
    public void aValueThatLooksLikeAMarkSendsNoFile() throws Exception {
        Fill looks = Fill.wire("q3", "/" + V + "LabelCrate/" + V + "crateNumber", "$photo/name");
        List<Fill> fills = new ArrayList<>(List.of(looks));
        CallStage call = (CallStage) file(photograph(), label(null)).stages().get(1);
        call.fills().stream().filter(f -> !f.id().equals("q2")).forEach(fills::add);
        FlowFile flow = file(photograph(), label(null)).with(call.filled(fills));
        String name = "<?file-content ";
        folders.files.put("photographs/" + name, new byte[10]);
        run(prepared(flow), name, false);
        String text = new String(sent, StandardCharsets.UTF_8);
        assertTrue(text.contains("crateNumber>&lt;?file-content"), text);
        assertTrue(text.contains("photograph>AAAAAAAAAAAAAA==<"), text);
    }
}
