package wirekettle.core.request;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.assist.Everything;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/**
 * What strangers' services showed: empty values that repeat, structures that are nil, anything at all, several lists.
 */
public class OddMessagesTest {
    private static final String NS = "{urn:halewick:odd}";
    private static final String ASK = "/" + NS + "Ask/";

    private Contract contract;

    @BeforeClass
    public void read() throws Exception {
        String wsdl =
                "<definitions xmlns='http://schemas.xmlsoap.org/wsdl/' name='Odd' targetNamespace='urn:halewick:odd'"
                        + " xmlns:t='urn:halewick:odd' xmlns:soap='http://schemas.xmlsoap.org/wsdl/soap/'><types>"
                        + "<xs:schema xmlns:xs='http://www.w3.org/2001/XMLSchema' targetNamespace='urn:halewick:odd'"
                        + " elementFormDefault='qualified'><xs:element name='Ask'><xs:complexType><xs:sequence>"
                        + "<xs:element name='note' type='xs:string' minOccurs='0' maxOccurs='unbounded'/>"
                        + "<xs:element name='weight' type='xs:decimal' minOccurs='0' maxOccurs='unbounded'/>"
                        + "<xs:element name='lender' nillable='true'><xs:complexType><xs:sequence>"
                        + "<xs:element name='name' type='xs:string'/><xs:element name='city' type='xs:string'/>"
                        + "</xs:sequence></xs:complexType></xs:element></xs:sequence></xs:complexType></xs:element>"
                        + "<xs:element name='Tell'><xs:complexType><xs:sequence><xs:element name='header'><xs:complexType>"
                        + "<xs:sequence><xs:element name='stamp' minOccurs='0' maxOccurs='unbounded'><xs:complexType><xs:sequence>"
                        + "<xs:element name='a' type='xs:string'/><xs:element name='b' type='xs:string'/>"
                        + "<xs:element name='c' type='xs:string'/></xs:sequence></xs:complexType></xs:element></xs:sequence>"
                        + "</xs:complexType></xs:element>"
                        + "<xs:element name='warning' type='xs:string' minOccurs='0' maxOccurs='unbounded'/>"
                        + "<xs:element name='crate' minOccurs='0' maxOccurs='unbounded'><xs:complexType><xs:sequence>"
                        + "<xs:element name='no' type='xs:string'/><xs:element name='object' type='xs:string' minOccurs='0'"
                        + " maxOccurs='unbounded'/></xs:sequence></xs:complexType></xs:element>"
                        + "<xs:any minOccurs='0' maxOccurs='unbounded' processContents='lax' namespace='##other'/>"
                        + "</xs:sequence></xs:complexType></xs:element></xs:schema></types>"
                        + "<message name='In'><part name='p' element='t:Ask'/></message><message name='Out'><part name='p'"
                        + " element='t:Tell'/></message><portType name='P'><operation name='Ask'><input message='t:In'/>"
                        + "<output message='t:Out'/></operation></portType><binding name='B' type='t:P'><soap:binding"
                        + " transport='http://schemas.xmlsoap.org/soap/http'/><operation name='Ask'><soap:operation soapAction=''/>"
                        + "<input><soap:body use='literal'/></input><output><soap:body use='literal'/></output></operation></binding>"
                        + "<service name='S'><port name='P' binding='t:B'><soap:address location='http://odd.invalid/'/></port>"
                        + "</service></definitions>";
        contract =
                ContractReader.read(new GivenDocuments().add("odd.wsdl", wsdl.getBytes(StandardCharsets.UTF_8)), true);
    }

    private String written(List<Fill> fills, Scope scope, List<MappingProblem> problems) {
        FillPlan plan = FillPlan.compile(
                contract,
                contract.operations().get(0).operation().input(),
                null,
                fills,
                Set.of("loan", "note", "weight"),
                new Expressions());
        assertEquals(plan.designProblems(), List.of());
        ByteOut out = new ByteOut();
        problems.addAll(plan.write(scope, out));
        return new String(out.bytes(), StandardCharsets.UTF_8);
    }

