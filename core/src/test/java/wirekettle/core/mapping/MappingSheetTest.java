package wirekettle.core.mapping;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;

import java.util.ArrayList;
import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.mapping.MappingSheet.Line;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.ValueFormat;

public class MappingSheetTest {
    private static final String V = "{urn:halewick:vanline:2}";
    private static final List<String> SOURCES =
            List.of("$loan/loan_no", "$loan/borrower", "$loan/collect_on", "$loan/crate", "$loan/crate/kg", "$run/id");
    private final List<SheetField> roots = new ArrayList<>();

    /** Opens the message the sheets are about. */
    public MappingSheetTest() {
        Contract vanline = World.vanline();
        vanline.operation(null, null, "BookTransport")
                .orElseThrow()
                .operation()
                .input()
                .elements()
                .forEach(e -> roots.add(vanline.sheet(e)));
    }

    private MappingSheet.Read read(String target, String source, String rule) {
        return MappingSheet.read(List.of(new Line(target, source, rule, "")), roots, SOURCES)
                .get(0);
    }

    @DataProvider
    public Object[][] lines() {
        String b = "/" + V + "BookTransport/" + V;
        Fill day = Fill.wire("m1", b + "collectOn", "$loan/collect_on");
        return new Object[][] {
            {"BookTransport/loanReference", "loan_no", "", Fill.wire("m1", b + "loanReference", "$loan/loan_no")},
            {"loanReference", "$loan/LOAN_NO", "", Fill.wire("m1", b + "loanReference", "$loan/loan_no")},
            {"booktransport . remark", "\"handle with care\"", "", Fill.constant("m1", b + "remark", "handle with care")
            },
            {"collectOn", "collect_on", "date dd.MM.yyyy", day.with(ValueFormat.date("dd.MM.yyyy"))},
            {"crate", "for each crate", "", Fill.repeat("m1", b + "crate", "$loan/crate", "crate")},
            {
                "remark",
                "loan_no, borrower",
                "cut to 20; default none",
                Fill.join("m1", b + "remark", null, "$loan/loan_no", "$loan/borrower")
                        .with(ValueFormat.cut(20))
                        .with(new Fill.WhenEmpty("default", "none"))
            },
            {
                "deliverTo/city",
                "tokenize($loan/borrower, ' ')[1]",
                "upper case; look up in towns",
                Fill.expression("m1", b + "deliverTo/" + V + "city", "tokenize($loan/borrower, ' ')[1]")
                        .with(ValueFormat.of("case", null, "upper"))
                        .with(new Fill.LookUp("towns", null))
            },
            {
                "crate/grossKilograms",
                "$crate/kg",
                "decimal comma",
                Fill.wire("m1", b + "crate/" + V + "grossKilograms", "$crate/kg")
                        .with(ValueFormat.number(",", null))
            },
            {"BookingHeader/desk", "\"HC07\"", "", Fill.constant("m1", "/" + V + "BookingHeader/" + V + "desk", "HC07")
            },
        };
    }

    @Test(dataProvider = "lines")
    public void aLineBecomesAProposedFill(String target, String source, String rule, Fill expected) {
        MappingSheet.Read read = read(target, source, rule);
        assertEquals(read.fill(), expected);
        assertNull(read.problem());
    }

    @Test
    public void numbersAndTextsSaidToBeFixedAreConstants() {
        assertEquals(read("deliverWithinDays", "5", "").fill().constant(), "5");
        assertEquals(read("remark", "constant: handle with care", "").fill().constant(), "handle with care");
    }

    @Test
    public void whatIsNotUnderstoodIsSaidAndNothingElseIsLost() {
        assertEquals(read("nothing", "loan_no", "").problem(), "“nothing” is no field of this message");
        assertEquals(read("city", "loan_no", "").problem(), "“city” is no field of this message", "two have it");
        assertEquals(read("remark", "colour", "").problem(), "“colour” is no field in reach");
        assertEquals(read("", "colour", "").problem(), "there is no target field");
        MappingSheet.Read odd = read("remark", "loan_no", "trim; ask Ida first");
        assertEquals(odd.problem(), "the rule “ask Ida first” is not understood");
        assertEquals(odd.fill().format(), ValueFormat.trim());
    }

    @Test(dataProvider = "lines")
    public void whatIsWrittenIsReadAgain(String target, String source, String rule, Fill fill) {
        List<Line> lines = MappingSheet.lines(List.of(fill), roots);
        Line line =
                lines.stream().filter(l -> !l.source().isEmpty()).findFirst().orElseThrow();
        assertEquals(MappingSheet.read(List.of(line), roots, SOURCES).get(0).fill(), fill);
        assertEquals(
                lines.stream().filter(l -> l.remark().equals("required")).count() > 3,
                true,
                "what is missing is there");
    }
}
