package wirekettle.core.assist.sheet;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;

import java.util.ArrayList;
import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.assist.sheet.MappingSheet.Line;
import wirekettle.core.contract.Contract;
import wirekettle.core.fill.Fill;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.Column;
import wirekettle.core.value.ScalarType;
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
                        .with(new Fill.WhenEmpty(Fill.WhenEmpty.Use.DEFAULT, "none"))
            },
            {
                "deliverTo/city",
                "tokenize($loan/borrower, ' ')[1]",
                "upper case; look up in towns",
                Fill.expression("m1", b + "deliverTo/" + V + "city", "tokenize($loan/borrower, ' ')[1]")
                        .with(ValueFormat.of(ValueFormat.Kind.CASE, null, "upper"))
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

    @DataProvider
    public Object[][] saying() {
        String b = "/" + V + "BookTransport/" + V;
        String weight = b + "crate/" + V + "grossKilograms";
        Fill kg = Fill.wire("m1", weight, "$crate/kg");
        Fill remark = Fill.wire("m1", b + "remark", "$loan/remark");
        Fill crates = Fill.repeat("m1", b + "crate", "$loan/line", "crate");
        ValueFormat spaced = ValueFormat.number(",", " ", ".", "'", 2);
        return new Object[][] {
            {crates},
            {
                crates.with(new Fill.Each(
                                "$crate/kind != 'a;b'",
                                List.of(new Fill.By("$crate/no", null), new Fill.By("concat($crate/a, 'x, y')", true)),
                                List.of("no", "kind")))
                        .onlyWhen("$loan/days gt 3")
            },
            {Fill.repeat("m1", b + "crate#2", "$loan/spare", "spare")},
            {Fill.wire("m1", b + "crate#2/" + V + "number", "$spare/no")},
            {kg.with(spaced)},
            {kg.with(ValueFormat.rounded(3))},
            {kg.with(ValueFormat.number(",", " ").then(ValueFormat.rounded(0)))},
            {remark.with(ValueFormat.zoned("dd.MM.yyyy HH:mm", "Europe/Oslo", "yyyy-MM-dd'T'HH:mm:ssXXX", "Z"))},
            {remark.with(ValueFormat.of(ValueFormat.Kind.DATE, null, "yyyyMMdd"))},
            {remark.with(ValueFormat.of(ValueFormat.Kind.BOOLEAN, null, "J/N"))},
            {remark.with(ValueFormat.words(List.of("ja", "x"), List.of("nein", "-")))},
            {
                remark.with(ValueFormat.words(
                        List.of("yes", "y", "ja", "j", "1", "true"), List.of("no", "n", "nein", "0", "false")))
            },
            {remark.with(ValueFormat.keep("A-Z;, ", "_").then(ValueFormat.trim()))},
            {remark.with(ValueFormat.keep("^;“", null))},
            {remark.with(ValueFormat.pad(8, " ", "right").then(ValueFormat.of(ValueFormat.Kind.CASE, null, "first")))},
            {remark.with(ValueFormat.cutBytes(20))},
            {remark.with(new Fill.LookUp("towns, old", "$loan/collect_on"))},
            {remark.with(new Fill.InFolder("papers", "concat($loan/no, '; ', 'x')"))},
            {remark.with(new Fill.WhenEmpty(Fill.WhenEmpty.Use.DEFAULT, "none; really"))},
            {remark.with(new Fill.WhenEmpty(Fill.WhenEmpty.Use.REJECT, null)).remarked("ask Ida; she doesn't mind")},
            {Fill.join("m1", b + "remark", " – ", "$loan/no", "\"by boat, slowly\"", "$loan/town")},
            {Fill.expression("m1", b + "remark", "$loan/a + $loan/b")},
            {Fill.expression("m1", b + "remark", "current-date()")},
            {Fill.expression("m1", b + "remark", "1 + 1")},
            {Fill.constant("m1", b + "remark", "say \"hello\", twice")},
            {Fill.constant("m1", b + "remark", "a + b, c")},
            {Fill.secret("m1", b + "remark", "vanline password")},
            {Fill.nil("m1", b + "remark")},
            {Fill.copy("m1", b + "deliverTo", "$message/to")},
            {Fill.copy("m1", b + "deliverTo", "$message")},
        };
    }

    @Test(dataProvider = "saying")
    public void nothingAFillSaysIsLostOnItsWayThroughASheet(Fill fill) {
        Line line = MappingSheet.lines(List.of(fill), roots).stream()
                .filter(l -> !l.source().isEmpty())
                .findFirst()
                .orElseThrow();
        MappingSheet.Read again =
                MappingSheet.read(List.of(line), roots, SOURCES).get(0);
        assertNull(again.problem(), line + ": " + again.problem());
        assertEquals(again.fill(), fill, line.toString());
    }

    @Test
    public void typesSubstitutesAndBranchesPickedAreTargetsAndLinesOfTheirOwn() {
        Contract consignment = World.contract(World.resource("consignment.wsdl"));
        List<SheetField> sheets = consignment.operations().get(0).operation().input().elements().stream()
                .map(consignment::sheet)
                .toList();
        String c = "{urn:halewick:consignment}";
        String permit = "/" + c + "Consign/" + c + "paper~" + c + "Permit";
        List<Fill> fills = List.of(
                Fill.pick("m1", permit).onlyWhen("$loan/kind = 'permit'"),
                Fill.wire("m2", permit + "/" + c + "number", "$loan/no"),
                Fill.wire("m3", "/" + c + "Consign/" + c + "sender", "$loan/name"),
                Fill.wire("m4", "/" + c + "Consign/" + c + "from/@country", "$loan/land"));
        List<Line> lines = MappingSheet.lines(fills, sheets).stream()
                .filter(l -> !l.source().isEmpty())
                .toList();
        assertEquals(
                lines.stream().map(Line::target).toList(),
                List.of(
                        "Consign/from/@country",
                        "Consign/paper~Permit",
                        "Consign/paper~Permit/number",
                        "Consign/sender"));
        List<Fill> again = MappingSheet.read(lines, sheets, SOURCES).stream()
                .map(MappingSheet.Read::fill)
                .toList();
        for (Fill fill : fills) {
            assertEquals(
                    again.stream()
                            .filter(f -> f.renamed(fill.id()).equals(fill))
                            .count(),
                    1,
                    fill.toString());
        }
    }

    @Test
    public void aSheetFillsTheColumnsOfARecordAndComesBackTheSame() {
        List<Column> columns = new ArrayList<>();
        for (String name : List.of("loan_no", "label", "crates/kg", "due")) {
            columns.add(new Column(name, name, ScalarType.STRING, null, name.equals("due")));
        }
        List<Line> lines = List.of(
                new Line("LOAN_NO", "loan_no", "", "the lender's"),
                new Line("label", "loan_no, borrower", "cut to 20", ""),
                new Line("kg", "a key for $loan/crate", "", ""),
                new Line("due", "for each crate", "", ""),
                new Line("weight", "kg", "", ""));
        List<MappingSheet.Read> read = MappingSheet.ofRecord(lines, columns, SOURCES);
        assertEquals(
                read.subList(0, 3).stream().map(MappingSheet.Read::fill).toList(),
                List.of(
                        Fill.wire("m1", "loan_no", "$loan/loan_no").remarked("the lender's"),
                        Fill.join("m2", "label", null, "$loan/loan_no", "$loan/borrower")
                                .with(ValueFormat.cut(20)),
                        Fill.key("m3", "crates/kg", "$loan/crate")));
        assertNull(read.get(3).fill());
        assertEquals(read.get(3).problem(), "a column holds one value: what repeats is said where the record is made");
        assertEquals(read.get(4).problem(), "“weight” is no column of this record: add the column first");

        List<Fill> fills =
                read.subList(0, 3).stream().map(MappingSheet.Read::fill).toList();
        List<Line> written = MappingSheet.ofRecord(fills, columns);
        assertEquals(written.get(3), new Line("due", "", "", "required"));
        List<Fill> again = MappingSheet.ofRecord(written.subList(0, 3), columns, SOURCES).stream()
                .map(MappingSheet.Read::fill)
                .toList();
        assertEquals(again, fills);
    }
}
