package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.concurrent.atomic.AtomicInteger;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.expression.Expressions;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.compile.Surroundings;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.BranchStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FilterStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.LookUpStage;
import wirekettle.core.flow.file.MapStage;
import wirekettle.core.flow.file.NoteStage;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.soap.Transport;
import wirekettle.core.value.Column;
import wirekettle.core.value.Layout;
import wirekettle.core.value.Node;
import wirekettle.core.value.ScalarType;

/** Outlines of every verb and failure lane, alone and together: where each record goes and what its books say. */
public class OutlineTest {
    private static final String V = "{urn:halewick:vanline:2}";
    private static final Stage READ = new ReadStage("read", "transports", "t", "$t/key");
    private static final List<FailureClass> ANY = List.of();

    private final Contract vanline = World.vanline();
    private final List<String> sent = Collections.synchronizedList(new ArrayList<>());
    private volatile Transport service;

    @BeforeMethod
    public void aServiceThatAnswersEverything() {
        sent.clear();
        service = request -> answer(reference(request), "fine");
    }

    private static String reference(Transport.Request request) {
        return new String(request.body(), StandardCharsets.UTF_8).replaceAll("(?s).*?reference>([^<]*)<.*", "$1");
    }

    private static Transport.Answer answer(String reference, String status) {
        String body = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>"
                + "<TrackTransportResponse xmlns='urn:halewick:vanline:2'><reference>" + reference
                + "</reference><status>" + status + "</status></TrackTransportResponse></s:Body></s:Envelope>";
        return new Transport.Answer(200, Map.of(), body.getBytes(StandardCharsets.UTF_8), 1);
    }

    private static Transport.Answer fault(String reason) {
        String body = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body><s:Fault>"
                + "<faultcode>s:Server</faultcode><faultstring>" + reason + "</faultstring></s:Fault></s:Body>"
                + "</s:Envelope>";
        return new Transport.Answer(500, Map.of(), body.getBytes(StandardCharsets.UTF_8), 1);
    }

    private static CallStage call(String id, Delivery.Effect effect, String expression) {
        return new CallStage(
                id,
                "Vanline Desk",
                null,
                null,
                "TrackTransport",
                "Vanline Desk",
                id,
                List.of(Fill.expression("f" + id, "/" + V + "TrackTransport/" + V + "reference", expression)),
                Delivery.of(effect, 4));
    }

    private static CallStage reads(String id, String expression) {
        return call(id, Delivery.Effect.READS, expression);
    }

    private static CallStage changes(String id, String expression) {
        return call(id, Delivery.Effect.CHANGES, expression);
    }

    private static List<Column> columns(Fill... fills) {
        return Arrays.stream(fills)
                .map(f -> new Column(f.target(), f.target(), ScalarType.STRING, null, false))
                .toList();
    }

    private static WriteStage write(String id, String... expressions) {
        Fill[] fills = new Fill[expressions.length];
        for (int i = 0; i < fills.length; i++) {
            fills[i] = Fill.expression(id + i, "c" + i, expressions[i]);
        }
        return new WriteStage(id, id, null, null, null, columns(fills), List.of(fills));
    }

    private static BranchStage.Way way(String id, String when, Stage... stages) {
        return new BranchStage.Way(id, id, when, List.of(stages));
    }

    private static FlowFile file(Stage... stages) {
        List<Stage> all = new ArrayList<>(List.of(READ));
        all.addAll(List.of(stages));
        return FlowFile.of("Outline", all.toArray(Stage[]::new));
    }

    private CompiledFlow compiled(FlowFile file) {
        return CompiledFlow.of(file, Surroundings.of(Map.of("Vanline Desk", vanline), null, new Expressions()));
    }

    private CompiledFlow sound(FlowFile file) {
        CompiledFlow flow = compiled(file);
        assertEquals(flow.problems(), List.of());
        assertTrue(flow.runnable());
        return flow;
    }

    private Doors doors(CompiledFlow flow) {
        return doors(flow, EndpointGate.open());
    }

