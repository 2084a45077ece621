package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.atomic.AtomicInteger;
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
import wirekettle.core.flow.file.BatchStage;
import wirekettle.core.flow.file.BranchStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FilterStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.LookUpStage;
import wirekettle.core.flow.file.MapStage;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.request.MessageCheck;
import wirekettle.core.simulate.Simulator;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.soap.Transport;
import wirekettle.core.value.Column;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.ScalarType;

/**
 * Outlines made at random, run against the simulator with faults, time-outs and lost connections in between: whatever
 * they are, every record ends once, the counts add up, and what the service received is what the ledger says. The
 * system property {@code seeds} says how many outlines are made besides the fixed ones, 24 by default.
 */
public class RandomOutlinesTest {
    private static final String V = "{urn:halewick:vanline:2}";
    private static final int RECORDS = 120;

    private final Contract vanline = World.vanline();
    private final MessageCheck check = new MessageCheck(vanline.check(), SoapVersion.SOAP_11);

    @DataProvider
    public Object[][] seeds() {
        List<Object[]> seeds = new ArrayList<>();
        for (long seed : new long[] {1, 2, 3, 5, 8, 13, 21, 34, 454079}) {
            seeds.add(new Object[] {seed});
        }
        Random fresh = new Random();
        for (int i = 0; i < Integer.getInteger("seeds", 24); i++) {
            seeds.add(new Object[] {(long) fresh.nextInt(1_000_000)});
        }
        return seeds.toArray(Object[][]::new);
    }

    /** Makes an outline. */
    private static final class Maker {
        private final Random random;
        private final AtomicInteger ids = new AtomicInteger();
        private final Random batches;
        private int calls;
        private int splits;

        Maker(long seed) {
            random = new Random(seed);
            batches = new Random(seed);
        }

        private String id(String verb) {
            return verb + ids.incrementAndGet();
        }

        List<Stage> block(int depth) {
            List<Stage> stages = new ArrayList<>();
            int count = 1 + random.nextInt(depth == 0 ? 5 : 3);
            for (int i = 0; i < count; i++) {
                stages.add(stage(depth));
            }
            return stages;
        }

        private Stage stage(int depth) {
            if (splits == 0 && batches.nextInt(5) == 0) {
                return batch(depth);
            }
            switch (random.nextInt(depth < 2 ? 8 : 5)) {
                case 0 -> {
                    return new FilterStage(
                            id("f"), null, "number($t/n) mod " + (5 + random.nextInt(9)) + " ne 0", null);
                }
                case 1 -> {
                    Fill fill = Fill.expression(id("x"), "twice", "concat($t/key, $t/key)");
                    String id = id("m");
                    return MapStage.byFills(id, id, columns(fill), List.of(fill));
                }
                case 2 -> {
                    String id = id("l");
                    return new LookUpStage(
                            id,
                            "rates",
                            null,
                            "zone",
                            "$t/key",
                            id,
                            random.nextBoolean() ? LookUpStage.None.EMPTY : LookUpStage.None.REJECT,
                            LookUpStage.Many.FIRST,
                            lane(id, depth));
                }
                case 3 -> {
                    return write();
                }
                case 4 -> {
                    return calls++ < 4 ? call(depth) : write();
                }
                case 5 -> {
                    return split(depth);
                }
                default -> {
                    List<BranchStage.Way> ways = new ArrayList<>();
                    int count = 1 + random.nextInt(3);
                    for (int i = 0; i < count; i++) {
                        boolean rest = i == count - 1 && random.nextBoolean();
                        String when = rest ? null : "number($t/n) mod " + (2 + random.nextInt(4)) + " = 0";
                        ways.add(new BranchStage.Way(id("w"), null, when, block(depth + 1)));
                    }
                    String id = id("b");
                    return new BranchStage(id, ways, lane(null, depth));
                }
            }
        }

        private SplitStage split(int depth) {
            String id = id("s");
            SplitStage.WhenSomeFail rule = SplitStage.WhenSomeFail.values()[random.nextInt(3)];
            SplitStage.Gather gather = random.nextInt(3) == 0 ? null : new SplitStage.Gather(id("g"), rule);
            int atOnce = 1 + random.nextInt(4);
            splits++;
            List<Stage> block = block(depth + 1);
            splits--;
            return new SplitStage(id, "$t/part", id("i"), atOnce, block, gather, lane(null, depth));
        }

