package wirekettle.core.contract;

import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.ExampleMessage;
import wirekettle.core.schema.SheetField;

/** Contracts made to take all time, stack or memory: each is read or refused, and what it shows is cut. */
public class HostileContractsTest {
    private static String wsdl(String attributes, String schema) {
        return "<definitions xmlns='http://schemas.xmlsoap.org/wsdl/' xmlns:soap='http://schemas.xmlsoap.org/wsdl/soap/'"
                + " xmlns:t='urn:halewick:hostile' targetNamespace='urn:halewick:hostile' name='Hostile' " + attributes
                + "><types><xs:schema xmlns:xs='http://www.w3.org/2001/XMLSchema' targetNamespace='urn:halewick:hostile'"
                + " elementFormDefault='qualified'>" + schema + "</xs:schema></types>"
                + "<message name='In'><part name='p' element='t:Ask'/></message>"
                + "<message name='Out'><part name='p' element='t:Ask'/></message>"
                + "<portType name='P'><operation name='Ask'><input message='t:In'/><output message='t:Out'/>"
                + "</operation></portType><binding name='B' type='t:P'>"
                + "<soap:binding transport='http://schemas.xmlsoap.org/soap/http'/><operation name='Ask'>"
                + "<soap:operation soapAction=''/><input><soap:body use='literal'/></input><output>"
                + "<soap:body use='literal'/></output></operation></binding><service name='S'><port name='P1'"
                + " binding='t:B'><soap:address location='http://register.invalid/'/></port></service></definitions>";
    }

    private static String many(int count, java.util.function.IntFunction<String> each) {
        return IntStream.range(0, count).mapToObj(each).collect(Collectors.joining());
    }

    @DataProvider
    public Object[][] contracts() {
        Map<String, String> all = new TreeMap<>();
        String ask = "<xs:element name='Ask' type='t:T0'/>";
        all.put(
                "500,000 namespaces",
                wsdl(
                        many(500_000, i -> " xmlns:n" + i + "='urn:n" + i + "'"),
                        "<xs:element name='Ask' type='xs:string'/>"));
        all.put(
                "a chain of 5,000 types",
                wsdl(
                        "",
                        ask
                                + many(
                                        5_000,
                                        i -> "<xs:complexType name='T" + i
                                                + "'><xs:complexContent><xs:extension base='t:T"
                                                + (i + 1) + "'><xs:sequence><xs:element name='e" + i
                                                + "' type='xs:string'/></xs:sequence></xs:extension></xs:complexContent>"
                                                + "</xs:complexType>")
                                + "<xs:complexType name='T5000'><xs:sequence/></xs:complexType>"));
        all.put(
                "a chain of 5,000 simple types",
                wsdl(
                        "",
                        ask
                                + many(
                                        5_000,
                                        i -> "<xs:simpleType name='T" + i + "'><xs:restriction base='t:T" + (i + 1)
                                                + "'/></xs:simpleType>")
                                + "<xs:simpleType name='T5000'><xs:restriction base='xs:string'/></xs:simpleType>"));
        all.put(
                "elements in elements, 5,000 deep",
                wsdl(
                        "",
                        ask
                                + many(
                                        5_000,
                                        i -> "<xs:complexType name='T" + i
                                                + "'><xs:sequence><xs:element name='e' type='t:T" + (i + 1)
                                                + "'/></xs:sequence></xs:complexType>")
                                + "<xs:complexType name='T5000'><xs:sequence/></xs:complexType>"));
        all.put(
                "groups in groups, 5,000 deep",
                wsdl(
                        "",
                        "<xs:element name='Ask'><xs:complexType><xs:group ref='t:G0'/></xs:complexType></xs:element>"
                                + many(
                                        5_000,
                                        i -> "<xs:group name='G" + i + "'><xs:sequence><xs:group ref='t:G" + (i + 1)
                                                + "'/></xs:sequence></xs:group>")
                                + "<xs:group name='G5000'><xs:sequence/></xs:group>"));
        all.put(
                "a tree that explodes",
                wsdl(
                        "",
                        ask
                                + many(
                                        40,
                                        i -> "<xs:complexType name='T" + i + "'><xs:sequence>"
                                                + many(
                                                        4,
                                                        j -> "<xs:element name='e" + j + "' type='t:T" + (i + 1)
                                                                + "'/>")
                                                + "</xs:sequence></xs:complexType>")
                                + "<xs:complexType name='T40'><xs:sequence/></xs:complexType>"));
        all.put(
                "groups that explode",
                wsdl(
                        "",
                        "<xs:element name='Ask'><xs:complexType><xs:group ref='t:G0'/></xs:complexType></xs:element>"
                                + many(
                                        30,
                                        i -> "<xs:group name='G" + i + "'><xs:sequence><xs:group ref='t:G" + (i + 1)
                                                + "'/><xs:group ref='t:G" + (i + 1) + "'/></xs:sequence></xs:group>")
                                + "<xs:group name='G30'><xs:sequence><xs:element name='x' type='xs:string'/></xs:sequence>"
                                + "</xs:group>"));
        all.put(
                "a choice of 10,000",
                wsdl(
                        "",
                        "<xs:element name='Ask'><xs:complexType><xs:choice maxOccurs='unbounded'>"
                                + many(10_000, i -> "<xs:element name='e" + i + "' type='xs:string'/>")
                                + "</xs:choice></xs:complexType></xs:element>"));
        all.put(
                "10,000 substitutes",
                wsdl(
                        "",
                        "<xs:element name='H' type='xs:string' abstract='true'/><xs:element name='Ask'><xs:complexType>"
                                + "<xs:sequence><xs:element ref='t:H'/></xs:sequence></xs:complexType></xs:element>"
                                + many(10_000, i -> "<xs:element name='s" + i + "' substitutionGroup='t:H'/>")));
        all.put(
                "bounds in the millions",
                wsdl(
                        "",
                        "<xs:element name='Ask'><xs:complexType><xs:sequence minOccurs='1000000' maxOccurs='2000000'>"
                                + "<xs:element name='e' type='xs:string' minOccurs='1000000' maxOccurs='9000000'/>"
                                + "</xs:sequence></xs:complexType></xs:element>"));
        all.put(
                "a least length of a million",
                wsdl(
                        "",
                        "<xs:element name='Ask'><xs:simpleType><xs:restriction base='xs:string'>"
                                + "<xs:minLength value='200000000'/><xs:pattern value='((a{1,50}){1,50}){1,50}b'/>"
                                + "</xs:restriction></xs:simpleType></xs:element>"));
        all.put("10 MB of NULs", "\0".repeat(10 << 20));
        all.put("10 MB of <", "<".repeat(10 << 20));
        all.put("10 MB of one name", "<" + "a".repeat(10 << 20) + "/>");
        all.put("a million attributes", "<a" + many(300_000, i -> " a" + i + "='1'") + "/>");
        all.put("deep", "<a>".repeat(100_000));
        all.put("circular allOf", openApi("{\"allOf\":[{\"$ref\":\"#/components/schemas/B\"}]}"));
        all.put("allOf of itself", openApi("{\"allOf\":[{\"$ref\":\"#/components/schemas/A\"}]}"));
        all.put(
                "properties that explode",
                openApi("{\"type\":\"object\",\"properties\":{"
                        + IntStream.range(0, 8)
                                .mapToObj(i -> "\"p" + i + "\":{\"$ref\":\"#/components/schemas/A\"}")
                                .collect(Collectors.joining(","))
                        + "}}"));
        all.put("deep JSON", "{\"openapi\":\"3.0.0\",\"paths\":" + "{\"a\":".repeat(100_000));
        all.put("allOf 5,000 deep", openApi("{\"allOf\":[".repeat(5_000) + "{}" + "]}".repeat(5_000)));
        return all.entrySet().stream()
                .map(e -> new Object[] {e.getKey(), e.getValue().getBytes(StandardCharsets.UTF_8)})
                .toArray(Object[][]::new);
    }

