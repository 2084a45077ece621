package wirekettle.core.request;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.EmbeddedDocument;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.schema.LearnedShape;
import wirekettle.core.value.CodeTable;
import wirekettle.core.value.CodeTable.Entry;
import wirekettle.core.value.DocumentForm;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.ValueFormat;

/** Every kind of fill, the JDK's validator judging each message built. */
public class FillKindsTest {
    private static final String C = "{urn:halewick:consignment}";
    private static final String ROOT = "/" + C + "Consign";
    private final Contract contract = World.contract(World.resource("consignment.wsdl"));
    private final Message request = contract.operations().get(0).operation().input();
    private final Expressions expressions = new Expressions();

    private final CodeTable countries = new CodeTable(
            "countries",
            null,
            List.of(
                    new Entry("Norrland", "NO", null, null),
                    new Entry("Sydland", "SE", null, "2026-06-30"),
                    new Entry("Sydland", "DK", "2026-07-01", null)));

    private static String at(String... names) {
        return ROOT
                + String.join(
                        "",
                        Arrays.stream(names)
                                .map(n -> (n.startsWith("@") ? "/" : "/" + C) + n)
                                .toList());
    }

    private static Node xml(String text) {
        return World.tree(text);
    }

    private static Scope scope(String loan) {
        return Scope.of(name -> "s<cret of " + name)
                .with("run", xml("<run><id>7</id><record>3</record><started>2026-08-01T10:00:00Z</started></run>"))
                .with("loan", xml(loan));
    }

    private FillPlan plan(List<EmbeddedDocument> documents, Fill... fills) {
        List<Fill> all = new ArrayList<>(List.of(fills));
        Set<String> given = Set.copyOf(all.stream().map(Fill::target).toList());
        for (String needed : List.of("reference", "collectAt")) {
            if (!given.contains(at(needed))) {
                String value = needed.equals("reference") ? "HC-1" : "2026-12-04T10:00:00Z";
                all.add(Fill.constant("needed-" + needed, at(needed), value));
            }
        }
        MappingContext context = MappingContext.of(expressions)
                .with(Map.of("countries", countries))
                .with(documents);
        return FillPlan.compile(contract, request, null, all, Set.of("loan", "run"), context);
    }

    private FillPlan plan(Fill... fills) {
        return plan(List.of(), fills);
    }

    /** Returns the message, which has to be valid. */
    private String message(FillPlan plan, String loan) {
        ByteOut out = new ByteOut();
        assertEquals(plan.designProblems(), List.of());
        assertEquals(plan.write(scope(loan), out), List.of());
        String text = new String(out.bytes(), StandardCharsets.UTF_8);
        assertEquals(contract.check().problems(out.bytes()), List.of(), text);
        return text.replaceAll("</?n1:", "<").replaceAll("<reference>HC-1<reference>|<collectAt>.*?<collectAt>", "");
    }

    private static List<String> problems(FillPlan plan, String loan) {
        List<String> all = new ArrayList<>();
        plan.write(scope(loan), new ByteOut()).forEach(p -> all.add(p.code() + " " + p.fillId() + " " + p.sentence()));
        return all;
    }

    @DataProvider
    public Object[][] values() {
        String f = at("remark");
        Fill town = Fill.wire("a", f, "$loan/town");
        return new Object[][] {
            {Fill.join("a", f, ", ", "$loan/town", "$loan/none", "\"by boat\""), "Öderstad, by boat"},
            {Fill.join("a", f, null, "$loan/town", "$loan/kg"), "Öderstad 96,5"},
            {town.with(ValueFormat.trim().then(ValueFormat.cutBytes(3))), "Öd"},
            {town.with(ValueFormat.of(ValueFormat.Kind.CASE, null, "upper")), "ÖDERSTAD"},
            {town.with(ValueFormat.keep("a-z", "_")), "_derstad"},
            {Fill.wire("a", f, "$loan/no").with(ValueFormat.pad(8, "0", null)), "00000012"},
            {
                Fill.wire("a", f, "$loan/kg")
                        .with(ValueFormat.number(",", null)
                                .then(ValueFormat.rounded(2))
                                .then(ValueFormat.pad(8, "0", "left"))),
                "00096.50"
            },
            {Fill.wire("a", f, "$loan/none").with(new Fill.WhenEmpty(Fill.WhenEmpty.Use.DEFAULT, "nothing")), "nothing"
            },
            {
                Fill.wire("a", f, "$loan/on").with(ValueFormat.zoned("dd.MM.yyyy HH:mm", "+02:00", null, "Z")),
                "2026-12-04T07:30:00Z"
            },
            {Fill.wire("a", f, "$loan/flag").with(ValueFormat.of(ValueFormat.Kind.BOOLEAN, null, "J/N")), "J"},
            {Fill.expression("a", f, "$loan/town || ' ' || upper-case(substring($loan/no, 2))"), "Öderstad 2"},
            {Fill.expression("a", f, "if ($loan/kg = '96,5') then 'yes' else 'no'"), "yes"},
        };
    }

