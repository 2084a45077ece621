package wirekettle.core.contract;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNotNull;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.nio.charset.StandardCharsets;
import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.schema.SheetField;
import wirekettle.core.xml.Finding;

public class ContractReaderTest {
    @Test
    public void aContractOverSeveralFilesHasBothSoapVersionsSideBySide() {
        Contract contract = World.register();
        assertEquals(contract.findings(), List.of());
        assertEquals(contract.documents().size(), 3);
        List<Port> ports = contract.services().get(0).ports();
        assertEquals(ports.get(0).soapVersion(), SoapVersion.SOAP_11);
        assertEquals(ports.get(1).soapVersion(), SoapVersion.SOAP_12);
        Operation operation = ports.get(0).operations().get(0);
        assertEquals(operation.key(), "LookUpInstitution");
        assertEquals(operation.action(), "urn:halewick:register:LookUpInstitution");
        assertEquals(operation.faults().get(0).name(), "UnknownInstitution");
        assertEquals(operation.documentation(), "Returns one institution by its registration number.");
    }

    @Test
    public void anIncludeWithoutNamespaceTakesTheOneThatIncludesIt() {
        SheetField reply = sheet(World.register(), "LookUpInstitution", false);
        SheetField city = reply.find("/{urn:halewick:register:1}LookUpInstitutionResponse"
                + "/{urn:halewick:register:1}address/{urn:halewick:register:1}city");
        assertNotNull(city);
        assertTrue(city.required());
    }

    private static SheetField sheet(Contract contract, String operation, boolean request) {
        Operation found =
                contract.operation(null, null, operation).orElseThrow().operation();
        return contract.sheet((request ? found.input() : found.output()).body().get(0));
    }

    @Test
    public void recursionIsShownOnceAndExpandedOnlyByHand() {
        Contract contract = World.contract(World.resource("crate-kinds.wsdl"));
        SheetField content = sheet(contract, "DescribeCrate", true).children().stream()
                .filter(f -> f.name().local().equals("content"))
                .findFirst()
                .orElseThrow();
        assertFalse(content.recursive());
        SheetField inner = content.children().get(1);
        assertTrue(inner.recursive());
        assertEquals(inner.children().get(1).children().get(0).name().local(), "label");
    }

    @Test
    public void rpcMessagesGetTheirWrapperAndUnqualifiedParts() {
        Contract contract = World.contract(World.resource("crate-kinds.wsdl"));
        SheetField request = sheet(contract, "CountCrates", true);
        assertEquals(request.path(), "/{urn:halewick:count}CountCrates");
        assertEquals(request.children().get(0).path(), "/{urn:halewick:count}CountCrates/shift");
    }

    @Test
    public void aMissingSchemaIsAnErrorFindingAndTheRestIsUsable() {
        GivenDocuments given = World.documents("register");
        given.files().remove("register-address.xsd");
        Contract contract = World.contract(given);
        Finding missing = contract.findings().get(0);
        assertEquals(missing.code(), "document-missing");
        assertEquals(missing.severity(), Finding.Severity.ERROR);
        assertEquals(missing.document(), "register-types.xsd");
        assertEquals(missing.line(), 4);
        SheetField reply = sheet(contract, "LookUpInstitution", false);
        SheetField address = reply.children().get(3);
        assertEquals(address.name().local(), "address");
        assertTrue(address.unresolved());
        assertEquals(reply.children().get(1).typeLabel(), "string ≤40");
    }

    @Test
    public void strictRefusesWhatLenientRepairs() {
        GivenDocuments given = World.documents("register");
        given.files().remove("register-address.xsd");
        ContractRefused refused = expectThrows(ContractRefused.class, () -> ContractReader.read(given, true));
        assertTrue(refused.getMessage().startsWith("register-types.xsd line 4"), refused.getMessage());
    }

    @DataProvider
    public Object[][] unusable() {
        String deep = "<a>".repeat(500);
        return new Object[][] {
            {"", "empty"},
            {"loan_no;crate_no\r\nHC-1;2\r\n", "not-well-formed"},
            {"<!DOCTYPE html><html><body>Sign in</body></html>", "html-page"},
            {"<definitions xmlns='http://schemas.xmlsoap.org/wsdl/'><types>", "not-well-formed"},
            {"<!DOCTYPE d [<!ENTITY x SYSTEM 'file:///etc/passwd'>]><d>&x;</d>", "dtd-refused"},
            {"<!DOCTYPE d [<!ENTITY a 'aaaa'><!ENTITY b '&a;&a;&a;'>]><d>&b;</d>", "dtd-refused"},
            {deep, "too-deep"},
            {"<crate/>", "no-description"},
        };
    }

    @Test(dataProvider = "unusable")
    public void whatCannotBeUsedIsRefusedWithItsPlace(String text, String code) {
        ContractRefused refused =
                expectThrows(ContractRefused.class, () -> ContractReader.read(World.text("loans.wsdl", text), false));
        Finding reason = refused.findings().get(refused.findings().size() - 1);
        assertEquals(reason.code(), code);
        assertEquals(reason.document(), "loans.wsdl");
        assertTrue(reason.line() >= 1, reason.toString());
    }

    @Test
    public void anUndefinedTypeIsNamedWithLineAndColumn() {
        String wsdl = new String(World.documents("vanline").files().get("VanlineDesk.wsdl"), StandardCharsets.UTF_8)
                .replace("type=\"v:Event\"", "type=\"v:Evnt\"");
        Contract contract = World.contract(World.text("VanlineDesk.wsdl", wsdl));
        Finding finding = contract.findings().get(0);
        assertEquals(finding.code(), "unresolved-type");
        assertTrue(finding.message().contains("Evnt"));
        assertEquals(finding.line(), 18);
    }

    @DataProvider
    public Object[][] effects() {
        return new Object[][] {
            {"LookUpInstitution", Effect.READS}, {"getRates", Effect.READS}, {"TrackTransport", Effect.READS},
            {"BookCrate", Effect.CHANGES}, {"Gettysburg", Effect.CHANGES}, {"cancel_transport", Effect.CHANGES},
        };
    }

    @Test(dataProvider = "effects")
    public void theEffectIsProposedFromTheFirstWord(String operation, Effect effect) {
        assertEquals(Effect.propose(operation), effect);
    }
}