    private Doors doors(CompiledFlow flow, EndpointGate gate) {
        EndpointReach reach = EndpointReach.plain("http://vanline.invalid");
        Transport counted = request -> {
            sent.add(reference(request));
            return service.send(request);
        };
        Doors.Lines lines = call -> new Doors.Line(
                Caller.of(counted, reach, call.contract(), call.offered(), Transport.Limits.DEFAULT), reach, gate);
        Doors.LookUps rows = (stage, key) -> key.equals("two")
                ? List.of(World.record("row", "name", "first"), World.record("row", "name", "second"))
                : key.equals("none") ? List.of() : List.of(World.record("row", "name", "row of " + key));
        return new Doors(lines, rows, reach.folders(), Clock.systemUTC(), MemoryBudget.NONE, thrown -> {});
    }

    private Ran run(FlowFile file, String... keys) throws IOException {
        CompiledFlow flow = sound(file);
        return Ran.of(flow, doors(flow), records(keys));
    }

    private static List<Node> records(String... keys) {
        List<Node> records = new ArrayList<>();
        for (int i = 0; i < keys.length; i++) {
            records.add(World.record("record", "key", keys[i], "n", Integer.toString(i + 1)));
        }
        return records;
    }

    private static void addsUp(Ran ran) {
        assertEquals(ran.totals.read(), ran.totals.ended() + ran.totals.onTheirWay());
        assertEquals(ran.totals.ended(), ran.lines.size());
        assertEquals(
                ran.lines.stream().map(LedgerLine::ordinal).distinct().count(), ran.lines.size(), "each ends once");
    }

    @Test
    public void aFilterLeavesRecordsOutUnderItsName() throws Exception {
        Ran ran = run(
                file(
                        write("seen", "$t/n"),
                        new FilterStage("f", "heavy ones", "number($t/key) ge 3", null),
                        new NoteStage("n", "only what weighs something"),
                        write("out", "$t/key")),
                "1",
                "5",
                "2",
                "7");
        assertEquals(ran.rows.get("out"), List.of("5", "7"));
        assertEquals(ran.rows.get("seen"), List.of("1", "2", "3", "4"), "what was written before it leaves");
        assertEquals(ran.totals.of(End.LEFT_OUT), 2);
        assertEquals(ran.line(1).stage(), "f");
        assertNull(ran.line(1).failure());
        assertEquals(ran.totals.stages().get("f"), new Totals.OfStage(4, 2, 0));
        assertEquals(ran.totals.stages().get("out"), new Totals.OfStage(2, 0, 0));
        addsUp(ran);
    }

    @Test
    public void severalCallsSeeEachOthersRepliesAndTheSource() throws Exception {
        Ran ran = run(
                file(
                        reads("one", "concat('A-', $t/key)"),
                        reads("two", "concat($one/reference, '-', $t/n)"),
                        write("out", "$t/key", "$one/reference", "$two/reference")),
                "x",
                "y");
        assertEquals(ran.rows.get("out"), List.of("x|A-x|A-x-1", "y|A-y|A-y-2"));
        assertEquals(ran.line(1).passages().size(), 2);
        assertEquals(ran.totals.calls(), 4);
    }

    @Test
    public void aBranchTakesTheFirstWayThatHoldsAndWhatItsWaysMakeIsInReachBehindIt() throws Exception {
        BranchStage branch = new BranchStage(
                "b",
                List.of(
                        way("big", "$t/key = 'big'", reads("asked", "'B'"), write("bigs", "$t/n")),
                        way("small", "$t/key = 'small'", reads2("asked"), write("smalls", "$t/n")),
                        way("rest", null, write("others", "$t/n"))),
                null);
        Ran ran = run(file(branch, write("out", "$t/key", "string($asked/reference)")), "big", "small", "odd", "big");
        assertEquals(ran.rows.get("bigs"), List.of("1", "4"));
        assertEquals(ran.rows.get("smalls"), List.of("2"));
        assertEquals(ran.rows.get("others"), List.of("3"));
        assertEquals(ran.rows.get("out"), List.of("big|B", "small|S", "odd|", "big|B"));
        CompiledFlow flow = sound(file(branch, write("out", "$t/key")));
        assertTrue(flow.at("out").get("asked").mayBeEmpty(), "one way does not make it");
    }

