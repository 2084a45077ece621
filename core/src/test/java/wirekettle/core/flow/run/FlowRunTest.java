package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNotNull;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.Function;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.expression.Expressions;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.Surroundings;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.simulate.Simulator;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.Envelopes;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.Transport;
import wirekettle.core.value.Column;
import wirekettle.core.value.Node;
import wirekettle.core.value.ScalarType;

/** The engine against services that answer, fault, stay silent and break. */
public class FlowRunTest {
    private static final String V = "{urn:halewick:vanline:2}";
    private static final Clock CLOCK = Clock.fixed(Instant.parse("2026-11-23T09:14:02Z"), ZoneOffset.UTC);
    private final Contract vanline = World.vanline();

    private static FlowFile flow(Delivery delivery, List<Fill> columns) {
        CallStage call = new CallStage(
                "call",
                "Vanline Desk",
                null,
                null,
                "TrackTransport",
                "Vanline Desk",
                "reply",
                List.of(Fill.wire("q1", "/" + V + "TrackTransport/" + V + "reference", "$transport/ref")),
                delivery);
        List<Column> layout = columns.stream()
                .map(f -> new Column(f.target(), f.target(), ScalarType.STRING, null, false))
                .toList();
        return FlowFile.of(
                "Track",
                new ReadStage("read", "transports", "transport", "$transport/ref"),
                call,
                new WriteStage("write", "events", WriteStage.Mode.REPLACE, null, "", layout, columns));
    }

    private static Delivery reading(int atOnce, Delivery.Condition... conditions) {
        return Delivery.of(Delivery.Effect.READS, atOnce, conditions);
    }

    private static Delivery changing(int atOnce) {
        return Delivery.of(Delivery.Effect.CHANGES, atOnce);
    }

    private static List<Node> records(int count) {
        List<Node> records = new ArrayList<>();
        for (int n = 1; n <= count; n++) {
            records.add(World.record("record", "ref", "VD-" + n));
        }
        return records;
    }

    private CompiledFlow compiled(FlowFile file) {
        CompiledFlow flow =
                CompiledFlow.of(file, Surroundings.of(Map.of("Vanline Desk", vanline), null, new Expressions()));
        assertEquals(flow.problems(), List.of());
        return flow;
    }

    private Doors doors(Transport transport) {
        EndpointReach reach = EndpointReach.plain("http://vanline.invalid");
        CompiledCall call =
                compiled(flow(reading(1), COLUMNS)).all(CompiledCall.class).get(0);
        Caller caller = Caller.of(transport, reach, vanline, call.offered(), Transport.Limits.DEFAULT);
        return Doors.of(caller, reach, CLOCK);
    }

    private Ran prepared(FlowFile file, Transport transport, int records) {
        return new Ran()
                .prepared(
                        compiled(file), doors(transport), Ran.source(records(records)), Past.NONE, FlowRun.Extent.ALL);
    }

    private Ran run(FlowFile file, Transport transport, int records) throws Exception {
        return prepared(file, transport, records).go();
    }

    private static final List<Fill> COLUMNS = List.of(
            Fill.wire("w1", "ref", "$transport/ref"), Fill.wire("w2", "status", "$reply/status"),
            Fill.wire("w3", "started", "$run/started"), Fill.wire("w4", "n", "$run/record"));

    private static Transport answering(Function<String, String> status) {
        return request -> {
            String ref =
                    new String(request.body(), StandardCharsets.UTF_8).replaceAll("(?s).*reference>(VD-\\d+)<.*", "$1");
            String body = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>"
                    + "<TrackTransportResponse xmlns='urn:halewick:vanline:2'><reference>" + ref
                    + "</reference><status>"
                    + status.apply(ref) + "</status></TrackTransportResponse></s:Body></s:Envelope>";
            return new Transport.Answer(200, Map.of(), body.getBytes(StandardCharsets.UTF_8), 1);
        };
    }

