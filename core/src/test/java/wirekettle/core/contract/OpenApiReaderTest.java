package wirekettle.core.contract;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.nio.charset.StandardCharsets;
import java.util.Random;
import java.util.stream.Collectors;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.schema.Picks;
import wirekettle.core.schema.SheetField;
import wirekettle.core.soap.ExampleEnvelope;
import wirekettle.core.xml.Finding;

/** What OpenAPI documents may say, and what happens when they say it wrong. */
public class OpenApiReaderTest {
    private static Contract read(String text, boolean strict) throws ContractRefused {
        return ContractReader.read(
                new GivenDocuments().add("service.json", text.getBytes(StandardCharsets.UTF_8)), strict);
    }

    private static String document(String reply, String schemas) {
        return "{'openapi':'3.1.0','info':{'title':'Crates','version':'1'},'paths':{'/crates':{'get':{'operationId':'crates',"
                        .replace('\'', '"')
                + ("'responses':{'200':{'description':'ok','content':{'application/json':{'schema':" + reply
                                + "}}}}}}},'components':{'schemas':{" + schemas + "}}}")
                        .replace('\'', '"');
    }

    private static String rows(Contract contract) {
        return contract
                .sheet(contract.operations().get(0).operation().output().body().get(0))
                .children()
                .stream()
                .map(OpenApiReaderTest::row)
                .collect(Collectors.joining(", "));
    }

    private static String row(SheetField field) {
        String type = field.rule() == null ? "" : " " + field.rule().builtIn().name();
        return field.name().local()
                + type
                + (field.min() == 0 ? "?" : "")
                + (field.max() < 0 ? "*" : "")
                + (field.nillable() ? " or null" : "");
    }

    @DataProvider
    public Object[][] shapes() {
        return new Object[][] {
            {
                "{'type':'object','properties':{'a':{'type':'string'},'b':{'type':'integer'}},'required':['b']}",
                "",
                "a string?, b integer"
            },
            {"{'type':'object','properties':{'a':{'type':'array','items':{'type':'number'}}}}", "", "a decimal?*"},
            {"{'type':'array','items':{'type':'boolean'}}", "", "item boolean?*"},
            {
                "{'type':'object','properties':{'a':{'type':'array','items':{'type':'array','items':{'type':'string'}}}}}",
                "",
                "a?*"
            },
            {
                "{'type':'object','properties':{'a':{'type':['string','null']},'b':{'anyOf':[{'type':'integer'},{'type':'null'}]}}}",
                "",
                "a string? or null, b integer? or null"
            },
            {
                "{'allOf':[{'$ref':'#/components/schemas/A'},{'type':'object','required':['c'],'properties':{'c':{'type':'string','format':'date'}}}]}",
                "'A':{'type':'object','required':['a'],'properties':{'a':{'type':'string'}}}",
                "a string, c date"
            },
            {
                "{'$ref':'#/components/schemas/Self'}",
                "'Self':{'type':'object','properties':{'inside':{'$ref':'#/components/schemas/Self'},'n':{'type':'integer','format':'int32'}}}",
                "inside?, n int?"
            },
            {
                "{'type':'object','properties':{'two words':{'type':'string'},'1st':{'type':'string'},'':{'type':'string'}}}",
                "",
                "two_x0020_words string?, _x0031_st string?, _x0000_ string?"
            },
        };
    }

    @Test(dataProvider = "shapes")
    public void aShapeBecomesASheet(String reply, String schemas, String rows) throws Exception {
        Contract contract = read(document(reply, schemas), true);
        assertEquals(rows(contract), rows);
        ExampleEnvelope example = ExampleEnvelope.of(
                contract, contract.operations().get(0).operation().output(), true, Picks.NONE);
        assertEquals(example.wrong(contract), java.util.List.of());
    }

    @DataProvider
    public Object[][] odd() {
        return new Object[][] {
            {
                document(
                        "{'oneOf':[{'type':'object','required':['a'],'properties':{'a':{'type':'string'}}},{'type':'object','properties':{'b':{'type':'string'}}}]}",
                        ""),
                "alternatives"
            },
            {document("{'$ref':'#/components/schemas/Nowhere'}", ""), "unresolved"},
            {document("{'$ref':'other.json#/Zone'}", ""), "unresolved"},
            {
                document(
                        "{'$ref':'#/components/schemas/A'}",
                        "'A':{'$ref':'#/components/schemas/B'},'B':{'$ref':'#/components/schemas/A'}"),
                ""
            },
        };
    }

    @Test(dataProvider = "odd")
    public void whatIsOddIsAFindingAndTheRestIsUsable(String text, String code) throws Exception {
        Contract contract = read(text, false);
        assertEquals(contract.operations().size(), 1);
        String codes = contract.findings().stream().map(Finding::code).collect(Collectors.joining(" "));
        assertEquals(codes, code);
        if (!code.isEmpty()) {
            ContractRefused refused = expectThrows(ContractRefused.class, () -> read(text, true));
            assertTrue(refused.findings().stream().allMatch(f -> f.line() >= 1));
        }
    }

    @DataProvider
    public Object[][] unusable() {
        return new Object[][] {
            {"{\"swagger\":\"2.0\",\"paths\":{}}", "openapi-version"},
            {"{\"openapi\":\"3.0.0\",\"paths\":{}}", "no-operation"},
            {"{\"openapi\":\"3.0.0\",", "not-well-formed"},
            {"openapi: 3.0.0\npaths: [unclosed", "not-well-formed"},
            {"openapi: &a [*a]\n", "openapi-version"},
        };
    }

    @Test(dataProvider = "unusable")
    public void whatCannotBeUsedIsRefusedWithTheReason(String text, String code) {
        ContractRefused refused = expectThrows(ContractRefused.class, () -> read(text, false));
        Finding last = refused.findings().get(refused.findings().size() - 1);
        assertEquals(last.code(), code, last.message());
    }

    @Test
    public void aDocumentThatExpandsForEverIsRefused() {
        StringBuilder text = new StringBuilder("openapi: 3.0.0\na0: &a0 [x,x,x,x,x,x,x,x,x]\n");
        for (int i = 1; i < 12; i++) {
            text.append("a").append(i).append(": &a").append(i).append(" [");
            text.append(("*a" + (i - 1) + ",").repeat(9)).append("x]\n");
        }
        expectThrows(ContractRefused.class, () -> read(text.toString(), false));
    }

    @Test
    public void aDamagedDocumentIsReadOrRefusedButNeverThrows() {
        String sound = document(
                "{'type':'object','properties':{'a':{'type':'array','minItems':1,'items':{'$ref':'#/components/schemas/A'}}}}",
                "'A':{'type':'object','additionalProperties':{'type':'string'},'properties':{'n':{'type':'number','minimum':1,'exclusiveMaximum':9}}}");
        Random random = new Random(7);
        int read = 0;
        for (int i = 0; i < 400; i++) {
            StringBuilder damaged = new StringBuilder(sound);
            for (int j = 0; j < 1 + i % 4; j++) {
                int at = random.nextInt(damaged.length());
                if (random.nextBoolean()) {
                    damaged.deleteCharAt(at);
                } else {
                    damaged.setCharAt(at, "{}[]\",:0a".charAt(random.nextInt(9)));
                }
            }
            try {
                read(damaged.toString(), false);
                read++;
            } catch (ContractRefused e) {
                assertTrue(!e.findings().isEmpty());
            }
        }
        assertTrue(read > 0, "some damage is harmless");
    }
}
