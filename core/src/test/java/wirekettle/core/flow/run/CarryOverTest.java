package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.io.IOException;
import java.util.List;
import org.testng.annotations.Test;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.file.FilterStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.NamedValue;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/** What a record hands on to the next one of its key. */
public class CarryOverTest extends OutlineFixture {
    private static final ReadStage HANDING_ON = new ReadStage("read", "transports", "t", "$t/key")
            .carrying(new ReadStage.Carry(
                    "previous",
                    List.of(new NamedValue("n", "$t/n"), new NamedValue("all", "concat($previous/all, $t/n)"))));

    private static FlowFile handingOn(Stage... stages) {
        List<Stage> all = new java.util.ArrayList<>(List.of(HANDING_ON));
        all.addAll(List.of(stages));
        return FlowFile.of("Handing on", all.toArray(Stage[]::new));
    }

    @Test
    public void theNextRecordOfAKeyHasWhatTheOneBeforeHandedOn() throws Exception {
        FlowFile file = handingOn(
                changes("c", "concat('x', $t/key)"), write("out", "$t/key", "$t/n", "$previous/n", "$previous/all"));
        Ran ran = run(file, "a", "b", "a", "b", "a", "");
        assertEquals(ran.rows.get("out"), List.of("a|1||", "b|2||", "a|3|1|1", "b|4|2|2", "a|5|3|13", "|6||"));
    }

    /** What is left out hands nothing on, and what was handed on before stays. */
    @Test
    public void onlyWhatIsDoneHandsOn() throws Exception {
        FlowFile file =
                handingOn(new FilterStage("f", "not two", "$t/n != '2'", null), write("out", "$t/n", "$previous/n"));
        Ran ran = run(file, "a", "a", "a");
        assertEquals(ran.rows.get("out"), List.of("1|", "3|1"));
    }

    @Test
    public void aRunThatGoesOnAsksItsLedger() throws Exception {
        FlowFile file = handingOn(write("out", "$t/n", "$previous/n"));
        Past past = new Past() {
            @Override
            public String ended(long ordinal) {
                return ordinal == 1 ? Fingerprint.of(records("a").get(0)) : null;
            }

            @Override
            public OpenRecord open(long ordinal) {
                return null;
            }

            @Override
            public Totals totals() {
                return Totals.NONE.reading(1);
            }

            @Override
            public boolean carries() {
                return true;
            }

            @Override
            public Node carried(String key, long ordinal) {
                return Node.build(Name.of("previous"))
                        .add("n", key + " before " + ordinal)
                        .done();
            }
        };
        var flow = sound(file);
        Ran ran = new Ran()
                .prepared(flow, doors(flow), Ran.source(records("a", "a", "b")), past, FlowRun.Extent.ALL)
                .go();
        assertEquals(ran.rows.get("out"), List.of("2|a before 2", "3|b before 3"));
    }

    @Test
    public void manyKeysAreHeldInTheLedgerAndNotInMemory() throws IOException {
        Past past = new Past() {
            @Override
            public String ended(long ordinal) {
                return null;
            }

            @Override
            public OpenRecord open(long ordinal) {
                return null;
            }

            @Override
            public Totals totals() {
                return Totals.NONE;
            }

            @Override
            public boolean carries() {
                return true;
            }

            @Override
            public Node carried(String key, long ordinal) {
                return Node.leaf("previous", "asked for " + key);
            }
        };
        CarryOver carry = new CarryOver(sound(handingOn(write("out", "$t/n"))).source(), past);
        for (int i = 0; i < 20_001; i++) {
            LedgerLine line = line(i + 1, "k" + i);
            carry.ended(line);
        }
        assertEquals(carry.before("k20000", 30_000).text(), "20001");
        assertEquals(carry.before("k0", 30_000).text(), "asked for k0");
    }

    private static LedgerLine line(long ordinal, String key) {
        Item item = new Item(
                ordinal,
                "",
                null,
                "",
                key,
                wirekettle.core.expression.Scope.empty(),
                wirekettle.core.soap.CallRoom.NONE,
                Replay.starting("2026-11-29T00:00:00Z"),
                false);
        return LedgerLine.done(item, 0).carrying(Node.leaf("previous", Long.toString(ordinal)));
    }

    @Test
    public void whatCannotBeHandedOnIsAProblem() {
        ReadStage without =
                new ReadStage("read", "transports", null, null, "t", "$t/key", null, null, HANDING_ON.carry(), null);
        assertTrue(
                said(without)
                        .contains(
                                "records hand something on to the next one of their key: let them go one after the other per key"));
        ReadStage taken = HANDING_ON.carrying(new ReadStage.Carry("t", List.of()));
        assertTrue(said(taken).contains("what is handed on has no name, or one that is used: t"));
        ReadStage unknown = HANDING_ON.carrying(new ReadStage.Carry("p", List.of(new NamedValue("n", "$nobody/n"))));
        assertTrue(
                said(unknown).stream().anyMatch(p -> p.startsWith("the value handed on n: $nobody is not known")),
                said(unknown).toString());
    }

    private List<String> said(ReadStage read) {
        return compiled(FlowFile.of("f", read, write("out", "$t/n"))).problems().stream()
                .map(FlowProblem::message)
                .toList();
    }
}
