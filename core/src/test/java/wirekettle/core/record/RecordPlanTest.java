package wirekettle.core.record;

import static org.testng.Assert.assertEquals;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Set;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.assist.Everything;
import wirekettle.core.contract.Contract;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.record.RecordPlan.Target;
import wirekettle.core.value.Column;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.ScalarType;

public class RecordPlanTest {
    private final Expressions expressions = new Expressions();

    private static Node leg(String no, String... kinds) {
        Node.Builder leg = Node.build(Name.of("leg")).add("no", no);
        for (String kind : kinds) {
            leg.add(World.record("event", "kind", kind, "at", "2026-11-12T10:00:00Z"));
        }
        return leg.done();
    }

    private static Scope scope() {
        Node reply = Node.build(Name.of("reply"))
                .add("ref", "VD-1")
                .add(leg("A", "loaded", "checked"))
                .add(leg("B", "delivered"))
                .done();
        return Scope.empty()
                .with("loan", World.record("loan", "no", "HC-1"))
                .with("reply", reply)
                .with("run", World.record("run", "started", "now"));
    }

    private static Target wire(String column, String wire) {
        return new Target(Fill.wire(column, column, wire), ScalarType.STRING, false);
    }

    @Test
    public void aRowFollowsItsOwnAncestorsAndReachesRecordAndRun() {
        RecordPlan plan = new RecordPlan(
                "$reply/leg/event",
                List.of(
                        wire("ref", "$reply/ref"),
                        wire("leg", "$reply/leg/no"),
                        wire("kind", "$reply/leg/event/kind"),
                        wire("loan", "$loan/no"),
                        wire("started", "$run/started"),
                        new Target(Fill.expression("x", "both", "$row/../no || $row/kind"), ScalarType.STRING, false)),
                Set.of("reply", "loan", "run"),
                MappingContext.of(expressions));
        List<MappingProblem> problems = new ArrayList<>();
        List<String> rows =
                plan.rows(scope(), problems).stream().map(Arrays::toString).toList();
        assertEquals(problems, List.of());
        assertEquals(
                rows,
                List.of(
                        "[VD-1, A, loaded, HC-1, now, Aloaded]",
                        "[VD-1, A, checked, HC-1, now, Achecked]",
                        "[VD-1, B, delivered, HC-1, now, Bdelivered]"));
    }

    @Test
    public void aValueThatCannotBeReadNamesColumnValueAndFill() {
        RecordPlan plan = new RecordPlan(
                "",
                List.of(
                        new Target(Fill.wire("w9", "count", "$reply/ref"), ScalarType.INTEGER, false),
                        new Target(Fill.wire("w8", "gone", "$reply/nothing"), ScalarType.STRING, true)),
                null,
                MappingContext.of(expressions));
        List<MappingProblem> problems = new ArrayList<>();
        plan.rows(scope(), problems);
        assertEquals(problems.get(0).fillId(), "w9");
        assertEquals(problems.get(0).sentence(), "count: “VD-1” no integer");
        assertEquals(problems.get(1).code(), "empty");
    }

    @Test
    public void everythingChoosesTheRepeatedElementAndTakesItsAncestorsFields() {
        Contract vanline = World.vanline();
        Everything.Made made = Everything.of(
                vanline.sheet(
                        vanline.operations().get(0).operation().output().body().get(0)),
                "reply",
                null,
                null);
        assertEquals(made.rowPath(), "$reply/event");
        assertEquals(
                made.columns().stream().map(Column::name).toList(),
                List.of("reference", "status", "carrier", "at", "place", "kind", "temperature"));
        assertEquals(made.columns().get(3).type(), ScalarType.DATETIME);
        assertEquals(made.columns().get(6).type(), ScalarType.DECIMAL);
        assertEquals(made.fills().get(3).wire(), "$reply/event/at");
    }
}
