package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNotNull;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

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
import wirekettle.core.flow.compile.PreparedFlow;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.simulate.Simulator;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.Envelopes;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.Reach;
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
        Stage.Call call = new Stage.Call(
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
        return new FlowFile(
                1,
                "Track",
                List.of(
                        new Stage.Read("read", "transports", "transport", "$transport/ref"),
                        call,
                        new Stage.Write("write", "events", "replace", null, "", layout, columns)));
    }

    private static Delivery delivery(String effect, int atOnce, int retries, Delivery.Condition... conditions) {
        return new Delivery(effect, atOnce, retries, 1, null, null, "failures", null, null, null, List.of(conditions));
    }

    private static class Kept implements Ledger, RecordSink {
        final List<LedgerLine> lines = new ArrayList<>();
        final List<String> rows = new ArrayList<>();
        long claimed;
        boolean finished;
        boolean left;

        @Override
        public void claim(long ordinal) {
            claimed = ordinal;
        }

        @Override
        public void append(List<LedgerLine> batch, long offset, long ahead) {
            lines.addAll(batch);
            claimed = Math.max(claimed, ahead);
        }

        @Override
        public void write(long ordinal, List<String[]> some) {
            some.forEach(row -> rows.add(String.join("|", row)));
        }

        @Override
        public Map<Long, String> flush() {
            return Map.of();
        }

        @Override
        public long offset() {
            return rows.size();
        }

        @Override
        public void finish() {
            finished = true;
        }

        @Override
        public void leave() {
            left = true;
        }

        @Override
        public void close() {}
    }

    private static RecordSource source(int records) {
        AtomicInteger next = new AtomicInteger();
        return new RecordSource() {
            @Override
            public Item next() {
                int n = next.incrementAndGet();
                return n > records ? null : new Item(World.record("record", "ref", "VD-" + n), null);
            }

            @Override
            public long size() {
                return records;
            }

            @Override
            public String name() {
                return "transports.csv";
            }

            @Override
            public void close() {}
        };
    }

    private FlowRun run(FlowFile file, Transport transport, int records, Kept kept) {
        PreparedFlow flow = PreparedFlow.of(file, Map.of("Vanline Desk", vanline), null, new Expressions());
        assertEquals(flow.problems(), List.of());
        Caller caller = Caller.of(
                transport,
                Reach.plain("http://vanline.invalid"),
                flow.contract(),
                flow.offered(),
                Transport.Limits.DEFAULT);
        RecordWork work =
                new RecordWork(flow, caller, Reach.plain("http://vanline.invalid"), "1", "transports.csv", CLOCK);
        return new FlowRun(flow, work, source(records), Outputs.of("write", kept), kept, 0);
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
        Kept kept = new Kept();
        Transport transport = request -> {
            Thread.onSpinWait();
            if (Math.random() < 0.3) {
                Thread.yield();
            }
            return answering(ref -> "ok " + ref).send(request);
        };
        FlowRun.Counts counts = run(flow(delivery("reads", 16, 0), COLUMNS), transport, 2_000, kept)
                .run();
        assertEquals(counts, new FlowRun.Counts(2_000, 2_000, 0, 0, 2_000, 2_000));
        for (int i = 0; i < 2_000; i++) {
            assertEquals(kept.rows.get(i), "VD-" + (i + 1) + "|ok VD-" + (i + 1) + "|2026-11-23T09:14:02Z|" + (i + 1));
            assertEquals(kept.lines.get(i).ordinal(), i + 1);
        }
        assertTrue(kept.claimed >= 2_000 && kept.finished);
    }

    @Test
    public void aFailedRecordNeverStopsTheOthersAndNamesConditionAndCause() throws Exception {
        Kept kept = new Kept();
        Delivery delivery =
                delivery("reads", 4, 0, new Delivery.Condition("c1", "$reply/status = 'lost'", "transport lost"));
        Transport transport = answering(ref -> ref.endsWith("7") ? "lost" : "fine");
        FlowRun.Counts counts =
                run(flow(delivery, COLUMNS), transport, 100, kept).run();
        assertEquals(counts.written(), 90);
        assertEquals(counts.rejected(), 10);
        LedgerLine seventh = kept.lines.get(6);
        assertEquals(seventh.failureClass(), FailureClass.CONDITION);
        assertEquals(seventh.cause(), "transport lost");
        assertEquals(seventh.blame(), "c1");
        assertEquals(seventh.key(), "VD-7");
        assertEquals(seventh.input().textOf("ref"), "VD-7");
        assertNotNull(seventh.exchange());
        assertNull(kept.lines.get(50).exchange());
        assertNotNull(kept.lines.get(0).exchange(), "the first ten are kept");
    }

    @DataProvider
    public Object[][] retries() {
        CallFailure refused =
                new CallFailure(FailureClass.CONNECTION, "no connection", "nothing there", false, false, null);
        CallFailure silent = new CallFailure(FailureClass.TIMEOUT, "no answer in time", "silent", true, false, null);
        CallFailure busy = new CallFailure(FailureClass.HTTP_STATUS, "HTTP 503", "busy", true, true, null);
        return new Object[][] {
            {"changes", refused, 3, Outcome.REJECTED}, {"changes", silent, 1, Outcome.IN_DOUBT},
            {"reads", silent, 3, Outcome.REJECTED}, {"reads", refused, 3, Outcome.REJECTED},
            {"changes", busy, 1, Outcome.REJECTED},
        };
    }

    @Test(dataProvider = "retries")
    public void whatChangesDataIsNeverBlindlySentAgain(String effect, CallFailure failure, int tries, Outcome outcome)
            throws Exception {
        Kept kept = new Kept();
        AtomicInteger sent = new AtomicInteger();
        Transport transport = request -> {
            sent.incrementAndGet();
            throw failure;
        };
        run(flow(delivery(effect, 1, 2), COLUMNS), transport, 1, kept).run();
        assertEquals(sent.get(), tries);
        assertEquals(kept.lines.get(0).outcome(), outcome);
        assertEquals(kept.lines.get(0).attempts().size(), tries);
        assertEquals(kept.lines.get(0).cause(), failure.causeLabel());
    }

    @DataProvider
    public Object[][] statuses() {
        String fault = Envelopes.fault(SoapVersion.SOAP_11, false, "the desk is closed", null);
        return new Object[][] {
            {502, "<html><h1>Bad Gateway</h1></html>", Outcome.IN_DOUBT},
            {504, "", Outcome.IN_DOUBT},
            {500, "broke down", Outcome.IN_DOUBT},
            {408, "", Outcome.IN_DOUBT},
            {502, fault, Outcome.REJECTED},
            {500, fault, Outcome.REJECTED},
            {404, "", Outcome.REJECTED},
        };
    }

    @Test(dataProvider = "statuses")
    public void aStatusThatLeavesOpenWhatBecameOfAChangeIsInDoubt(int status, String body, Outcome outcome)
            throws Exception {
        Kept kept = new Kept();
        AtomicInteger sent = new AtomicInteger();
        Transport transport = request -> {
            sent.incrementAndGet();
            return new Transport.Answer(status, Map.of(), body.getBytes(StandardCharsets.UTF_8), 1);
        };
        run(flow(delivery("changes", 1, 2), COLUMNS), transport, 1, kept).run();
        assertEquals(kept.lines.get(0).outcome(), outcome);
        assertEquals(sent.get(), 1, "what changes data is not sent again");
    }

    @Test
    public void aRetryThatSucceedsIsWritten() throws Exception {
        Kept kept = new Kept();
        AtomicInteger tries = new AtomicInteger();
        Transport transport = request -> {
            if (tries.incrementAndGet() == 1) {
                throw new CallFailure(FailureClass.TIMEOUT, "t", "t", true, false, null);
            }
            return answering(ref -> "fine").send(request);
        };
        assertEquals(
                run(flow(delivery("reads", 1, 2), COLUMNS), transport, 1, kept)
                        .run()
                        .written(),
                1);
        assertEquals(kept.lines.get(0).attempts().size(), 2);
    }

    @DataProvider
    public Object[][] cancels() {
        return new Object[][] {{false}, {true}};
    }

    @Test(timeOut = 30_000, dataProvider = "cancels")
    public void cancelKeepsWhatIsDoneSendsNothingNewAndLeavesTheEarlierFileUnlessTold(boolean takeResults)
            throws Exception {
        Kept kept = new Kept();
        AtomicInteger sent = new AtomicInteger();
        FlowRun[] run = new FlowRun[1];
        Transport transport = request -> {
            if (sent.incrementAndGet() == 50) {
                run[0].cancel(takeResults);
            }
            return answering(ref -> "fine").send(request);
        };
        run[0] = run(flow(delivery("reads", 2, 0), COLUMNS), transport, 1_000_000, kept);
        FlowRun.Counts counts = run[0].run();
        assertEquals(counts.written(), sent.get());
        assertEquals(kept.lines.size(), sent.get());
        assertTrue(sent.get() < 60, "sent " + sent.get());
        assertEquals(kept.finished, takeResults);
        assertEquals(kept.left, !takeResults);
    }

    @Test
    public void anUnexpectedReplyIsKeptWithANoteAndRejectedOnlyWhenStrict() throws Exception {
        Transport odd = request -> {
            String body = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>"
                    + "<TrackTransportResponse xmlns='urn:halewick:vanline:2'><status>ok</status><colour>red</colour>"
                    + "</TrackTransportResponse></s:Body></s:Envelope>";
            return new Transport.Answer(200, Map.of(), body.getBytes(StandardCharsets.UTF_8), 1);
        };
        Kept lenient = new Kept();
        assertEquals(
                run(flow(delivery("reads", 1, 0), COLUMNS), odd, 1, lenient)
                        .run()
                        .written(),
                1);
        assertEquals(lenient.lines.get(0).note(), "colour is not in the contract");
        Kept strict = new Kept();
        Delivery delivery = new Delivery("reads", 1, 0, 1, null, true, "all", null, null, null, null);
        run(flow(delivery, COLUMNS), odd, 1, strict).run();
        assertEquals(strict.lines.get(0).failureClass(), FailureClass.REPLY);
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
        Kept kept = new Kept();
        run(flow(delivery("changes", 1, 2), COLUMNS), faulting, 1, kept).run();
        LedgerLine line = kept.lines.get(0);
        assertEquals(line.failureClass(), FailureClass.FAULT);
        assertEquals(line.cause(), "UnknownTransport");
        assertEquals(line.message(), "Client: unknown (reference “VD-9”)");
        assertEquals(line.note(), "x is not in the contract");
        assertEquals(line.attempts().size(), 1, "a fault is an answer: not tried again");
    }

    @Test
    public void theSimulatorAnswersWithValidExamplesWithoutAnyRule() throws Exception {
        Simulator simulator = new Simulator(vanline, List.of(), null);
        Transport transport = request -> {
            Simulator.Answer answer = simulator.answer(request.body());
            return new Transport.Answer(answer.status(), Map.of(), answer.body(), 1);
        };
        Kept kept = new Kept();
        assertEquals(
                run(flow(delivery("reads", 4, 0), COLUMNS), transport, 20, kept)
                        .run()
                        .written(),
                20);
        assertEquals(simulator.received(), 20);
        assertEquals(simulator.invalidRequests(), List.of());
        assertNull(kept.lines.get(3).note());
    }

    @Test
    public void aSinkThatRefusesARowRejectsThatRecord() throws Exception {
        Kept kept = new Kept() {
            @Override
            public Map<Long, String> flush() {
                return Map.of(3L, "the database says: no");
            }
        };
        FlowRun.Counts counts = run(flow(delivery("reads", 1, 0), COLUMNS), answering(ref -> "fine"), 5, kept)
                .run();
        assertEquals(counts.written(), 4);
        assertEquals(kept.lines.get(2).failureClass(), FailureClass.WRITE);
        assertEquals(kept.lines.get(2).stage(), "write");
    }

    @Test
    public void aSourceThatBreaksEndsTheRunWithWhatIsDone() {
        Kept kept = new Kept();
        PreparedFlow flow = PreparedFlow.of(
                flow(delivery("reads", 2, 0), COLUMNS), Map.of("Vanline Desk", vanline), null, new Expressions());
        Caller caller = Caller.of(
                answering(ref -> "fine"),
                Reach.plain("http://vanline.invalid"),
                flow.contract(),
                flow.offered(),
                Transport.Limits.DEFAULT);
        RecordSource breaking = new RecordSource() {
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
        FlowRun run = new FlowRun(
                flow,
                new RecordWork(flow, caller, Reach.plain(""), "1", "x", CLOCK),
                breaking,
                Outputs.of("write", kept),
                kept,
                0);
        IOException e = org.testng.Assert.expectThrows(IOException.class, run::run);
        assertEquals(e.getMessage(), "the file ended in the middle of a row");
        assertEquals(kept.lines.size(), 10);
        assertEquals(kept.lines.get(3).cause(), "unusable row");
    }
}