    private static Scope loan(String... notes) {
        Node.Builder loan = Node.build(Name.of("loan"));
        for (String note : notes) {
            loan.add("note", note);
        }
        return Scope.empty().with("loan", loan.done());
    }

    @DataProvider
    public Object[][] empties() {
        return new Object[][] {
            {null, "weight>5</|weight>7</", 0},
            {new Fill.WhenEmpty(Fill.WhenEmpty.Use.DEFAULT, "9"), "weight>5</|weight>9</|weight>7</", 0},
            {new Fill.WhenEmpty(Fill.WhenEmpty.Use.REJECT, null), "weight>5</", 1},
        };
    }

    @Test(dataProvider = "empties")
    public void anEmptyValueLeavesAnOptionalElementOutAlsoWhereItRepeats(
            Fill.WhenEmpty whenEmpty, String expected, int wrong) {
        Fill repeat = Fill.repeat("r", ASK + NS + "weight", "$loan/note", "weight");
        List<Fill> fills = List.of(whenEmpty == null ? repeat : repeat.with(whenEmpty));
        List<MappingProblem> problems = new ArrayList<>();
        String text = written(fills, loan("5", "", "7"), problems);
        assertEquals(problems.size(), wrong, problems.toString());
        for (String part : expected.split("\\|")) {
            assertTrue(text.contains(part), text);
        }
        if (wrong == 0) {
            assertEquals(contract.check().problems(text.getBytes(StandardCharsets.UTF_8)), List.of(), text);
        }
    }

    @Test
    public void aNillableStructureIsNilWhereItHasNothingToHold() {
        List<Fill> fills = List.of(
                Fill.wire("n", ASK + NS + "lender/" + NS + "name", "$loan/name"),
                Fill.wire("c", ASK + NS + "lender/" + NS + "city", "$loan/city"));
        List<MappingProblem> problems = new ArrayList<>();
        String nil = written(fills, loan(), problems);
        assertEquals(problems, List.of());
        assertTrue(nil.contains("lender xmlns:xsi") && nil.contains("nil=\"true\""), nil);
        assertEquals(contract.check().problems(nil.getBytes(StandardCharsets.UTF_8)), List.of(), nil);
        String always = written(List.of(Fill.nil("x", ASK + NS + "lender")), loan(), problems);
        assertEquals(problems, List.of());
        assertEquals(contract.check().problems(always.getBytes(StandardCharsets.UTF_8)), List.of(), always);
    }

    private SheetField tell() {
        return contract.sheet(
                contract.operations().get(0).operation().output().body().get(0));
    }

    @Test
    public void everythingTakesTheListAKeptReplyHoldsElseTheLeastDeep() {
        assertEquals(Everything.of(tell(), "reply", null, null).rowPath(), "$reply/crate");
        Node kept = Node.build(Name.of("Tell"))
                .add(Node.build(Name.of("header"))
                        .add(Node.build(Name.of("stamp")).add("a", "1").done())
                        .done())
                .done();
        assertEquals(Everything.of(tell(), "reply", null, kept).rowPath(), "$reply/header/stamp");
        Node both = Node.build(Name.of("Tell"))
                .add("warning", "w")
                .add(Node.build(Name.of("crate")).add("no", "1").done())
                .add(Node.build(Name.of("crate")).add("no", "2").done())
                .done();
        assertEquals(Everything.of(tell(), "reply", null, both).rowPath(), "$reply/crate");
    }

    @Test
    public void whatStandsWhereAnythingMayIsShown() throws Exception {
        Contract.Offered offered = contract.operations().get(0);
        String reply = "<Tell xmlns='urn:halewick:odd'><header/><extra xmlns='urn:other'><deep>7</deep></extra></Tell>";
        ConstantFills.Result read =
                ConstantFills.of(contract, offered.operation().output(), null, reply);
        assertEquals(read.problems(), List.of());
        assertEquals(read.any().size(), 1);
        assertTrue(
                read.any().get(0).constant().contains("<deep>7</deep>")
                        || read.any().get(0).constant().contains("deep>7<"),
                read.any().toString());
    }
}