    @Test(dataProvider = "values")
    public void aValueIsMadeAsItsFillSays(Fill fill, String expected) {
        String loan =
                "<loan><town>Öderstad</town><no>12</no><kg>96,5</kg><flag>1</flag><on>04.12.2026 09:30</on></loan>";
        assertTrue(message(plan(fill), loan).contains("<remark>" + expected + "<remark>"), message(plan(fill), loan));
    }

    @Test
    public void aCodeTableKnowsWhichEntriesAreInForce() {
        Fill fill = Fill.wire("a", at("country"), "$loan/land").with(new Fill.LookUp("countries", null));
        Fill dated = Fill.wire("a", at("country"), "$loan/land").with(new Fill.LookUp("countries", "$loan/on"));
        assertTrue(message(plan(fill), "<loan><land>Sydland</land></loan>").contains("<country>DK"), "after July");
        assertTrue(message(plan(dated), "<loan><land>Sydland</land><on>2026-06-30</on></loan>")
                .contains("<country>SE"));
        assertEquals(
                problems(plan(fill), "<loan><land>Elsewhere</land></loan>"),
                List.of("lookup a country: “Elsewhere” has no entry in the code table countries"));
        assertEquals(
                problems(plan(dated), "<loan><land>Sydland</land><on>soon, they say</on></loan>"),
                List.of("lookup a country: “soon, they say” is no day the code table countries could be asked for"));
        Fill missing = Fill.wire("a", at("country"), "$loan/land").with(new Fill.LookUp("gone", null));
        assertTrue(plan(missing).designProblems().get(0).message().contains("“gone” is not there"), "said at design");
        assertTrue(problems(plan(missing), "<loan/>").get(0).startsWith("expression a "), "and at run time");
    }

    @Test
    public void nothingIsLeftOutNilSentEmptyOrRejectedAsTheFillSays() {
        Fill at = Fill.wire("a", at("collectAt"), "$loan/none");
        assertEquals(problems(plan(at), "<loan/>"), List.of(), "nillable and required: nil by itself");
        Fill remark = Fill.wire("r", at("remark"), "$loan/none");
        assertFalse(message(plan(remark), "<loan/>").contains("remark"));
        assertTrue(message(plan(remark.with(new Fill.WhenEmpty(Fill.WhenEmpty.Use.SEND, null))), "<loan/>")
                .contains("<remark><remark>"));
        assertEquals(
                problems(plan(remark.with(new Fill.WhenEmpty(Fill.WhenEmpty.Use.REJECT, null))), "<loan/>"),
                List.of("rejected r remark: has no value for this record, and its fill says to reject it"));
        assertTrue(problems(plan(remark.with(new Fill.WhenEmpty(Fill.WhenEmpty.Use.NIL, null))), "<loan/>")
                .get(0)
                .contains("not nillable"));
        ByteOut out = new ByteOut();
        assertEquals(plan(Fill.nil("n", at("collectAt"))).write(scope("<loan/>"), out), List.of());
        assertTrue(new String(out.bytes(), StandardCharsets.UTF_8).contains("xsi:nil=\"true\""));
        assertEquals(contract.check().problems(out.bytes()), List.of());
        assertEquals(plan(Fill.nil("n", at("remark"))).designProblems().size(), 1);
    }

