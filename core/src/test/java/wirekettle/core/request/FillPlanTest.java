package wirekettle.core.request;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Message;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.fill.MessageStyle;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.ValueFormat;

public class FillPlanTest {
    private static final String NS = "{urn:halewick:register:1}";
    private final Contract register = World.register();
    private final Message request = register.operations().get(0).operation().input();
    private final Expressions expressions = new Expressions();

    private static String field(String name) {
        return "/" + NS + "LookUpInstitution/" + NS + name;
    }

    private static List<Fill> fills(Fill... more) {
        List<Fill> fills = new ArrayList<>(List.of(
                Fill.wire("a", field("registrationNumber"), "$loan/no"),
                Fill.constant("b", field("requestedBy"), "HALEWICK")));
        fills.addAll(List.of(more));
        return fills;
    }

    private FillPlan plan(List<Fill> fills) {
        return FillPlan.compile(register, request, null, fills, Set.of("loan", "run"), expressions);
    }

    private static Scope loan(String... pairs) {
        return Scope.empty().with("loan", World.record("loan", pairs));
    }

    @Test
    public void wiresConstantsExpressionsAndFormatsMakeAValidMessageInSchemaOrder() {
        ByteOut out = new ByteOut();
        FillPlan plan = plan(fills(
                Fill.constant("e", field("purpose"), "loan"),
                Fill.wire("c", field("insuredValue"), "$loan/value").with(ValueFormat.number(",", null)),
                Fill.wire("d", field("collectOn"), "$loan/day").with(ValueFormat.date("dd.MM.yyyy")),
                Fill.expression("f", field("loanReference"), "concat($loan/no, '/', string-length($loan/no))")));
        assertEquals(plan.designProblems(), List.of());
        assertEquals(plan.write(loan("no", "RG-10400", "value", "96,5", "day", "04.12.2026"), out), List.of());
        String xml = new String(out.bytes(), StandardCharsets.UTF_8);
        assertEquals(register.check().problems(out.bytes()), List.of(), xml);
        assertTrue(xml.contains("<n1:loanReference>RG-10400/8</n1:loanReference><n1:insuredValue>96.5</"), xml);
        assertTrue(xml.contains("<n1:collectOn>2026-12-04</"), xml);
    }

    @DataProvider
    public Object[][] bad() {
        return new Object[][] {
            {Fill.wire("a", field("registrationNumber"), "$loan/no"), "", "empty", "a", ""},
            {Fill.wire("a", field("registrationNumber"), "$loan/no"), "RG-10437-WEST", "invalid", "a", "RG-10437-WEST"},
            {Fill.wire("c", field("insuredValue"), "$loan/no"), "96,5", "invalid", "c", "96,5"},
            {
                Fill.wire("c", field("insuredValue"), "$loan/no").with(ValueFormat.number(",", null)),
                "x",
                "conversion",
                "c",
                "x"
            },
            {
                Fill.wire("d", field("collectOn"), "$loan/no").with(ValueFormat.date("dd.MM.yyyy")),
                "30.02.2026",
                "conversion",
                "d",
                "30.02.2026"
            },
            {Fill.wire("p", field("purpose"), "$loan/no"), "gift", "invalid", "p", "gift"},
            {Fill.expression("x", field("insuredValue"), "xs:decimal($loan/no)"), "x", "expression", "x", ""},
            {Fill.wire("l", field("loanReference"), "$loan/no"), "a\u0001b", "invalid", "l", "a\u0001b"},
        };
    }

    @Test(dataProvider = "bad")
    public void aProblemNamesFieldValueAndFill(Fill fill, String value, String code, String blame, String said) {
        List<Fill> fills = new ArrayList<>(List.of(
                Fill.constant("n", field("registrationNumber"), "RG-10400"),
                Fill.constant("b", field("requestedBy"), "HALEWICK")));
        fills.removeIf(f -> f.target().equals(fill.target()));
        fills.add(fill);
        List<MappingProblem> problems = plan(fills).write(loan("no", value), new ByteOut());
        assertEquals(problems.size(), 1, problems.toString());
        assertEquals(problems.get(0).code(), code);
        assertEquals(problems.get(0).fillId(), blame);
        assertEquals(problems.get(0).value(), said);
        assertEquals(problems.get(0).field(), fill.target());
    }