    @Test
    public void outputKeepsTheInputsOrderThoughAnswersComeInAnyOrder() throws Exception {
        Transport transport = request -> {
            Thread.onSpinWait();
            if (Math.random() < 0.3) {
                Thread.yield();
            }
            return answering(ref -> "ok " + ref).send(request);
        };
        Ran ran = run(flow(reading(16), COLUMNS), transport, 2_000);
        assertEquals(ran.ended, FlowRun.Ended.DONE);
        assertEquals(ran.totals.of(End.DONE), 2_000);
        assertEquals(ran.totals.read(), 2_000);
        assertEquals(ran.totals.calls(), 2_000);
        assertEquals(ran.totals.stages().get("call"), new Totals.OfStage(2_000, 0, 2_000));
        for (int i = 0; i < 2_000; i++) {
            String ref = "VD-" + (i + 1);
            assertEquals(ran.rows.get("write").get(i), ref + "|ok " + ref + "|2026-11-23T09:14:02Z|" + (i + 1));
            assertEquals(ran.lines.get(i).ordinal(), i + 1);
        }
        assertTrue(ran.finished);
        assertEquals(ran.claims, List.of(), "reading claims nothing");
    }

    @Test
    public void aFailedRecordNeverStopsTheOthersAndNamesConditionAndCause() throws Exception {
        Delivery delivery = reading(4, new Delivery.Condition("c1", "$reply/status = 'lost'", "transport lost"));
        Ran ran = run(flow(delivery, COLUMNS), answering(ref -> ref.endsWith("7") ? "lost" : "fine"), 100);
        assertEquals(ran.totals.of(End.DONE), 90);
        assertEquals(ran.totals.of(End.REJECTED), 10);
        LedgerLine seventh = ran.line(7);
        assertEquals(seventh.failure().failureClass(), FailureClass.CONDITION);
        assertEquals(seventh.failure().cause(), "transport lost");
        assertEquals(seventh.failure().blame(), "c1");
        assertEquals(seventh.key(), "VD-7");
        assertEquals(seventh.input().textOf("ref"), "VD-7");
        assertNotNull(seventh.passages().get(0).exchange());
        assertNull(ran.line(51).passages().get(0).exchange());
        assertNotNull(ran.line(1).passages().get(0).exchange(), "the first ten are kept");
    }

    private static FlowFile again(FlowFile file) {
        Lane lane = Lane.of(Lane.Rule.again("again", List.of(), 2, 1));
        return file.with(((CallStage) file.stages().get(1)).failing(lane));
    }

    @DataProvider
    public Object[][] retries() {
        CallFailure refused =
                new CallFailure(FailureClass.CONNECTION, "no connection", "nothing there", false, false, null);
        CallFailure silent = new CallFailure(FailureClass.TIMEOUT, "no answer in time", "silent", true, false, null);
        CallFailure busy = new CallFailure(FailureClass.HTTP_STATUS, "HTTP 503", "busy", true, false, null);
        return new Object[][] {
            {changing(1), refused, 3, End.REJECTED}, {changing(1), silent, 1, End.IN_DOUBT},
            {reading(1), silent, 3, End.REJECTED}, {reading(1), refused, 3, End.REJECTED},
            {changing(1), busy, 1, End.IN_DOUBT},
        };
    }

    @Test(dataProvider = "retries")
    public void whatChangesDataIsNeverBlindlySentAgain(Delivery delivery, CallFailure failure, int tries, End end)
            throws Exception {
        AtomicInteger sent = new AtomicInteger();
        Transport transport = request -> {
            sent.incrementAndGet();
            throw failure;
        };
        Ran ran = run(again(flow(delivery, COLUMNS)), transport, 1);
        assertEquals(sent.get(), tries);
        assertEquals(ran.line(1).end(), end);
        assertEquals(ran.line(1).passages().size(), 1);
        assertEquals(ran.line(1).passages().get(0).attempts().size(), tries);
        assertEquals(ran.line(1).failure().cause(), failure.causeLabel());
    }

