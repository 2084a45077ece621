package wirekettle.core.flow.compile;

import static org.testng.Assert.assertEquals;

import java.util.List;
import java.util.Set;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.file.AfterLast;
import wirekettle.core.flow.file.FilterStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.NamedValue;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.flow.file.SplitStage.Gather;
import wirekettle.core.flow.file.SplitStage.WhenSomeFail;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.file.WriteStage;

/** What of a Split's items the stages behind it can reach. */
public class GatheredUsesTest {
    private static final List<String> MADE = List.of("booked", "checked", "crate");

    @DataProvider
    public Object[][] uses() {
        return new Object[][] {
            {"'x'", Set.of()},
            {"count($crates/item)", Set.of()},
            {"exists( $crates )", Set.of()},
            {"string-join($crates/item/booked/label, ' ')", Set.of("booked")},
            {"$crates/item[end = 'done']/booked/label", Set.of("booked")},
            {"$crates/item[checked/ok]/booked/label", Set.of("booked", "checked")},
            {"$crates/item[2]/end", Set.of()},
            // where it cannot be told
            {"$crates/item", Set.copyOf(MADE)},
            {"string($crates)", Set.copyOf(MADE)},
            {"$crates/item/*", Set.copyOf(MADE)},
            {"$crates//label", Set.copyOf(MADE)},
            {"for $i in $crates/item return $i/booked", Set.copyOf(MADE)},
            {"$crates/item[a[1]]/booked", Set.copyOf(MADE)},
            // another variable whose name begins like it
            {"$crates-of/item", Set.of()},
        };
    }

    @Test(dataProvider = "uses")
    public void onlyWhatIsReachedIsKept(String expression, Set<String> kept) {
        Fill fill = Fill.expression("w1", "c", expression);
        WriteStage write = new WriteStage("out", "out", null, null, null, List.of(), List.of(fill));
        assertEquals(GatheredUses.of(file(write, null), split(), MADE), kept);
    }

    @Test
    public void whatIsAddedUpAndWhatRepeatsCountsToo() {
        AfterLast after = new AfterLast(List.of(), null, List.of(new NamedValue("kg", "sum($crates/item/checked/kg)")));
        assertEquals(
                GatheredUses.of(file(new FilterStage("f", null, "true()", null), after), split(), MADE),
                Set.of("checked"));
        Fill each = Fill.repeat("w1", "c", "$crates/item", "each");
        WriteStage write = new WriteStage("out", "out", null, null, null, List.of(), List.of(each));
        assertEquals(GatheredUses.of(file(write, null), split(), MADE), Set.copyOf(MADE));
    }

    /** What the items do among themselves reaches nothing of what is gathered. */
    private static SplitStage split() {
        return new SplitStage(
                "split",
                "$loan/line",
                "crate",
                1,
                List.of(new FilterStage("inside", null, "$booked/x and $checked/y and $crates/item", null)),
                new Gather("crates", WhenSomeFail.GO_ON),
                null);
    }

    private static FlowFile file(Stage behind, AfterLast after) {
        return new FlowFile(
                2, "f", null, List.of(new ReadStage("read", "loans", "loan", null), split(), behind), after, null);
    }
}
