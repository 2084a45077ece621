package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.io.IOException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.BranchStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.LookUpStage;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.Transport;
import wirekettle.core.soap.security.Secrets;

/** What happens when a stage fails, and in what order records go. */
public class LanesTest extends OutlineFixture {
    @Test
    public void aLaneUsesAValueOrGoesOnOrRejectsAndItsRecordsAreCounted() throws Exception {
        service = request -> {
            String ref = reference(request);
            return ref.equals("lost") || ref.equals("gone") || ref.equals("odd") ? fault(ref) : answer(ref, "fine");
        };
        Fill value = Fill.constant("v", "status", "unknown");
        Lane lane = Lane.of(
                Lane.Rule.use("use", List.of(FailureClass.FAULT), columns(value), List.of(value))
                        .onlyWhen("contains($failure/message, 'lost')"),
                Lane.Rule.run("on", ANY, Lane.Then.GO_ON, write("noted", "$t/key", "$failure/class"))
                        .onlyWhen("contains($failure/message, 'gone')"),
                Lane.Rule.run("no", ANY, Lane.Then.REJECT, write("refused", "$t/key")));
        Ran ran = run(
                file(
                        write("before", "$t/n"),
                        reads("c", "$t/key").failing(lane),
                        write("out", "$t/key", "string($c/status)")),
                "a",
                "lost",
                "gone",
                "odd");
        assertEquals(ran.rows.get("out"), List.of("a|fine", "lost|unknown", "gone|"));
        assertEquals(ran.rows.get("noted"), List.of("gone|fault"));
        assertEquals(ran.rows.get("refused"), List.of("odd"));
        assertEquals(ran.rows.get("before"), List.of("1", "2", "3"), "a rejected record leaves only its lane's rows");
        assertEquals(ran.totals.of(End.DONE), 3);
        assertEquals(ran.totals.saved(), 2);
        assertEquals(ran.line(4).end(), End.REJECTED);
        addsUp(ran);
    }

    @Test
    public void aLanesOwnFailureGoesOutwardsAndNeverRound() throws Exception {
        service = request -> fault("always");
        Lane inner = Lane.of(Lane.Rule.run("r", ANY, Lane.Then.GO_ON, reads("again", "'x'")));
        Lane outer = Lane.of(Lane.Rule.run("o", ANY, Lane.Then.GO_ON, write("outside", "$failure/stage")));
        BranchStage block =
                new BranchStage("b", List.of(way("w", null, reads("c", "'c'").failing(inner))), outer);
        Ran ran = run(file(block, write("out", "$t/key")), "k");
        assertEquals(sent, List.of("c", "x"));
        assertEquals(ran.rows.get("outside"), List.of("again"));
        assertEquals(ran.rows.get("out"), List.of("k"));
    }

    @Test
    public void nothingCatchesWhatIsInDoubt() throws Exception {
        service = request -> {
            throw new CallFailure(FailureClass.TIMEOUT, "no answer in time", "silent", true, false, null);
        };
        Lane lane = Lane.of(Lane.Rule.run("r", ANY, Lane.Then.GO_ON), Lane.Rule.again("s", ANY, 3, 1));
        FlowFile file = file(changes("c", "$t/key").failing(lane), write("out", "$t/key"));
        Ran ran = run(
                new FlowFile(
                        2,
                        "Doubt",
                        file.stages(),
                        Lane.of(Lane.Rule.run("f", ANY, Lane.Then.REJECT, write("lost", "$t/key")))),
                "k");
        assertEquals(sent, List.of("k"));
        assertEquals(ran.line(1).end(), End.IN_DOUBT);
        assertEquals(ran.rows.get("out"), List.of());
        assertEquals(ran.rows.get("lost"), List.of());
    }

    @Test
    public void aLaneStopsTheRunAndWhatIsDoneIsKept() throws Exception {
        service = request -> reference(request).equals("stop") ? fault("enough") : answer(reference(request), "fine");
        Lane lane = Lane.of(Lane.Rule.run("s", ANY, Lane.Then.STOP));
        String[] keys = new String[3_000];
        Arrays.fill(keys, "k");
        keys[20] = "stop";
        Ran ran = run(file(reads("c", "$t/key").failing(lane), write("out", "$t/n")), keys);
        assertEquals(ran.ended, FlowRun.Ended.STOPPED);
        assertEquals(ran.line(21).end(), End.REJECTED);
        assertTrue(ran.lines.size() < 3_000 && ran.left, "lines " + ran.lines.size());
        addsUp(ran);
    }