    @Test
    public void anUnfilledRequiredFieldIsSaidBeforeAnyRecord() {
        FillPlan plan = plan(List.of(Fill.wire("a", field("registrationNumber"), "$loan/no")));
        assertEquals(plan.designProblems().size(), 1);
        assertEquals(plan.designProblems().get(0).shortField(), "requestedBy");
    }

    @Test
    public void aFillThatDoesNotFitIsADesignProblemAndNeverAnException() {
        FillPlan plan = plan(fills(
                Fill.wire("u", field("loanReference"), "$crate/no"),
                Fill.expression("v", field("insuredValue"), "1 +"),
                Fill.wire("w", field("gone"), "$loan/no")));
        assertEquals(
                plan.designProblems().stream()
                        .map(MappingProblem::fillId)
                        .sorted()
                        .toList(),
                List.of("u", "v", "w"));
    }

    @Test
    public void anEmptyOptionalFieldIsLeftOut() {
        ByteOut out = new ByteOut();
        plan(fills(Fill.wire("l", field("loanReference"), "$loan/ref"))).write(loan("no", "RG-10400", "ref", ""), out);
        assertFalse(new String(out.bytes(), StandardCharsets.UTF_8).contains("loanReference"));
    }

    @Test
    public void aRepeatWritesOneElementForEachNodeAndAttributesAndEscapesToo() {
        Contract kinds = World.contract(World.resource("crate-kinds.wsdl"));
        String root = "/{urn:halewick:kinds}DescribeCrate";
        String k = "/{urn:halewick:kinds}";
        Message message = kinds.operation(null, null, "DescribeCrate")
                .orElseThrow()
                .operation()
                .input();
        Node loan = Node.build(Name.of("loan"))
                .add(World.record("piece", "name", "left & <right>", "inner", "x"))
                .add(World.record("piece", "name", "\"two\"", "inner", ""))
                .done();
        List<Fill> fills = List.of(
                Fill.constant("1", root + "/@by", "ada"),
                Fill.constant("2", root + k + "length", "12.5"),
                Fill.constant("3", root + k + "width", "7"),
                Fill.constant("9", root + k + "weight/@unit", "kg"),
                Fill.constant("4", root + k + "fragile", "true"),
                Fill.repeat("5", root + k + "content", "$loan/piece", "piece"),
                Fill.wire("6", root + k + "content" + k + "label", "$piece/name"),
                Fill.constant("7", root + k + "frame~{urn:halewick:kinds}Travelling" + k + "code", "AB-12345"),
                Fill.constant("w", root + k + "frame~{urn:halewick:kinds}Travelling" + k + "wheels", "4"),
                Fill.constant("8", root + k + "from", "late"));
        FillPlan plan = FillPlan.compile(kinds, message, null, fills, Set.of("loan"), expressions);
        ByteOut out = new ByteOut();
        assertEquals(plan.designProblems(), List.of());
        assertEquals(plan.write(Scope.empty().with("loan", loan), out), List.of());
        String xml = new String(out.bytes(), StandardCharsets.UTF_8);
        assertTrue(xml.contains("by=\"ada\""), xml);
        assertTrue(xml.contains("<n1:label>left &amp; &lt;right&gt;</n1:label></n1:content><n1:content>"), xml);
        assertTrue(xml.contains("xsi:nil=\"true\""), xml);
        assertTrue(xml.contains("<n1:frame xsi:type=\"n1:Travelling\"><n1:code>"), xml);
        assertEquals(kinds.check().problems(out.bytes()), List.of(), xml);
    }

    private String written(MessageStyle style, Fill... fills) {
        Message request = World.register()
                .operation(null, null, "LookUpInstitution")
                .orElseThrow()
                .operation()
                .input();
        ByteOut out = new ByteOut();
        FillPlan.compile(
                        World.register(),
                        request,
                        null,
                        List.of(fills),
                        Set.of("loan"),
                        MappingContext.of(expressions).with(style))
                .write(loan("no", "RG-10400", "ref", ""), out);
        return new String(out.bytes(), StandardCharsets.UTF_8);
    }