    private static final String CRATES =
            "<loan><crate><no>C3</no><kg>7</kg><object>vase</object><object>bowl</object></crate>"
                    + "<crate><no>C1</no><kg>12</kg></crate><crate><no>C2</no><kg>0</kg><object>mask</object></crate>"
                    + "<spare><no>S1</no></spare></loan>";

    @Test
    public void aRepeatHasItsOwnFilterOrderAndNestedRepeats() {
        Fill crates = Fill.repeat("r", at("crate"), "$loan/crate", "crate")
                .with(new Fill.Each("xs:decimal($crate/kg) gt 0", List.of(new Fill.By("$crate/kg", true)), null));
        String text = message(
                plan(
                        crates,
                        Fill.wire("n", at("crate", "no"), "$crate/no"),
                        Fill.wire("k", at("crate", "kg"), "$crate/kg"),
                        Fill.repeat("o", at("crate", "object"), "$crate/object", "object")),
                CRATES);
        assertTrue(
                text.contains("<crate><no>C1<no><kg>12<kg><crate><crate><no>C3<no><kg>7<kg>"
                        + "<object>vase<object><object>bowl<object><crate><Consign>"),
                text);
        Fill broken = Fill.repeat("r", at("crate"), "$loan/crate", "crate")
                .with(new Fill.Each("xs:decimal($crate/no) gt 0", null, null));
        assertTrue(problems(plan(broken), CRATES).get(0).startsWith("expression r crate: "), "only at run time");
    }

    @Test
    public void severalSourcesGoIntoOneListAndTheirNumberIsHeldAgainstTheSchema() {
        String text = message(
                plan(
                        Fill.repeat("r", at("crate"), "$loan/crate", "crate"),
                        Fill.wire("n", at("crate", "no"), "$crate/no"),
                        Fill.repeat("s", at("crate#2"), "$loan/spare", "spare"),
                        Fill.wire("m", at("crate#2", "no"), "$spare/no")),
                CRATES);
        assertTrue(text.contains("<no>C2<no><crate><crate><no>S1<no><crate>"), text);
        Fill tags = Fill.repeat("t", at("tag"), "$loan/crate/no", "tag");
        assertTrue(message(plan(tags), CRATES).contains("<tag>C3<tag><tag>C1<tag><tag>C2<tag>"));
        assertEquals(
                problems(plan(tags, Fill.repeat("u", at("tag#2"), "$loan/spare/no", "tag")), CRATES),
                List.of("occurs t tag: stands 4 times, at most 3"));
    }

    @Test
    public void flatRowsAreGroupedIntoHeadersWithLines() {
        Fill groups = Fill.repeat("r", at("crate"), "$loan/row", "group")
                .with(new Fill.Each(null, List.of(new Fill.By("$group/crate", null)), List.of("crate")));
        String text = message(
                plan(
                        groups,
                        Fill.wire("n", at("crate", "no"), "$group/crate"),
                        Fill.repeat("o", at("crate", "object"), "$group/line/object", "object")),
                "<loan><row><crate>B</crate><object>vase</object></row><row><crate>A</crate><object>mask</object></row>"
                        + "<row><crate>B</crate><object>bowl</object></row></loan>");
        assertTrue(
                text.contains("<no>A<no><object>mask<object><crate><crate><no>B<no><object>vase<object><object>bowl<"),
                text);
    }

    @Test
    public void aTypeIsDecidedForEachRecordByACondition() {
        String permit = at("paper~" + C + "Permit");
        String report = at("paper~" + C + "Report");
        FillPlan plan = plan(
                Fill.pick("p", permit).onlyWhen("$loan/kind = 'permit'"),
                Fill.wire("a", permit + "/" + C + "number", "$loan/no"),
                Fill.wire("b", permit + "/" + C + "validUntil", "$loan/until"),
                Fill.pick("q", report).onlyWhen("$loan/kind = 'report'"),
                Fill.wire("c", report + "/" + C + "number", "$loan/no"),
                Fill.constant("d", report + "/" + C + "condition", "good"));
        String first = message(plan, "<loan><kind>permit</kind><no>P1</no><until>2027-01-01</until></loan>");
        assertTrue(first.contains(":type=\"n1:Permit\"><number>P1<number><validUntil>2027-01-01"), first);
        String second = message(plan, "<loan><kind>report</kind><no>R1</no></loan>");
        assertTrue(second.contains(":type=\"n1:Report\"><number>R1<number><condition>good"), second);
        assertFalse(message(plan, "<loan><kind>none</kind></loan>").contains("paper"));
        assertTrue(
                plan(Fill.pick("p", permit), Fill.pick("q", report)).designProblems().stream()
                        .anyMatch(p -> p.message().contains("give one a condition")),
                "two without a condition");
    }