    private static CallStage remembering(CallStage call) {
        return new CallStage(
                call.id(),
                call.contract(),
                null,
                null,
                call.operation(),
                call.endpoint(),
                call.as(),
                call.fills(),
                new Delivery(Delivery.Effect.READS, 8, null, null, null, null, null, null, 0));
    }

    private static LookUpStage lookUp(String id, String key) {
        return new LookUpStage(
                id, "rates", null, "name", key, id, LookUpStage.None.EMPTY, LookUpStage.Many.FIRST, null);
    }

    @Test
    public void anAttemptThatFailedIsCountedWhereMemoryAnswersTheNext() throws Exception {
        CountDownLatch failed = new CountDownLatch(1);
        CountDownLatch kept = new CountDownLatch(1);
        AtomicInteger firsts = new AtomicInteger();
        table = (stage, key) -> {
            if (key.equals("before 1") && firsts.incrementAndGet() == 2) {
                failed.countDown(); // the first record comes a second time
                await(kept);
            } else if (key.equals("before 2")) {
                await(failed);
            } else if (key.equals("after 2")) {
                kept.countDown();
            }
            return List.of();
        };
        service = request -> sent.size() == 1 ? fault("not yet") : answer(reference(request), "fine");
        BranchStage asked = new BranchStage(
                "b",
                List.of(way(
                        "w",
                        null,
                        lookUp("before", "concat('before ', $t/n)"),
                        remembering(reads("c", "'same'")),
                        lookUp("after", "concat('after ', $t/n)"))),
                Lane.of(Lane.Rule.again("again", ANY, 1, 0)));
        Ran ran = run(file(asked, write("out", "$t/key")), "a", "b");
        assertEquals(sent.size(), 2);
        assertEquals(ran.line(1).calls(), 1, "the attempt that failed");
        assertEquals(ran.line(1).end(), End.DONE);
        assertEquals(ran.line(2).calls(), 1);
        assertEquals(ran.totals.calls(), 2);
    }

