package wirekettle.core.soap;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.nio.charset.StandardCharsets;
import java.util.HashMap;
import java.util.Map;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.xml.XmlProblem;

public class ReplyReaderTest {
    @DataProvider
    public Object[][] versions() {
        return new Object[][] {{SoapVersion.SOAP_11, "Client"}, {SoapVersion.SOAP_12, "Sender"}};
    }

    @Test(dataProvider = "versions")
    public void aFaultOfEitherVersionIsReadWithItsTypedDetail(SoapVersion version, String code) throws Exception {
        String xml =
                Envelopes.fault(version, true, "no such institution", World.record("UnknownInstitution", "no", "7"));
        Reply reply = ReplyReader.read(xml.getBytes(StandardCharsets.UTF_8));
        assertEquals(reply.fault().code(), code);
        assertEquals(reply.fault().reason(), "no such institution");
        assertEquals(reply.fault().label(), "UnknownInstitution");
        assertEquals(reply.fault().detail().get(0).textOf("no"), "7");
    }

    @Test
    public void aFaultTextOfMegabytesIsKeptShortened() throws Exception {
        for (SoapVersion version : SoapVersion.values()) {
            String text = Envelopes.fault(version, false, "the desk is closed ".repeat(270_000), null);
            SoapFault fault =
                    ReplyReader.read(text.getBytes(StandardCharsets.UTF_8)).fault();
            assertTrue(fault.reason().startsWith("the desk is closed "));
            assertTrue(fault.reason().length() < 4_100, "kept " + fault.reason().length());
        }
    }

    @Test
    public void whatIsNoEnvelopeIsSaid() {
        XmlProblem problem = expectThrows(
                XmlProblem.class, () -> ReplyReader.read("<html><body/></html>".getBytes(StandardCharsets.UTF_8)));
        assertEquals(problem.code(), "no-envelope");
    }

    @Test
    public void headersFitTheVersion() {
        for (Contract.Offered offered : World.register().operations()) {
            Map<String, String> sent = new HashMap<>();
            Transport transport = request -> {
                sent.putAll(request.headers());
                return new Transport.Answer(202, Map.of(), new byte[0], 1);
            };
            EndpointReach reach = EndpointReach.plain("http://x.invalid");
            new SoapCaller(transport, reach, World.register(), offered, Transport.Limits.DEFAULT).call(new byte[0]);
            String action = "\"" + offered.operation().action() + "\"";
            boolean old = offered.port().soapVersion() == SoapVersion.SOAP_11;
            assertEquals(sent.get("SOAPAction"), old ? action : null);
            assertEquals(
                    sent.get("Content-Type"),
                    old ? "text/xml; charset=utf-8" : "application/soap+xml; charset=utf-8; action=" + action);
        }
    }

    @DataProvider
    public Object[][] answers() {
        String fault = Envelopes.fault(SoapVersion.SOAP_11, true, "unknown", World.record("UnknownInstitution"));
        return new Object[][] {
            {500, fault, FailureClass.FAULT, "UnknownInstitution"},
            {200, fault, FailureClass.FAULT, "UnknownInstitution"},
            {502, "<html><h1>Bad Gateway</h1></html>", FailureClass.HTTP_STATUS, "HTTP 502"},
            {503, "", FailureClass.HTTP_STATUS, "HTTP 503"},
            {200, "", FailureClass.REPLY, "empty answer"},
            {200, "<html><p>hello</p></html>", FailureClass.REPLY, "no envelope"},
            {200, "<s:Envelope xmlns:s='x'>", FailureClass.REPLY, "answer not readable"},
        };
    }

    @Test(dataProvider = "answers")
    public void everyAnswerHasItsClassAndCause(int status, String body, FailureClass failureClass, String cause) {
        Contract.Offered offered = World.register().operations().get(0);
        Transport transport =
                request -> new Transport.Answer(status, Map.of(), body.getBytes(StandardCharsets.UTF_8), 1);
        SoapCaller caller = new SoapCaller(
                transport,
                EndpointReach.plain("http://x.invalid"),
                World.register(),
                offered,
                Transport.Limits.DEFAULT);
        Caller.Result result = caller.call(new byte[0]);
        assertEquals(result.failure().failureClass(), failureClass);
        assertEquals(result.failure().causeLabel(), cause);
    }
}
