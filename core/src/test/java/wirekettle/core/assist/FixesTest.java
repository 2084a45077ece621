package wirekettle.core.assist;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;

import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.value.ValueFormat;

public class FixesTest {
    private static final String C = "{urn:halewick:consignment}";
    private static final Contract CONTRACT = World.contract(World.text("fixes.wsdl", wsdl()));

    private static String wsdl() {
        return """
                <definitions name='F' targetNamespace='urn:f' xmlns='http://schemas.xmlsoap.org/wsdl/' xmlns:t='urn:f'
                    xmlns:soap='http://schemas.xmlsoap.org/wsdl/soap/' xmlns:xs='http://www.w3.org/2001/XMLSchema'>
                  <types><xs:schema targetNamespace='urn:f' elementFormDefault='qualified'>
                    <xs:element name='F'><xs:complexType><xs:sequence>
                      <xs:element name='number' type='xs:decimal'/><xs:element name='day' type='xs:date'/>
                      <xs:element name='at' type='xs:dateTime'/><xs:element name='flag' type='xs:boolean'/>
                      <xs:element name='money'><xs:simpleType><xs:restriction base='xs:decimal'><xs:fractionDigits value='2'/></xs:restriction></xs:simpleType></xs:element>
                      <xs:element name='short'><xs:simpleType><xs:restriction base='xs:string'><xs:maxLength value='5'/></xs:restriction></xs:simpleType></xs:element>
                      <xs:element name='padded'><xs:simpleType><xs:restriction base='xs:string'><xs:pattern value='\\d{6}'/><xs:length value='6'/></xs:restriction></xs:simpleType></xs:element>
                      <xs:element name='code'><xs:simpleType><xs:restriction base='xs:string'><xs:enumeration value='NO'/><xs:enumeration value='SE'/></xs:restriction></xs:simpleType></xs:element>
                    </xs:sequence></xs:complexType></xs:element></xs:schema></types>
                  <message name='In'><part name='p' element='t:F'/></message>
                  <portType name='P'><operation name='F'><input message='t:In'/></operation></portType>
                  <binding name='B' type='t:P'><soap:binding transport='http://schemas.xmlsoap.org/soap/http'/>
                    <operation name='F'><soap:operation soapAction=''/><input><soap:body use='literal'/></input></operation></binding>
                  <service name='S'><port name='L' binding='t:B'><soap:address location='http://f.invalid'/></port></service>
                </definitions>
                """;
    }

    private static ValueRule rule(String field) {
        var root = CONTRACT.operations().get(0).operation().input().body().get(0);
        return CONTRACT.sheet(root).find("/{urn:f}F/{urn:f}" + field).rule();
    }

    @DataProvider
    public Object[][] misfits() {
        return new Object[][] {
            {"number", List.of("96,5", "1,25"), "read 96,5 as 96.5", 2},
            {"number", List.of("1.234,5", "7.000,25"), "read 1.234,5 as 1234.5", 2},
            {"number", List.of("1,234.5", "2,000.25"), "read 1,234.5 as 1234.5", 2},
            {"number", List.of("96,5", "heavy"), "read 96,5 as 96.5", 1},
            {"day", List.of("04.12.2026", "31.01.2027"), "read dd.MM.yyyy", 2},
            {"day", List.of("12/31/2026", "01/02/2026"), "read MM/dd/yyyy", 2},
            {"day", List.of("2026-12-04T10:00:00Z"), "write the day alone", 1},
            {"at", List.of("2026-12-04 10:00:00"), "read yyyy-MM-dd HH:mm:ss", 1},
            {"flag", List.of("yes", "no", "ja"), "read yes as true", 3},
            {"money", List.of("12.345", "1.999"), "round to 2 decimals", 2},
            {"short", List.of("Halewick"), "cut to 5 characters", 1},
            {"padded", List.of("42", "4711"), "fill up to 6 with zeros", 2},
            {"code", List.of("no", "se"), "write it in capitals", 2},
            {"code", List.of("Norway"), null, 0},
        };
    }

    @Test(dataProvider = "misfits")
    public void theFixThatMendsMostIsOffered(String field, List<String> values, String label, int mends)
            throws Exception {
        Fixes.Fix fix = Fixes.best(values, rule(field), null, null);
        if (label == null) {
            assertNull(fix);
            return;
        }
        assertEquals(fix.label(), label);
        assertEquals(fix.mends(), mends);
        assertEquals(fix.of(), values.size());
        assertNull(rule(field).problem(fix.format().compile().convert(values.get(0))));
    }

    @Test
    public void aFixIsAddedToTheStepsThereAre() throws Exception {
        Fixes.Fix fix = Fixes.best(List.of("  Halewick "), rule("short"), ValueFormat.trim(), null);
        assertEquals(fix.format().label(), "trim, cut to 5");
        assertEquals(fix.format().compile().convert("  Halewick "), "Halew");
    }

    @Test
    public void misfitsAreTheValuesBeforeTheirFormatAlsoInsideRepeats() {
        Contract consignment = World.contract(World.resource("consignment.wsdl"));
        String crate = "/" + C + "Consign/" + C + "crate";
        Fill kg = Fill.wire("k", crate + "/" + C + "kg", "$crate/kg").with(ValueFormat.trim());
        List<Fill> fills = List.of(Fill.repeat("r", crate, "$loan/crate", "crate"), kg);
        ValueRule rule = consignment
                .sheet(consignment
                        .operations()
                        .get(0)
                        .operation()
                        .input()
                        .body()
                        .get(0))
                .find(kg.target())
                .rule();
        Scope scope = Scope.empty()
                .with(
                        "loan",
                        World.tree("<loan><crate><kg>1</kg></crate><crate><kg> 2,5 </kg></crate><crate/></loan>"));
        List<String> misfits = Fixes.misfits(kg, fills, rule, List.of(scope), MappingContext.of(new Expressions()));
        assertEquals(misfits, List.of(" 2,5 "));
        assertEquals(Fixes.best(misfits, rule, kg.format(), null).label(), "read  2,5  as 2.5");
    }
}