    /** The same call under another id, made in another way. */
    private static CallStage reads2(String as) {
        CallStage call = reads("other", "'S'");
        return new CallStage(
                "other",
                call.contract(),
                null,
                null,
                call.operation(),
                call.endpoint(),
                as,
                call.fills(),
                call.delivery());
    }

    @Test
    public void aLookUpFindsARowAndSaysWhatItDoesWithNoneAndMany() throws Exception {
        LookUpStage strict = new LookUpStage("l", "rates", "zone", "$t/key", "row", null, null, null);
        Ran ran = run(file(strict, write("out", "$row/name")), "a", "none", "two", "");
        assertEquals(ran.rows.get("out"), List.of("row of a"));
        assertEquals(ran.line(2).failure().cause(), "rates has no row for it");
        assertEquals(ran.line(3).failure().cause(), "rates has several rows for it");
        assertEquals(ran.line(4).failure().cause(), "no key to look for");
        LookUpStage mild = new LookUpStage(
                "l", "rates", "zone", "$t/key", "row", LookUpStage.None.EMPTY, LookUpStage.Many.FIRST, null);
        ran = run(file(mild, write("out", "string($row/name)")), "a", "none", "two");
        assertEquals(ran.rows.get("out"), List.of("row of a", "", "first"));
    }

    @Test
    public void aMapByFillsMakesARecordThatLaterStagesReach() throws Exception {
        Fill[] fills = {Fill.expression("m1", "name", "upper-case($t/key)"), Fill.wire("m2", "n", "$t/n")};
        Ran ran = run(
                file(
                        MapStage.byFills("m", "made", columns(fills), List.of(fills)),
                        reads("c", "$made/name"),
                        write("out", "$made/n", "$c/reference")),
                "x",
                "y");
        assertEquals(ran.rows.get("out"), List.of("1|X", "2|Y"));
    }

    @Test
    public void anAnswerIsMadeAndASecondOnTheSameWayIsTold() {
        Fill fill = Fill.wire("a1", "key", "$t/key");
        AnswerStage answer = new AnswerStage("a", "201", null, columns(fill), List.of(fill), null, null, null);
        CompiledFlow flow = sound(file(answer));
        SampleWalk walk = SampleWalk.of(
                flow, doors(flow), new RunNames("1", "x"), 1, records("k").get(0));
        assertEquals(walk.answer(), new Answer(201, "json", "{\"key\":\"k\"}"));
        AnswerStage other = new AnswerStage("b", null, null, columns(fill), List.of(fill), null, null, null);
        List<FlowProblem> problems = compiled(file(answer, other)).problems();
        assertTrue(problems.toString().contains("there is an Answer before it on the same way"), problems.toString());
        BranchStage apart = new BranchStage("w", List.of(way("one", "true()", answer), way("two", null, other)), null);
        assertEquals(compiled(file(apart)).problems(), List.of());
    }

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