    private static String openApi(String schema) {
        return "{\"openapi\":\"3.0.0\",\"info\":{\"title\":\"Hostile\",\"version\":\"1\"},\"servers\":[{\"url\":"
                + "\"http://register.invalid\"}],\"paths\":{\"/ask\":{\"post\":{\"operationId\":\"ask\",\"requestBody\":"
                + "{\"content\":{\"application/json\":{\"schema\":{\"$ref\":\"#/components/schemas/A\"}}}},\"responses\":"
                + "{\"200\":{\"description\":\"fine\"}}}}},\"components\":{\"schemas\":{\"A\":" + schema
                + ",\"B\":{\"allOf\":[{\"$ref\":\"#/components/schemas/A\"}]}}}}";
    }

    @Test(dataProvider = "contracts", timeOut = 60_000)
    public void aHostileContractIsReadOrRefused(String name, byte[] bytes) {
        Contract contract;
        try {
            contract =
                    ContractReader.read(new GivenDocuments().add(bytes[0] == '{' ? "a.json" : "a.wsdl", bytes), false);
        } catch (ContractRefused e) {
            assertTrue(e.getMessage().length() > 10 && e.getMessage().length() < 5_000, e.getMessage());
            assertTrue(e.findings().size() < 10_000, "findings: " + e.findings().size());
            return;
        }
        assertTrue(contract.findings().size() < 10_000);
        for (Contract.Offered offered : contract.operations()) {
            for (ElementDecl element : offered.operation().elements()) {
                walk(contract.sheet(element), 0);
                contract.example(element, ExampleMessage.Wish.MINIMAL);
                contract.example(element, ExampleMessage.Wish.COMPLETE);
            }
        }
        contract.check().problems("<a/>".getBytes(StandardCharsets.UTF_8));
    }

    private static void walk(SheetField field, int depth) {
        field.typeLabel();
        if (depth < 4 && !field.recursive()) {
            field.children().stream().limit(50).forEach(child -> walk(child, depth + 1));
        }
    }
}