        /** Records that go together; the lines of the reply answer for them by their position. */
        private BatchStage batch(int depth) {
            String id = id("p");
            String call = id("c");
            Fill fill = Fill.expression(
                    id("q"),
                    "/" + V + "TrackTransport/" + V + "reference",
                    "concat('" + id + "-', $" + id + "/item[1]/t/n)");
            Delivery delivery =
                    new Delivery(Delivery.Effect.CHANGES, 2, null, Delivery.Keep.ALL, null, null, null, null, null);
            CallStage together = new CallStage(
                    call, "Vanline Desk", null, null, "TrackTransport", "Vanline Desk", call, List.of(fill), delivery);
            BatchStage.Said silent = BatchStage.Said.values()[batches.nextInt(3)];
            BatchStage.Verdict verdict = new BatchStage.Verdict(
                    id("v"), "$" + call + "/event", null, null, "position() = 1", null, "'no'", silent);
            String by = batches.nextInt(3) == 0 ? "number($t/n) mod 3" : null;
            int most = 1 + batches.nextInt(12);
            return new BatchStage(
                    id,
                    id,
                    most,
                    batches.nextInt(4) == 0 ? 1_000 : null,
                    by,
                    batches.nextInt(50),
                    List.of(together),
                    batches.nextInt(4) == 0 ? null : verdict,
                    batches.nextBoolean(),
                    batches.nextInt(3) == 0 ? undo(id) : null,
                    lane(null, depth));
        }

        private CallStage call(int depth) {
            String id = id("c");
            Delivery.Effect effect = random.nextBoolean() ? Delivery.Effect.READS : Delivery.Effect.CHANGES;
            Delivery delivery = new Delivery(
                    effect,
                    1 + random.nextInt(6),
                    null,
                    Delivery.Keep.ALL,
                    null,
                    null,
                    null,
                    null,
                    effect == Delivery.Effect.READS && random.nextInt(4) == 0 ? 0 : null);
            return new CallStage(
                    id,
                    "Vanline Desk",
                    null,
                    null,
                    "TrackTransport",
                    "Vanline Desk",
                    id,
                    List.of(Fill.expression(
                            id("q"), "/" + V + "TrackTransport/" + V + "reference", "concat('" + id + "-', $t/key)")),
                    null,
                    null,
                    delivery,
                    effect == Delivery.Effect.CHANGES && random.nextBoolean() ? undo(id) : null,
                    lane(id, depth));
        }

        /** What takes a call back: another change, sometimes with a row of its own. */
        private List<Stage> undo(String call) {
            String id = id("u");
            Fill fill = Fill.expression(
                    id("q"), "/" + V + "TrackTransport/" + V + "reference", "concat('" + id + "-', $t/n)");
            CallStage back = new CallStage(
                    id,
                    "Vanline Desk",
                    null,
                    null,
                    "TrackTransport",
                    "Vanline Desk",
                    id,
                    List.of(fill),
                    new Delivery(Delivery.Effect.CHANGES, 2, null, Delivery.Keep.ALL, null, null, null, null, null));
            Lane again = Lane.of(Lane.Rule.again(id("r"), List.of(), 3, 0));
            return random.nextBoolean() ? List.of(back.failing(again)) : List.of(back, write());
        }

        private WriteStage write() {
            Fill fill = Fill.wire(id("o"), "n", "$t/n");
            String id = id("out");
            return new WriteStage(id, id, null, null, null, columns(fill), List.of(fill));
        }

        private Lane lane(String variable, int depth) {
            List<Lane.Rule> rules = new ArrayList<>();
            int count = random.nextInt(3);
            for (int i = 0; i < count; i++) {
                List<FailureClass> on = random.nextBoolean() ? List.of() : List.of(FailureClass.FAULT);
                Fill fill = Fill.constant(id("v"), "status", "none");
                switch (random.nextInt(variable == null ? 3 : 4)) {
                    case 0 -> rules.add(Lane.Rule.again(id("r"), on, 1 + random.nextInt(2), 0));
                    case 1 -> rules.add(Lane.Rule.run(id("r"), on, Lane.Then.GO_ON, write()));
                    case 2 -> rules.add(Lane.Rule.run(id("r"), on, Lane.Then.REJECT, write()));
                    default -> rules.add(Lane.Rule.use(id("r"), on, columns(fill), List.of(fill)));
                }
            }
            return rules.isEmpty() || depth > 1 ? null : new Lane(rules);
        }

        private static List<Column> columns(Fill fill) {
            return List.of(new Column(fill.target(), fill.target(), ScalarType.STRING, null, false));
        }
    }

    @Test(dataProvider = "seeds")
    public void whateverTheOutlineEveryRecordEndsOnceAndTheBooksAddUp(long seed) throws Exception {
        Maker maker = new Maker(seed);
        boolean ordered = maker.random.nextInt(4) == 0;
        List<Stage> stages = new ArrayList<>();
        stages.add(new ReadStage("read", "transports", "t", "$t/key", null, ordered ? true : null));
        stages.addAll(maker.block(0));
        stages.add(maker.write());
        FlowFile file =
                new FlowFile(FlowFile.FORMAT, "Random", stages, maker.lane(null, 0) == null ? null : flowLane(maker));
        assertEquals(FlowFile.parse(file.text()), file, "seed " + seed);
        CompiledFlow flow =
                CompiledFlow.of(file, Surroundings.of(Map.of("Vanline Desk", vanline), null, new Expressions()));
        assertEquals(flow.problems(), List.of(), "seed " + seed + "\n" + file.text());

        List<String> received = Collections.synchronizedList(new ArrayList<>());
        Ran ran = Ran.of(flow, doors(received, seed), records());

        assertEquals(ran.lines.size(), RECORDS, "seed " + seed);
        for (int i = 0; i < RECORDS; i++) {
            assertEquals(ran.lines.get(i).ordinal(), i + 1, "in order, seed " + seed);
        }
        assertEquals(ran.totals.read(), RECORDS);
        assertEquals(ran.totals.ended(), RECORDS);
        long attempts = ran.lines.stream().mapToLong(LedgerLine::calls).sum();
        assertEquals(attempts, received.size(), "what was received is what the ledger says, seed " + seed);
        assertEquals(ran.totals.calls(), attempts);
        rows(ran, seed);
        passages(ran, seed);
    }