    private static void await(CountDownLatch latch) {
        try {
            assertTrue(latch.await(20, TimeUnit.SECONDS), "the other record came");
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    @Test
    public void theSameRequestIsAnsweredFromMemoryByOneWhoAsks() throws Exception {
        CallStage kept = remembering(reads("c", "$t/key"));
        String[] keys = new String[400];
        for (int i = 0; i < keys.length; i++) {
            keys[i] = "k" + i % 5;
        }
        Ran ran = run(file(kept, write("out", "$t/key", "$c/reference")), keys);
        assertEquals(sent.size(), 5, sent.toString());
        assertEquals(ran.rows.get("out").size(), 400);
        assertEquals(ran.rows.get("out").get(399), "k4|k4");
        assertEquals(ran.totals.calls(), 5);
    }

    @Test
    public void recordsOfOneKeyGoOneAfterTheOtherAndAreHeldBackBehindOneThatFails() throws Exception {
        AtomicInteger going = new AtomicInteger();
        List<String> trouble = Collections.synchronizedList(new ArrayList<>());
        service = request -> {
            String ref = reference(request);
            if (ref.startsWith("a") && going.incrementAndGet() > 1) {
                trouble.add(ref + " overlaps");
            }
            Thread.yield();
            if (ref.startsWith("a")) {
                going.decrementAndGet();
            }
            return ref.equals("b-4") ? fault("no") : answer(ref, "fine");
        };
        Stage read = new ReadStage("read", "transports", "t", "$t/key", null, true);
        FlowFile file =
                FlowFile.of("Order", read, reads("c", "concat($t/key, '-', $t/n)"), write("out", "$t/key", "$t/n"));
        Ran ran = run(file, "a", "a", "", "b", "a", "b", "", "b", "c", "a");
        assertEquals(trouble, List.of());
        assertEquals(ran.line(4).end(), End.REJECTED);
        assertEquals(ran.line(6).end(), End.HELD_BACK);
        assertEquals(ran.line(8).end(), End.HELD_BACK);
        assertTrue(ran.line(8).failure().message().contains("record 4"));
        assertFalse(sent.contains("b-6"), sent.toString());
        assertEquals(ran.totals.of(End.DONE), 7);
        assertEquals(ran.totals.of(End.HELD_BACK), 2);
        addsUp(ran);
    }

    /** A fault says that nothing was done, unless the call names it as one that does not. */
    @Test
    public void aFaultLeavesDoubtOnlyWhereTheCallSaysSo() throws Exception {
        service = request -> reference(request).equals("a") ? fault("overloaded") : answer(reference(request), "fine");
        CallStage call = changes("c", "$t/key");
        Lane again = Lane.of(Lane.Rule.run("r", ANY, Lane.Then.GO_ON));
        for (String named : List.of("Client", "Server")) {
            sent.clear();
            CallStage doubting = new CallStage(
                    call.id(),
                    call.contract(),
                    null,
                    null,
                    call.operation(),
                    call.endpoint(),
                    call.as(),
                    call.fills(),
                    call.delivery().doubting(named));
            FlowFile file = file(doubting.failing(again), write("out", "$t/key"));
            assertEquals(FlowFile.parse(file.text()), file);
            Ran ran = run(file, "a", "b");
            boolean doubt = named.equals("Server");
            assertEquals(ran.line(1).end(), doubt ? End.IN_DOUBT : End.DONE, named);
            assertEquals(
                    ran.line(1).passages().get(0).outcome(),
                    doubt ? Passage.Outcome.IN_DOUBT : Passage.Outcome.NOT_DONE);
            assertEquals(ran.line(2).end(), End.DONE);
            assertEquals(sent.size(), 2);
        }
    }

    @DataProvider
    public Object[][] answersThatCountAsDown() {
        return new Object[][] {
            {new EndpointSettings.Down(List.of(500), null, null), "reads"},
            {new EndpointSettings.Down(null, List.of("Server"), null), "changes"},
            {new EndpointSettings.Down(null, null, "closed for the night"), "changes"},
        };
    }

    @Test(dataProvider = "answersThatCountAsDown")
    public void whatCountsAsDownIsWaitedForWhereNothingWasDone(EndpointSettings.Down down, String effect)
            throws Exception {
        AtomicInteger tries = new AtomicInteger();
        service = request ->
                tries.incrementAndGet() <= 2 ? fault("closed for the night") : answer(reference(request), "fine");
        CallStage call = effect.equals("reads") ? reads("c", "$t/key") : changes("c", "$t/key");
        CompiledFlow flow = sound(file(call, write("out", "$t/key")));
        Ran ran =
                Ran.of(flow, doors(flow, new EndpointGate(0, 0, true), reach(down)), records("a", "b", "c", "d", "e"));
        assertEquals(ran.totals.of(End.DONE), 5);
        assertEquals(ran.totals.calls(), 5, "what was waited for counts as no attempt");
        addsUp(ran);
    }

    /** HTTP 503 after sending leaves a change in doubt: it is not sent again, and the endpoint rests all the same. */
    @Test
    public void aChangeInDoubtIsNotRepeatedByAnEndpointThatIsDown() throws Exception {
        AtomicInteger tries = new AtomicInteger();
        service = request -> tries.incrementAndGet() == 1
                ? new Transport.Answer(503, Map.of(), new byte[0], 1)
                : answer(reference(request), "fine");
        CompiledFlow flow = sound(file(changes("c", "$t/key"), write("out", "$t/key")));
        EndpointReach reach = reach(new EndpointSettings.Down(List.of(503), null, null));
        Ran ran = Ran.of(flow, doors(flow, new EndpointGate(1, 0, true), reach), records("a", "b"));
        assertEquals(ran.totals.of(End.IN_DOUBT), 1);
        assertEquals(ran.totals.of(End.DONE), 1);
        assertEquals(sent.size(), 2);
    }

    private static EndpointReach reach(EndpointSettings.Down down) {
        EndpointSettings settings =
                new EndpointSettings(null, null, null, null, null, null, null, null, false, false, down);
        return EndpointReach.of("http://vanline.invalid", settings, Secrets.NONE, java.time.Clock.systemUTC());
    }

    @Test
    public void aServiceThatIsDownEatsNoRecords() throws Exception {
        AtomicInteger tries = new AtomicInteger();
        service = request -> {
            if (tries.incrementAndGet() <= 3) {
                throw new CallFailure(FailureClass.CONNECTION, "no connection", "refused", false, false, null);
            }
            return answer(reference(request), "fine");
        };
        CompiledFlow flow = sound(file(changes("c", "$t/key"), write("out", "$t/key")));
        EndpointGate gate = new EndpointGate(0, 0, true);
        Ran ran = Ran.of(flow, doors(flow, gate), records("a", "b", "c", "d", "e"));
        assertEquals(ran.totals.of(End.DONE), 5);
        assertEquals(ran.totals.calls(), 5, "an outage counts against no attempt");
        assertNull(gate.resting());
        addsUp(ran);
    }

    @Test
    public void whatOurOwnCodeThrowsRejectsTheRecordAndTheRunGoesOn() throws Exception {
        service = request -> {
            if (reference(request).equals("bad")) {
                throw new IllegalStateException("a defect");
            }
            return answer(reference(request), "fine");
        };
        Ran reading = run(file(reads("c", "$t/key"), write("out", "$t/key")), "a", "bad", "b");
        assertEquals(reading.line(2).failure().failureClass(), FailureClass.INTERNAL);
        assertEquals(reading.line(2).end(), End.REJECTED);
        assertEquals(reading.rows.get("out"), List.of("a", "b"));
        Ran changing = run(file(changes("c", "$t/key"), write("out", "$t/key")), "a", "bad", "b");
        assertEquals(changing.line(2).end(), End.IN_DOUBT, "it had claimed a change");
    }

    @Test
    public void aLedgerThatFailsEndsTheRunAndNothingLeavesUnclaimed() {
        CompiledFlow flow = sound(file(changes("c", "$t/key"), write("out", "$t/key")));
        String[] keys = new String[500];
        Arrays.fill(keys, "k");
        Ran ran = new Ran() {
            @Override
            public synchronized void keep(Batch batch) throws IOException {
                if (claims.size() > 40) {
                    throw new IOException("the disk is full");
                }
                super.keep(batch);
            }
        };
        ran.prepared(flow, doors(flow), Ran.source(records(keys)), Past.NONE, FlowRun.Extent.ALL);
        IOException e = expectThrows(IOException.class, ran::go);
        assertTrue(e.getMessage().contains("the disk is full"), e.getMessage());
        assertTrue(sent.size() <= ran.claims.size(), sent.size() + " sent, " + ran.claims.size() + " claimed");
        assertTrue(ran.left, "nothing takes its place");
    }

    @Test
    public void aRefusedRowGoesIntoTheLaneOfItsWriteAndLeavesNothingElsewhere() throws Exception {
        Lane without = Lane.of(Lane.Rule.run("w", ANY, Lane.Then.GO_ON, write("kept", "$t/key", "$failure/class")));
        FlowFile file = file(reads("c", "$t/key"), write("table", "$t/key").failing(without), write("out", "$t/key"));
        CompiledFlow flow = sound(file);
        Ran ran = new Ran()
                .refusing("table", "b", "no such zone")
                .prepared(flow, doors(flow), Ran.source(records("a", "b", "c")), Past.NONE, FlowRun.Extent.ALL)
                .go();
        assertEquals(ran.rows.get("table"), List.of("a", "c"));
        assertEquals(ran.rows.get("out"), List.of("a", "b", "c"));
        assertEquals(ran.rows.get("kept"), List.of("b|write"));
        assertEquals(ran.totals.of(End.DONE), 3);
        FlowFile plain = file(reads("c", "$t/key"), write("table", "$t/key"), write("out", "$t/key"));
        ran = new Ran()
                .refusing("table", "b", "no such zone")
                .prepared(sound(plain), doors(flow), Ran.source(records("a", "b", "c")), Past.NONE, FlowRun.Extent.ALL)
                .go();
        assertEquals(ran.rows.get("out"), List.of("a", "c"));
        assertEquals(ran.line(2).failure().cause(), "row refused");
    }

    @Test
    public void aRecordOneOfTwoTablesRefusesLeavesNoRowInEither() throws Exception {
        Lane told = Lane.of(Lane.Rule.run("r", ANY, Lane.Then.REJECT, write("refused", "$t/key", "$failure/message")));
        FlowFile file = file(
                reads("c", "$t/key"),
                write("one", "$t/key"),
                write("two", "$t/key").failing(told));
        Ran ran = new Ran()
                .refusing("one", "d", "one says no")
                .refusing("two", "b", "two says no")
                .prepared(
                        sound(file),
                        doors(sound(file)),
                        Ran.source(records("a", "b", "c", "d")),
                        Past.NONE,
                        FlowRun.Extent.ALL)
                .go();
        assertEquals(ran.rows.get("one"), List.of("a", "c"));
        assertEquals(ran.rows.get("two"), List.of("a", "c"));
        assertEquals(ran.rows.get("refused"), List.of("b|two says no"));
        assertEquals(ran.line(2).stage(), "two");
        assertEquals(ran.line(4).stage(), "one");
        assertEquals(ran.totals.of(End.REJECTED), 2);
    }
}