    @Test
    public void aSubstituteAndABranchOfAChoiceAreDecidedByConditionsToo() {
        FillPlan plan = plan(
                Fill.wire("a", at("sender"), "$loan/name").onlyWhen("$loan/way = 'out'"),
                Fill.wire("b", at("receiver"), "$loan/name").onlyWhen("$loan/way = 'back'"),
                Fill.constant("c", at("byRoad"), "van").onlyWhen("$loan/way = 'out'"),
                Fill.pick("d", at("bySea")).onlyWhen("$loan/way = 'back'"),
                Fill.constant("e", at("bySea", "ship"), "Halewick II"));
        String out = message(plan, "<loan><way>out</way><name>Quayside</name></loan>");
        assertTrue(out.contains("<sender>Quayside<sender><byRoad>van<byRoad><Consign>"), out);
        String back = message(plan, "<loan><way>back</way><name>Quayside</name></loan>");
        assertTrue(back.contains("<receiver>Quayside<receiver><bySea><ship>Halewick II<ship><bySea>"), back);
        String neither = message(plan, "<loan><way>none</way><name>Quayside</name></loan>");
        assertFalse(neither.matches(".*(sender|receiver|byRoad|bySea).*"), neither);
        Fill broken = Fill.constant("c", at("byRoad"), "van").onlyWhen("xs:integer($loan/way) gt 1");
        assertTrue(problems(plan(broken), "<loan><way>out</way></loan>")
                .get(0)
                .startsWith("expression c byRoad: its condition"));
        assertTrue(plan(Fill.constant("c", at("byRoad"), "x").onlyWhen("1 +"))
                        .designProblems()
                        .size()
                > 0);
    }

    @Test
    public void aWholeSubtreeIsCopiedFieldByFieldAndOwnFillsWin() {
        String text = message(
                plan(Fill.copy("c", at("from"), "$loan/sender"), Fill.constant("t", at("from", "town"), "Halewick")),
                "<loan><sender country='NO'><street>Quay 4</street><town>elsewhere</town><line>a</line><line>b</line>"
                        + "<other>x</other></sender></loan>");
        assertTrue(
                text.contains(
                        "<from country=\"NO\"><street>Quay 4<street><town>Halewick<town><line>a<line><line>b<line><from>"),
                text);
        assertEquals(
                problems(
                        plan(Fill.copy("c", at("from"), "$loan/sender")),
                        "<loan><sender><town>x</town></sender></loan>"),
                List.of("empty c street: is required and the record has no value for it"));
        assertFalse(message(plan(Fill.copy("c", at("from"), "$loan/sender")), "<loan/>")
                .contains("from"));
    }

    @Test
    public void aHeaderIsFilledFromSecretsAndRecordsEscaped() {
        MappingContext context = MappingContext.of(expressions);
        String head = "/" + C + "Credentials/" + C;
        FillPlan plan = FillPlan.compile(
                contract,
                request,
                SoapVersion.SOAP_11,
                List.of(
                        Fill.constant("r", at("reference"), "1"),
                        Fill.nil("n", at("collectAt")),
                        Fill.wire("d", head + "desk", "$loan/desk"),
                        Fill.secret("s", head + "phrase", "desk phrase")),
                Set.of("loan"),
                context);
        ByteOut out = new ByteOut();
        assertEquals(plan.write(scope("<loan><desk>4</desk></loan>"), out), List.of());
        String text = new String(out.bytes(), StandardCharsets.UTF_8);
        assertTrue(text.contains("desk>4</"), text);
        assertTrue(text.contains("phrase>s&lt;cret of desk phrase</"), text);
        Scope none = Scope.empty().with("loan", xml("<loan><desk>4</desk></loan>"));
        assertTrue(plan.write(none, new ByteOut()).get(0).message().contains("no secret “desk phrase”"), "named");
    }