    @Test
    public void theSameRequestIsAnsweredFromMemoryByOneWhoAsks() throws Exception {
        CallStage call = reads("c", "$t/key");
        CallStage kept = new CallStage(
                "c",
                call.contract(),
                null,
                null,
                call.operation(),
                call.endpoint(),
                "c",
                call.fills(),
                new Delivery(Delivery.Effect.READS, 8, null, null, null, null, null, null, 0));
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
    public void aPilotGoesOnWithTheRest() throws Exception {
        CompiledFlow flow = sound(file(reads("c", "$t/key"), write("out", "$t/n")));
        List<Node> records = records("a", "b", "c", "d", "e");
        Ran pilot = new Ran()
                .prepared(flow, doors(flow), Ran.source(records), Past.NONE, new FlowRun.Extent(2, true))
                .go();
        assertEquals(pilot.ended, FlowRun.Ended.PAUSED);
        assertFalse(pilot.finished || pilot.left);
        Ran rest = new Ran()
                .prepared(flow, doors(flow), Ran.source(records), past(pilot), FlowRun.Extent.ALL)
                .go();
        assertEquals(rest.ended, FlowRun.Ended.DONE);
        assertEquals(rest.rows.get("out"), List.of("3", "4", "5"));
        assertEquals(rest.totals.of(End.DONE), 5);
        assertEquals(rest.totals.read(), 5);
    }

    /** What a ledger in memory knows when its run goes on. */
    private static Past past(Ran before) {
        Map<Long, Past.OpenRecord> open = new java.util.HashMap<>();
        before.claims.forEach(claim -> open.put(
                claim.ordinal(),
                Past.OpenRecord.claimed(
                        open.get(claim.ordinal()), claim.fingerprint(), claim.stage(), claim.number(), claim.made())));
        before.known.forEach(known -> open.get(known.ordinal())
                .replay()
                .passage(known.passage().stage(), known.passage().number(), known.reply()));
        return new Past() {
            @Override
            public String ended(long ordinal) {
                return before.lines.stream()
                        .filter(line -> line.ordinal() == ordinal)
                        .map(LedgerLine::fingerprint)
                        .findFirst()
                        .orElse(null);
            }

            @Override
            public OpenRecord open(long ordinal) {
                return open.get(ordinal);
            }

            @Override
            public Totals totals() {
                return before.totals;
            }
        };
    }

    /** What was asked between two changes is known by the second one's claim, whichever of the two is read first. */
    @Test
    public void aReadBetweenTwoChangesIsNotAskedAgain() throws Exception {
        CompiledFlow flow = sound(file(
                changes("first", "concat('first-', $t/key)"),
                reads("asked", "concat('ask-', $first/reference)"),
                changes("second", "concat('second-', $asked/status)"),
                write("out", "$first/reference", "$asked/status", "$second/reference")));
        service = request -> answer(reference(request), "seen");
        Ran whole = Ran.of(flow, doors(flow), records("a"));
        List<String> row = whole.rows.get("out");
        for (boolean latestFirst : List.of(false, true)) {
            Ran killed = new Ran();
            killed.claims.addAll(whole.claims);
            killed.known.addAll(whole.known);
            if (latestFirst) {
                java.util.Collections.reverse(killed.claims);
            }
            killed.totals = Totals.NONE.reading(1);
            sent.clear();
            service = request -> answer(reference(request), "would shift everything");
            Ran resumed = new Ran()
                    .prepared(flow, doors(flow), Ran.source(records("a")), past(killed), FlowRun.Extent.ALL)
                    .go();
            assertEquals(sent, List.of());
            assertEquals(resumed.rows.get("out"), row);
        }
    }

    @DataProvider
    public Object[][] crashes() {
        return new Object[][] {{"before the second change"}, {"while the second change was sent"}};
    }

    @Test(dataProvider = "crashes")
    public void aRunThatWasKilledGoesOnAndSendsNothingTwice(String when) throws Exception {
        boolean sending = when.startsWith("while");
        CompiledFlow flow = sound(file(
                reads("asked", "concat('ask-', $t/key)"),
                changes("first", "concat('first-', $asked/status)"),
                changes("second", "concat('second-', $t/key)"),
                write("out", "$asked/status", "$first/reference", "$second/reference")));
        service = request -> answer(reference(request), "seen");
        Ran whole = Ran.of(flow, doors(flow), records("a"));
        assertEquals(whole.rows.get("out"), List.of("seen|first-seen|second-a"), whole.lines.toString());
        // the ledger as it was when the power went
        Ran killed = new Ran();
        killed.claims.addAll(whole.claims.subList(0, sending ? 2 : 1));
        killed.known.addAll(whole.known.subList(0, 1));
        killed.totals = Totals.NONE.reading(1);
        sent.clear();
        service = request -> answer(reference(request), "would shift everything");
        Ran resumed = new Ran()
                .prepared(flow, doors(flow), Ran.source(records("a")), past(killed), FlowRun.Extent.ALL)
                .go();
        if (sending) {
            assertEquals(sent, List.of());
            assertEquals(resumed.line(1).end(), End.IN_DOUBT);
            assertEquals(resumed.line(1).failure().cause(), "interrupted while it was sent");
        } else {
            assertEquals(sent, List.of("second-a"));
            assertEquals(resumed.rows.get("out"), List.of("seen|first-seen|second-a"));
        }
        addsUp(resumed);
    }

    @Test
    public void aSourceThatChangedIsRefusedWithTheFirstDifference() throws Exception {
        CompiledFlow flow = sound(file(reads("c", "$t/key"), write("out", "$t/n")));
        Ran pilot = new Ran()
                .prepared(flow, doors(flow), Ran.source(records("a", "b", "c")), Past.NONE, new FlowRun.Extent(2, true))
                .go();
        Ran rest = new Ran()
                .prepared(flow, doors(flow), Ran.source(records("a", "x", "c")), past(pilot), FlowRun.Extent.ALL);
        IOException e = expectThrows(IOException.class, rest::go);
        assertTrue(e.getMessage().contains("record 2 is another now"), e.getMessage());
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

    @DataProvider
    public Object[][] unsound() {
        Fill fill = Fill.constant("x", "name", "x");
        MapStage made = MapStage.byFills("m", "c", columns(fill), List.of(fill));
        return new Object[][] {
            {file(write("out", "$later/x"), reads("later", "'x'")), "out", "$later"},
            {file(reads("c", "'x'"), reads("d", "'y'").filled(List.of())), "d", "required"},
            {file(reads("c", "'x'"), made), "m", "$c is there already"},
            {
                file(new BranchStage(
                        "b", List.of(way("one", "true()", reads("c", "'x'")), way("two", null, made)), null)),
                "b",
                "different shapes"
            },
            {
                file(new BranchStage(
                        "b",
                        List.of(way("one", "true()", reads("c", "'x'")), way("two", null, write("o", "$c"))),
                        null)),
                "o",
                "$c"
            },
            {file(new FilterStage("f", null, "", null), write("out", "'x'")), "f", "no condition"},
            {file(new BranchStage("b", List.of(way("one", null), way("two", "true()")), null)), "b", "only the last way"
            },
            {
                file(new LookUpStage("l", "rates", "colour", "$t/key", "row", null, null, null)),
                "l",
                "colour is not a field"
            },
        };
    }

    @Test(dataProvider = "unsound")
    public void whatCannotWorkIsToldAtItsStage(FlowFile file, String stage, String said) {
        Layout rates = new Layout(List.of(new Column("zone", "zone", ScalarType.STRING, null, true)));
        CompiledFlow flow = CompiledFlow.of(
                file, Surroundings.of(Map.of("Vanline Desk", vanline), Map.of("rates", rates), new Expressions()));
        assertTrue(
                flow.problems().stream()
                        .anyMatch(p -> stage.equals(p.stage()) && p.message().contains(said)),
                flow.problems().toString());
    }

    @Test
    public void aSampleGoesTheSameWayAsFarAsItsRepliesReach() {
        CompiledFlow flow = sound(file(
                reads("c", "$t/key"),
                new BranchStage(
                        "b",
                        List.of(way("fine", "$c/status = 'fine'", write("fines", "$t/key")), way("not", null)),
                        null),
                write("out", "$c/status")));
        Doors asked = doors(flow);
        SampleWalk walk = SampleWalk.of(
                flow, asked, new RunNames("s", "x"), 7, records("k").get(0));
        assertEquals(walk.end(), End.DONE);
        assertEquals(walk.ways().get("b"), (Integer) 0);
        assertEquals(walk.at("out").get("c").textOf("status"), "fine");
        assertEquals(walk.at("c").get("run").textOf("record"), "7");
        Doors silent = Doors.forLooking(
                (call, ordinal) -> {
                    throw new SampleWalk.NoReply();
                },
                Doors.LookUps.NONE,
                asked.folders(),
                Clock.systemUTC());
        walk = SampleWalk.of(
                flow, silent, new RunNames("s", "x"), 7, records("k").get(0));
        assertNull(walk.end());
        assertEquals(walk.endedAt(), "c");
        assertNull(walk.at("b"));
    }

    @Test
    public void theCompiledCallKnowsItsSheets() {
        CompiledCall call = sound(file(reads("c", "$t/key"), write("out", "$c/status")))
                .all(CompiledCall.class)
                .get(0);
        assertEquals(call.requestSheets().get(0).name().local(), "TrackTransport");
        assertEquals(call.reply().name().local(), "TrackTransportResponse");
    }
}