    @Test
    public void anEndpointMayWantEmptyFieldsSentAndTheOrderOfTheFills() {
        Fill purpose = Fill.constant("p", field("purpose"), "loan");
        Fill number = Fill.wire("n", field("registrationNumber"), "$loan/no");
        Fill by = Fill.constant("b", field("requestedBy"), "HALEWICK");
        Fill reference = Fill.wire("r", field("loanReference"), "$loan/ref");
        String sent = written(new MessageStyle(null, true, false, false), purpose, number, by, reference);
        assertTrue(sent.contains("</n1:requestedBy><n1:loanReference></n1:loanReference><n1:purpose>"), sent);
        String ordered = written(new MessageStyle(null, false, false, true), purpose, number, by, reference);
        assertTrue(ordered.indexOf("purpose>") < ordered.indexOf("registrationNumber>"), ordered);
        assertFalse(ordered.contains("loanReference"), ordered);
    }

    @Test
    public void aRequiredChoiceWithoutABranchIsSaidAtDesignTimeAndTwoBranchesAtRunTime() {
        Contract vanline = World.vanline();
        Message request = vanline.operation(null, null, "BookTransport")
                .orElseThrow()
                .operation()
                .input();
        String v = "/{urn:halewick:vanline:2}";
        FillPlan none = FillPlan.compile(vanline, request, null, List.of(), Set.of("loan"), expressions);
        assertTrue(
                none.designProblems().stream()
                        .anyMatch(p -> p.code().equals("choice")
                                && p.message().contains("needs one of deliverOn, deliverWithinDays")),
                none.designProblems().toString());
        FillPlan both = FillPlan.compile(
                vanline,
                request,
                null,
                List.of(
                        Fill.constant("a", v + "BookTransport" + v + "deliverOn", "2026-12-11"),
                        Fill.wire("b", v + "BookTransport" + v + "deliverWithinDays", "$loan/days")),
                Set.of("loan"),
                expressions);
        assertTrue(both.designProblems().stream().noneMatch(p -> p.code().equals("choice")));
        List<String> with = both.write(loan("days", "3"), new ByteOut()).stream()
                .map(MappingProblem::code)
                .toList();
        assertTrue(with.contains("choice"), with.toString());
        List<String> without = both.write(loan("days", ""), new ByteOut()).stream()
                .map(MappingProblem::code)
                .toList();
        assertFalse(without.contains("choice"), without.toString());
    }

    @Test
    public void aNameInTwoBranchesOfAChoiceIsNoConflictByItself() {
        String wsdl = new String(World.documents("vanline").files().get("VanlineDesk.wsdl"), StandardCharsets.UTF_8)
                .replace(
                        "<xs:element name=\"deliverOn\" type=\"xs:date\"/>",
                        "<xs:sequence><xs:element name=\"slot\" type=\"xs:int\"/>"
                                + "<xs:element name=\"deliverOn\" type=\"xs:date\"/></xs:sequence>")
                .replace(
                        "<xs:element name=\"deliverWithinDays\" type=\"xs:positiveInteger\"/>",
                        "<xs:sequence><xs:element name=\"slot\" type=\"xs:int\"/>"
                                + "<xs:element name=\"deliverWithinDays\" type=\"xs:positiveInteger\"/></xs:sequence>");
        Contract vanline = World.contract(World.text("VanlineDesk.wsdl", wsdl));
        Message request = vanline.operation(null, null, "BookTransport")
                .orElseThrow()
                .operation()
                .input();
        String v = "/{urn:halewick:vanline:2}";
        FillPlan plan = FillPlan.compile(
                vanline,
                request,
                null,
                List.of(
                        Fill.constant("a", v + "BookTransport" + v + "slot", "4"),
                        Fill.constant("b", v + "BookTransport" + v + "deliverWithinDays", "3")),
                Set.of("loan"),
                expressions);
        List<String> codes = plan.write(loan("no", "1"), new ByteOut()).stream()
                .map(MappingProblem::code)
                .toList();
        assertFalse(codes.contains("choice"), codes.toString());
    }
}