    @DataProvider
    public Object[][] statuses() {
        String fault = Envelopes.fault(SoapVersion.SOAP_11, false, "the desk is closed", null);
        return new Object[][] {
            {502, "<html><h1>Bad Gateway</h1></html>", End.IN_DOUBT, 1, Passage.Outcome.IN_DOUBT},
            {504, "", End.IN_DOUBT, 1, Passage.Outcome.IN_DOUBT},
            {503, "", End.IN_DOUBT, 1, Passage.Outcome.IN_DOUBT},
            {500, "broke down", End.IN_DOUBT, 1, Passage.Outcome.IN_DOUBT},
            {408, "", End.IN_DOUBT, 1, Passage.Outcome.IN_DOUBT},
            {502, fault, End.REJECTED, 3, Passage.Outcome.NOT_DONE},
            {500, fault, End.REJECTED, 3, Passage.Outcome.NOT_DONE},
            {404, "", End.REJECTED, 3, Passage.Outcome.NOT_DONE},
            {200, "<nothing", End.REJECTED, 1, Passage.Outcome.DONE},
        };
    }

    @Test(dataProvider = "statuses")
    public void whatBecameOfAChangeDecidesWhetherItMayBeTriedAgain(
            int status, String body, End end, int tries, Passage.Outcome outcome) throws Exception {
        AtomicInteger sent = new AtomicInteger();
        Transport transport = request -> {
            sent.incrementAndGet();
            return new Transport.Answer(status, Map.of(), body.getBytes(StandardCharsets.UTF_8), 1);
        };
        Ran ran = run(again(flow(changing(1), COLUMNS)), transport, 1);
        assertEquals(ran.line(1).end(), end);
        assertEquals(sent.get(), tries);
        assertEquals(ran.line(1).passages().get(0).outcome(), outcome);
    }

    @Test
    public void aChangeIsClaimedBeforeItLeavesAndItsAnswerIsKnownAfterwards() throws Exception {
        List<String> order = java.util.Collections.synchronizedList(new ArrayList<>());
        Ran ran = new Ran() {
            @Override
            public synchronized void keep(Batch batch) throws IOException {
                batch.claims().forEach(claim -> order.add("claim " + claim.ordinal()));
                batch.passages().forEach(known -> order.add("known " + known.ordinal()));
                batch.ends().forEach(line -> order.add("end " + line.ordinal()));
                super.keep(batch);
            }
        };
        Transport transport = request -> {
            String ref = new String(request.body(), StandardCharsets.UTF_8).replaceAll("(?s).*VD-(\\d+)<.*", "$1");
            order.add("sent " + ref);
            return answering(r -> "fine").send(request);
        };
        ran.prepared(
                        compiled(flow(changing(8), COLUMNS)),
                        doors(transport),
                        Ran.source(records(200)),
                        Past.NONE,
                        FlowRun.Extent.ALL)
                .go();
        for (int n = 1; n <= 200; n++) {
            int claimed = order.indexOf("claim " + n);
            int sent = order.indexOf("sent " + n);
            int known = order.indexOf("known " + n);
            int ended = order.indexOf("end " + n);
            assertTrue(claimed >= 0 && claimed < sent && sent < known && known < ended, "record " + n);
        }
        assertTrue(ran.known.get(0).reply().contains("fine"), "a resume needs the reply");
    }

    /** Notes when rows become durable and lines are kept; a disk that is full after so many rows. */
    private static final class Watched extends Ran {
        private final List<String> order = new ArrayList<>();
        private final int space;

        Watched(int space) {
            this.space = space;
        }

        @Override
        void flushing(String stage) throws IOException {
            int written = rows.get(stage).size();
            if (written > space) {
                throw new IOException("no space left on the device");
            }
            synchronized (this) {
                order.add("durable " + written);
            }
        }

        @Override
        public synchronized void keep(Batch batch) throws IOException {
            batch.ends().forEach(line -> order.add("end " + line.ordinal()));
            super.keep(batch);
        }