    private static Lane flowLane(Maker maker) {
        return Lane.of(Lane.Rule.run(maker.id("r"), List.of(), Lane.Then.REJECT, maker.write()));
    }

    /** Rows stand in input order; what is rejected, left out or in doubt left none but its lanes'. */
    private static void rows(Ran ran, long seed) {
        long counted = ran.lines.stream().mapToLong(LedgerLine::rows).sum();
        long written = ran.rows.values().stream().mapToLong(List::size).sum();
        assertEquals(written, counted, "seed " + seed);
        ran.rows.forEach((stage, rows) -> {
            List<Integer> numbers = rows.stream().map(Integer::parseInt).toList();
            assertEquals(numbers, numbers.stream().sorted().toList(), stage + " in order, seed " + seed);
        });
    }

    /** Only what surely did not take effect was tried again, every message was valid, and what changes was claimed. */
    private void passages(Ran ran, long seed) throws Exception {
        Map<String, Long> claims = new HashMap<>();
        ran.claims.forEach(claim -> claims.merge(claim.ordinal() + " " + claim.effect(), 1L, Long::sum));
        for (LedgerLine line : ran.lines) {
            for (Passage passage : line.passages()) {
                String name = "record " + line.ordinal() + " at " + passage.stage() + ", seed " + seed;
                assertEquals(check.problems(passage.exchange().request()), List.of(), name);
                if (passage.changes()) {
                    assertTrue(claims.containsKey(line.ordinal() + " " + passage.effect()), name);
                    boolean undone = passage.outcome() == Passage.Outcome.UNDONE;
                    boolean failed = line.end() == End.REJECTED || line.end() == End.IN_DOUBT;
                    assertTrue(!undone || failed || line.saved(), name);
                    boolean doubt = passage.outcome() == Passage.Outcome.IN_DOUBT;
                    assertTrue(!doubt || line.end() == End.IN_DOUBT, name);
                }
            }
            if (line.end() == End.IN_DOUBT) {
                assertEquals(line.rows(), 0, "seed " + seed);
            }
        }
    }

    private static List<Node> records() {
        List<Node> records = new ArrayList<>();
        for (int n = 1; n <= RECORDS; n++) {
            Node.Builder record =
                    Node.build(Name.of("record")).add("key", "K" + n % 40).add("n", Integer.toString(n));
            for (int part = 1; part <= n % 4; part++) {
                record.add("part", Integer.toString(part));
            }
            records.add(record.done());
        }
        return records;
    }

    /** The simulator's answers, with troubles that depend on the request and how often it came. */
    private Doors doors(List<String> received, long seed) {
        Simulator simulator = new Simulator(vanline, List.of(), null);
        EndpointReach reach = EndpointReach.plain("http://vanline.invalid");
        Transport transport = request -> {
            String text = new String(request.body(), StandardCharsets.UTF_8);
            int times;
            synchronized (received) {
                times = Collections.frequency(received, text);
                received.add(text);
            }
            switch (Math.floorMod(text.hashCode() * 31 + times * 7 + (int) seed, 12)) {
                case 0 -> throw new CallFailure(FailureClass.TIMEOUT, "no answer in time", "silent", true, false, null);
                case 1 -> throw new CallFailure(
                        FailureClass.CONNECTION, "no connection", "refused", false, false, null);
                case 2 -> {
                    String fault = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body><s:Fault>"
                            + "<faultcode>s:Server</faultcode><faultstring>no</faultstring></s:Fault></s:Body></s:Envelope>";
                    return new Transport.Answer(500, Map.of(), fault.getBytes(StandardCharsets.UTF_8), 1);
                }
                default -> {
                    Simulator.Answer answer = simulator.answer(request.body());
                    return new Transport.Answer(answer.status(), Map.of(), answer.body(), 1);
                }
            }
        };
        Doors.Lines lines = call -> new Doors.Line(caller(call, transport, reach), reach, EndpointGate.open());
        Doors.LookUps rows =
                (stage, key) -> key.endsWith("7") ? List.of() : List.of(World.record("row", "zone", key, "rate", "1"));
        return new Doors(lines, rows, reach.folders(), Clock.systemUTC(), MemoryBudget.NONE, thrown -> {
            throw new AssertionError(thrown);
        });
    }

    private static Caller caller(CompiledCall call, Transport transport, EndpointReach reach) {
        return Caller.of(transport, reach, call.contract(), call.offered(), Transport.Limits.DEFAULT);
    }
}