    private static EmbeddedDocument manifest(String path, DocumentForm form, List<String> wraps) {
        LearnedShape shape = new LearnedShape();
        shape.learn(xml("<manifest xmlns='urn:halewick:manifest' version='1'><loan>x</loan><item><kg>1.5</kg></item>"
                + "<item><kg>2</kg></item></manifest>"));
        return new EmbeddedDocument("request", path, form, wraps, shape.schemas(), shape.root(), true);
    }

    @DataProvider
    public Object[][] packings() {
        return new Object[][] {
            {"manifest", DocumentForm.XML, List.of()},
            {"manifest", DocumentForm.XML, List.of("cdata")},
            {"packed", DocumentForm.XML, List.of("base64")},
            {"packed", DocumentForm.XML, List.of("gzip", "base64")},
            {"manifest", DocumentForm.JSON, List.of()},
            {"packed", DocumentForm.JSON, List.of("gzip", "base64")},
        };
    }

    @Test(dataProvider = "packings")
    public void aDocumentInsideAFieldIsFilledLikeAnyOther(String field, DocumentForm form, List<String> wraps)
            throws Exception {
        EmbeddedDocument document = manifest(at(field), form, wraps);
        String m = at(field) + "/{urn:halewick:manifest}manifest";
        String item = m + "/{urn:halewick:manifest}item";
        FillPlan plan = plan(
                List.of(document),
                Fill.constant("v", m + "/@version", "1"),
                Fill.wire("l", m + "/{urn:halewick:manifest}loan", "$loan/no"),
                Fill.repeat("i", item, "$loan/crate", "crate"),
                Fill.wire("k", item + "/{urn:halewick:manifest}kg", "$crate/kg"));
        ByteOut out = new ByteOut();
        String loan = "<loan><no>A &amp; ]]&gt; B</no><crate><kg>1.5</kg></crate><crate><kg>2</kg></crate></loan>";
        assertEquals(plan.designProblems(), List.of());
        assertEquals(plan.write(scope(loan), out), List.of());
        assertEquals(contract.check().problems(out.bytes()), List.of());
        String carried = xml(new String(out.bytes(), StandardCharsets.UTF_8)).textOf(field);
        Node inside = EmbeddedDocument.read(carried, form, wraps, Name.of("manifest"));
        assertEquals(inside.textOf("loan"), "A & ]]> B");
        assertEquals(
                inside.children().stream()
                        .filter(n -> n.name().local().equals("item"))
                        .count(),
                2);
        if (form == DocumentForm.XML && wraps.isEmpty()) {
            assertEquals(document.shape().check().problems(carried.getBytes(StandardCharsets.UTF_8)), List.of());
        }
        if (form == DocumentForm.JSON) {
            assertEquals(inside.child("item").textOf("kg"), "1.5");
        }
        List<String> wrong = problems(plan, "<loan><no>A</no><crate><kg>much</kg></crate></loan>");
        assertEquals(wrong, List.of("invalid k kg: “much” no decimal"));
        assertFalse(message(plan, "<loan/>").contains(field), "a constant alone is no reason to send it");
    }

    @Test
    public void anyElementTakesADocumentAsItIs() {
        EmbeddedDocument document = manifest(at("extra") + "/any", DocumentForm.XML, List.of());
        String m = at("extra") + "/any/{urn:halewick:manifest}manifest";
        String text = message(
                plan(
                        List.of(document),
                        Fill.constant("v", m + "/@version", "1"),
                        Fill.wire("l", m + "/{urn:halewick:manifest}loan", "$loan/no"),
                        Fill.constant("k", m + "/{urn:halewick:manifest}item/{urn:halewick:manifest}kg", "2")),
                "<loan><no>HC-9</no></loan>");
        assertTrue(text.contains("<extra><manifest xmlns:n1=\"urn:halewick:manifest\" version=\"1\"><loan>HC-9"), text);
    }
}