        /** Fails when a line was kept before the row it counts was durable. */
        void rowsCameFirst() {
            int durable = 0;
            for (String each : order) {
                int number = Integer.parseInt(each.replaceAll("\\D", ""));
                if (each.startsWith("durable")) {
                    durable = number;
                } else {
                    assertTrue(number <= durable, each + " with " + durable + " rows durable");
                }
            }
        }
    }

    @Test
    public void rowsAreDurableBeforeTheLinesThatCountThem() throws Exception {
        Watched ran = new Watched(Integer.MAX_VALUE);
        ran.prepared(
                        compiled(flow(reading(8), COLUMNS)),
                        doors(answering(r -> "fine")),
                        Ran.source(records(1_200)),
                        Past.NONE,
                        FlowRun.Extent.ALL)
                .go();
        assertEquals(ran.lines.size(), 1_200);
        ran.rowsCameFirst();
    }

    @Test
    public void aFullDiskEndsTheRunWithoutALineForARowThatIsNotThere() {
        Watched ran = new Watched(700);
        ran.prepared(
                compiled(flow(reading(8), COLUMNS)),
                doors(answering(r -> "fine")),
                Ran.source(records(2_000)),
                Past.NONE,
                FlowRun.Extent.ALL);
        IOException e = expectThrows(IOException.class, ran::go);
        assertTrue(e.getMessage().contains("no space left"), e.getMessage());
        ran.rowsCameFirst();
        assertTrue(ran.lines.size() <= 700, ran.lines.size() + " lines");
        assertTrue(ran.left && !ran.finished, "half a file does not take the target's place");
    }

    @Test
    public void aRetryThatSucceedsIsDone() throws Exception {
        AtomicInteger tries = new AtomicInteger();
        Transport transport = request -> {
            if (tries.incrementAndGet() == 1) {
                throw new CallFailure(FailureClass.TIMEOUT, "t", "t", true, false, null);
            }
            return answering(ref -> "fine").send(request);
        };
        Ran ran = run(again(flow(reading(1), COLUMNS)), transport, 1);
        assertEquals(ran.line(1).end(), End.DONE);
        assertEquals(ran.line(1).passages().get(0).attempts().size(), 2);
    }

    @DataProvider
    public Object[][] cancels() {
        return new Object[][] {{false}, {true}};
    }

    @Test(timeOut = 30_000, dataProvider = "cancels")
    public void cancelKeepsWhatIsDoneSendsNothingNewAndLeavesTheEarlierFileUnlessTold(boolean takeResults)
            throws Exception {
        AtomicInteger sent = new AtomicInteger();
        Ran[] ran = new Ran[1];
        Transport transport = request -> {
            if (sent.incrementAndGet() == 50) {
                ran[0].run.cancel(takeResults);
            }
            return answering(ref -> "fine").send(request);
        };
        ran[0] = prepared(flow(reading(2), COLUMNS), transport, 100_000);
        ran[0].go();
        assertEquals(ran[0].ended, FlowRun.Ended.CANCELLED);
        assertEquals(ran[0].totals.of(End.DONE), sent.get());
        assertEquals(ran[0].lines.size(), sent.get());
        assertTrue(sent.get() < 60, "sent " + sent.get());
        assertEquals(ran[0].finished, takeResults);
        assertEquals(ran[0].left, !takeResults);
    }

    @Test
    public void anUnexpectedReplyIsKeptWithANoteAndRejectedOnlyWhenStrict() throws Exception {
        Transport odd = request -> {
            String body = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>"
                    + "<TrackTransportResponse xmlns='urn:halewick:vanline:2'><status>ok</status><colour>red</colour>"
                    + "</TrackTransportResponse></s:Body></s:Envelope>";
            return new Transport.Answer(200, Map.of(), body.getBytes(StandardCharsets.UTF_8), 1);
        };
        Ran lenient = run(flow(reading(1), COLUMNS), odd, 1);
        assertEquals(lenient.line(1).end(), End.DONE);
        assertEquals(lenient.line(1).note(), "colour is not in the contract");
        Delivery delivery =
                new Delivery(Delivery.Effect.READS, 1, true, Delivery.Keep.ALL, null, null, null, null, null);
        Ran strict = run(flow(delivery, COLUMNS), odd, 1);
        assertEquals(strict.line(1).failure().failureClass(), FailureClass.REPLY);
    }

