package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import java.time.Clock;
import java.util.List;
import java.util.Map;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.expression.Expressions;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.compile.Surroundings;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.BranchStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.FilterStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.LookUpStage;
import wirekettle.core.flow.file.MapStage;
import wirekettle.core.flow.file.NoteStage;
import wirekettle.core.value.CodeTable;
import wirekettle.core.value.Column;
import wirekettle.core.value.DocumentForm;
import wirekettle.core.value.Layout;
import wirekettle.core.value.ScalarType;

/** What each verb does in an outline, and what cannot work. */
public class OutlineTest extends OutlineFixture {
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
        LookUpStage strict = new LookUpStage("l", "rates", null, "zone", "$t/key", "row", null, null, null);
        Ran ran = run(file(strict, write("out", "$row/name")), "a", "none", "two", "");
        assertEquals(ran.rows.get("out"), List.of("row of a"));
        assertEquals(ran.line(2).failure().cause(), "rates has no row for it");
        assertEquals(ran.line(3).failure().cause(), "rates has several rows for it");
        assertEquals(ran.line(4).failure().cause(), "no key to look for");
        LookUpStage mild = new LookUpStage(
                "l", "rates", null, "zone", "$t/key", "row", LookUpStage.None.EMPTY, LookUpStage.Many.FIRST, null);
        ran = run(file(mild, write("out", "string($row/name)")), "a", "none", "two");
        assertEquals(ran.rows.get("out"), List.of("row of a", "", "first"));
    }

    @Test
    public void aCodeTableIsLookedIntoLikeADataset() throws Exception {
        CodeTable zones = new CodeTable(
                "zones",
                null,
                List.of(
                        new CodeTable.Entry("NV", "north", null, "2020-12-31"),
                        new CodeTable.Entry("NV", "north-west", "2021-01-01", null),
                        new CodeTable.Entry("OD", "south", "2999-01-01", null)));
        FlowFile file = file(
                new LookUpStage("l", null, "zones", null, "$t/key", "zone", null, null, null),
                write("out", "$zone/code", "$zone/value"));
        CompiledFlow flow = CompiledFlow.of(
                file,
                new Surroundings(
                        Map.of(),
                        null,
                        Map.of(),
                        MappingContext.of(new Expressions()).with(Map.of("zones", zones))));
        assertEquals(flow.problems(), List.of());
        Ran ran = Ran.of(flow, doors(flow), records("NV", "OD", "XX", ""));
        assertEquals(ran.rows.get("out"), List.of("NV|north-west"));
        assertEquals(ran.line(2).failure().cause(), "zones has no code for it");
        assertEquals(ran.line(3).failure().message(), "zones has no code “XX” that counts today");
        assertEquals(ran.line(4).failure().cause(), "no key to look for");
        assertEquals(compiled(file).problems().get(0).message(), "the code table “zones” is not there: pick another");
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
        AnswerStage answer = AnswerStage.of("a", "201", columns(fill), List.of(fill));
        CompiledFlow flow = sound(file(answer));
        SampleWalk walk = SampleWalk.of(
                flow, doors(flow), new RunNames("1", "x"), 1, records("k").get(0));
        assertEquals(walk.answer(), new Answer(201, Map.of(), DocumentForm.JSON, "{\"key\":\"k\"}"));
        AnswerStage other = AnswerStage.of("b", null, columns(fill), List.of(fill));
        List<FlowProblem> problems = compiled(file(answer, other)).problems();
        assertTrue(problems.toString().contains("there is an Answer before it on the same way"), problems.toString());
        BranchStage apart = new BranchStage("w", List.of(way("one", "true()", answer), way("two", null, other)), null);
        assertEquals(compiled(file(apart)).problems(), List.of());
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
                file(new LookUpStage("l", "rates", null, "colour", "$t/key", "row", null, null, null)),
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
                (call, ordinal, path) -> {
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
