package wirekettle.core.schema;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.value.NodeWriter;

/** Every example must be valid for the JDK's own validator. */
public class ExampleMessageTest {
    @DataProvider
    public Object[][] messages() {
        List<Object[]> all = new ArrayList<>();
        for (Contract contract :
                List.of(World.register(), World.vanline(), World.contract(World.resource("crate-kinds.wsdl")))) {
            for (Offered offered : contract.operations()) {
                for (boolean complete : new boolean[] {false, true}) {
                    offered.operation().input().body().forEach(e -> all.add(new Object[] {contract, e, complete}));
                    if (offered.operation().output() != null) {
                        offered.operation().output().body().forEach(e -> all.add(new Object[] {contract, e, complete}));
                    }
                }
            }
        }
        return all.toArray(new Object[0][]);
    }

    @Test(dataProvider = "messages")
    public void anExampleIsValidAgainstItsSchema(Contract contract, ElementDecl element, boolean complete) {
        ExampleMessage.Result result =
                contract.example(element, complete ? ExampleMessage.Wish.COMPLETE : ExampleMessage.Wish.MINIMAL);
        assertNull(contract.check().unusable());
        assertEquals(result.problems(), List.of());
        String xml = NodeWriter.write(result.root(), false);
        assertEquals(contract.check().problems(xml.getBytes(StandardCharsets.UTF_8)), List.of(), xml);
    }

    @Test
    public void theValidatorDoesFindWhatIsWrong() {
        Contract contract = World.register();
        byte[] wrong = ("<r:LookUpInstitution xmlns:r='urn:halewick:register:1'>"
                        + "<r:registrationNumber>too-long-a-number</r:registrationNumber></r:LookUpInstitution>")
                .getBytes(StandardCharsets.UTF_8);
        List<String> problems = contract.check().problems(wrong);
        assertTrue(problems.size() >= 2, problems.toString());
    }

    @Test
    public void aMessageWithoutAValidInstanceSaysWhy() {
        String wsdl = new String(World.documents("vanline").files().get("VanlineDesk.wsdl"), StandardCharsets.UTF_8)
                .replace("<xs:maxLength value=\"16\"/>", "<xs:maxLength value=\"2\"/><xs:pattern value=\"[A-Z]{5}\"/>");
        Contract contract = World.contract(World.text("VanlineDesk.wsdl", wsdl));
        ElementDecl request =
                contract.operations().get(0).operation().input().body().get(0);
        ExampleMessage.Result result = contract.example(request, ExampleMessage.Wish.MINIMAL);
        assertTrue(
                result.problems().get(0).contains("TrackTransport/reference"),
                result.problems().toString());
    }
}
