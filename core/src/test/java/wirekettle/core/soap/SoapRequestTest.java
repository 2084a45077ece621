package wirekettle.core.soap;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.expectThrows;

import java.nio.charset.StandardCharsets;
import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.value.Name;

/** Requests as one who answers gets them. */
public class SoapRequestTest {
    private static final String WSSE =
            "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-wssecurity-secext-1.0.xsd";

    private static SoapRequest read(String text) throws SoapRequest.Refused {
        return SoapRequest.read("text/xml", text.getBytes(StandardCharsets.UTF_8));
    }

    private static String envelope(String namespace, String headers) {
        return "<e:Envelope xmlns:e='" + namespace + "'><e:Header>" + headers
                + "</e:Header><e:Body><l:Ask xmlns:l='urn:l'/></e:Body></e:Envelope>";
    }

    @Test
    public void itSaysWhoSendsWhat() throws Exception {
        SoapRequest request = read(envelope(
                SoapVersion.SOAP_12.envelope(),
                "<a:MessageID xmlns:a='http://www.w3.org/2005/08/addressing' e:mustUnderstand='true'> urn:1 </a:MessageID>"
                        + "<s:Security xmlns:s='" + WSSE + "' e:mustUnderstand='1'><s:UsernameToken><s:Username>desk"
                        + "</s:Username><s:Password>secret</s:Password></s:UsernameToken></s:Security>"));
        assertEquals(request.version(), SoapVersion.SOAP_12);
        assertEquals(request.messageId(), "urn:1");
        assertEquals(request.token().name(), "desk");
        assertEquals(request.token().password(), "secret");
        assertEquals(request.related().get(0).text(), "urn:1");
        request.understand(List.of(), true);
        SoapRequest.Refused refused =
                expectThrows(SoapRequest.Refused.class, () -> request.understand(List.of(), false));
        assertEquals(refused.code(), FaultCode.MUST_UNDERSTAND);
        assertEquals(request.token().toString(), "Token[desk]");
    }

    @Test
    public void aDigestIsNoPassword() throws Exception {
        SoapRequest request = read(envelope(
                SoapVersion.SOAP_11.envelope(),
                "<s:Security xmlns:s='" + WSSE + "'><s:UsernameToken><s:Username>desk</s:Username>"
                        + "<s:Password Type='urn:x#PasswordDigest'>abc</s:Password></s:UsernameToken></s:Security>"));
        assertNull(request.token().password());
    }

    @Test
    public void aDeclaredHeaderIsUnderstood() throws Exception {
        SoapRequest request =
                read(envelope(SoapVersion.SOAP_11.envelope(), "<l:Desk xmlns:l='urn:l' e:mustUnderstand='1'/>"));
        request.understand(List.of(new Name("urn:l", "Desk")), false);
        assertEquals(
                expectThrows(SoapRequest.Refused.class, () -> request.understand(List.of(), false))
                        .getMessage(),
                "the header Desk must be understood and is not");
    }

    @DataProvider
    public Object[][] wrong() {
        return new Object[][] {
            {envelope("urn:soap-next", ""), FaultCode.VERSION_MISMATCH, "urn:soap-next"},
            {"<Ask/>", FaultCode.SENDER, "no SOAP envelope"},
            {"<e:Envelope xmlns:e='" + SoapVersion.SOAP_11.envelope() + "'/>", FaultCode.SENDER, "no body"},
            {"<e:Envelope", FaultCode.SENDER, "line 1"},
            {"<!DOCTYPE x [<!ENTITY y 'z'>]>" + envelope(SoapVersion.SOAP_11.envelope(), "&y;"), FaultCode.SENDER, ""},
            {"", FaultCode.SENDER, ""},
        };
    }

    @Test(dataProvider = "wrong")
    public void whatIsNoRequestIsToldAsAFault(String text, FaultCode code, String says) {
        SoapRequest.Refused refused = expectThrows(SoapRequest.Refused.class, () -> read(text));
        assertEquals(refused.code(), code, refused.getMessage());
        assertEquals(refused.getMessage().contains(says), true, refused.getMessage());
    }
}