    @Test
    public void aDeclaredFaultIsReadByItsSchema() throws Exception {
        Transport faulting = request -> {
            String detail =
                    "<UnknownTransport xmlns='urn:halewick:vanline:2'><reference>VD-9</reference><x/></UnknownTransport>";
            String body = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body><s:Fault>"
                    + "<faultcode>s:Client</faultcode><faultstring>unknown</faultstring><detail>" + detail
                    + "</detail></s:Fault></s:Body></s:Envelope>";
            return new Transport.Answer(500, Map.of(), body.getBytes(StandardCharsets.UTF_8), 1);
        };
        LedgerLine line = run(flow(changing(1), COLUMNS), faulting, 1).line(1);
        assertEquals(line.failure().failureClass(), FailureClass.FAULT);
        assertEquals(line.failure().cause(), "UnknownTransport");
        assertEquals(line.failure().message(), "Client: unknown (reference “VD-9”)");
        assertEquals(line.note(), "x is not in the contract");
    }

    @Test
    public void theSimulatorAnswersWithValidExamplesWithoutAnyRule() throws Exception {
        Simulator simulator = new Simulator(vanline, List.of(), null);
        Transport transport = request -> {
            Simulator.Answer answer = simulator.answer(request.body());
            return new Transport.Answer(answer.status(), Map.of(), answer.body(), 1);
        };
        Ran ran = run(flow(reading(4), COLUMNS), transport, 20);
        assertEquals(ran.totals.of(End.DONE), 20);
        assertEquals(simulator.received(), 20);
        assertEquals(simulator.invalidRequests(), List.of());
        assertNull(ran.line(4).note());
    }

    @Test
    public void aTargetThatRefusesARowRejectsThatRecord() throws Exception {
        Ran ran = new Ran()
                .refusing("write", "VD-3", "the database says: no")
                .prepared(
                        compiled(flow(reading(1), COLUMNS)),
                        doors(answering(ref -> "fine")),
                        Ran.source(records(5)),
                        Past.NONE,
                        FlowRun.Extent.ALL)
                .go();
        assertEquals(ran.totals.of(End.DONE), 4);
        assertEquals(ran.line(3).failure().failureClass(), FailureClass.WRITE);
        assertEquals(ran.line(3).stage(), "write");
    }

    private static RecordSource breaking() {
        return new RecordSource() {
            private int n;

            @Override
            public Item next() throws IOException {
                if (++n > 10) {
                    throw new IOException("the file ended in the middle of a row");
                }
                Node record = World.record("record", "ref", "VD-" + n);
                return new Item(record, n == 4 ? "line 5 has 9 fields, the layout has 4" : null);
            }

            @Override
            public long size() {
                return -1;
            }

            @Override
            public String name() {
                return "x";
            }

            @Override
            public void close() {}
        };
    }

    @Test
    public void aSourceThatBreaksEndsTheRunWithWhatIsDone() {
        Ran ran = new Ran()
                .prepared(
                        compiled(flow(reading(2), COLUMNS)),
                        doors(answering(ref -> "fine")),
                        breaking(),
                        Past.NONE,
                        FlowRun.Extent.ALL);
        IOException e = org.testng.Assert.expectThrows(IOException.class, ran::go);
        assertEquals(e.getMessage(), "the file ended in the middle of a row");
        assertEquals(ran.lines.size(), 10);
        assertEquals(ran.line(4).failure().cause(), "unusable row");
        assertEquals(ran.line(4).failure().message(), "line 5 has 9 fields, the layout has 4");
        assertTrue(ran.left, "half a file takes no place");
    }
}
