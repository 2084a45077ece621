package wirekettle.core.soap;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.function.UnaryOperator;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.soap.security.Certificates;
import wirekettle.core.soap.security.KeyMaterial;
import wirekettle.core.soap.security.Secrets;

/** What a signature must prove before a reply counts as genuine; the reply is our own signed request, tampered with. */
public class SignedReplyTest {
    private static final String BODY = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>"
            + "<a xmlns='urn:a'><price>100</price></a></s:Body></s:Envelope>";

    private KeyMaterial key;
    private String certificate;

    @BeforeClass
    public void make() throws Exception {
        try (var in = SignedReplyTest.class.getResourceAsStream("/keys/encrypted.pem")) {
            key = KeyMaterial.read(in.readAllBytes(), "for the file");
        }
        certificate = Certificates.pem(key.certificate());
    }

    private Caller.Result echoed(UnaryOperator<String> tampered, Clock clock) {
        EndpointSettings settings = new EndpointSettings(
                null,
                null,
                null,
                null,
                null,
                null,
                null,
                new EndpointSettings.Security(null, null, null, 60, "key", List.of(certificate), false),
                false,
                false);
        Secrets secrets = name -> key.pem();
        Transport transport = request -> new Transport.Answer(
                200,
                Map.of("content-type", "text/xml; charset=utf-8"),
                tampered.apply(new String(request.body(), StandardCharsets.UTF_8))
                        .getBytes(StandardCharsets.UTF_8),
                1);
        Offered offered = World.register().operations().get(0);
        return new SoapCaller(
                        transport,
                        EndpointReach.of("http://x.invalid", settings, secrets, clock),
                        World.register(),
                        offered,
                        Transport.Limits.DEFAULT)
                .call(BODY.getBytes(StandardCharsets.UTF_8));
    }

    @Test
    public void anUntouchedReplyIsGenuine() {
        Caller.Result result = echoed(text -> text, Clock.systemUTC());
        assertNull(result.failure());
        assertEquals(result.reply().body().get(0).textOf("price"), "100");
    }

    private static String between(String text, String from, String to) {
        return text.substring(text.indexOf(from), text.indexOf(to) + to.length());
    }

    @DataProvider
    public Object[][] tampering() {
        UnaryOperator<String> changed = text -> text.replace(">100<", ">999<");
        UnaryOperator<String> unsigned = text -> text.replace(between(text, "<ds:Signature ", "</ds:Signature>"), "");
        // the signed body is moved aside, and another one is put where it is read
        UnaryOperator<String> wrapped = text -> {
            String body = between(text, "<s:Body", "</s:Body>");
            return text.replace(body, "<s:Body><a xmlns='urn:a'><price>999</price></a></s:Body>")
                    .replace("</s:Header>", "<w xmlns='urn:w'>" + body + "</w></s:Header>");
        };
        UnaryOperator<String> doubled = text -> {
            String body = between(text, "<s:Body", "</s:Body>");
            return text.replace(body, body.replace(">100<", ">999<"))
                    .replace("</s:Header>", "<w xmlns='urn:w'>" + body + "</w></s:Header>");
        };
        UnaryOperator<String> longer = text -> text.replaceFirst("<wsu:Expires>\\d{4}", "<wsu:Expires>2999");
        UnaryOperator<String> nameless = text ->
                text.replace(between(text, "<wsse:SecurityTokenReference", "</wsse:SecurityTokenReference>"), "");
        return new Object[][] {
            {changed, "does not fit its content"},
            {unsigned, "is not signed"},
            {wrapped, "does not cover its body"},
            {doubled, "twice"},
            {longer, "does not fit its content"},
            {nameless, "does not name the certificate"},
        };
    }

    @Test(dataProvider = "tampering")
    public void aReplyTamperedWithIsRefused(UnaryOperator<String> tampered, String said) {
        CallFailure failure = echoed(tampered, Clock.systemUTC()).failure();
        assertEquals(failure.causeLabel(), "reply not genuine");
        assertTrue(failure.getMessage().contains(said), failure.getMessage());
    }

    @Test
    public void aReplyPlayedBackLaterIsRefused() {
        String[] first = {null};
        echoed(
                text -> {
                    first[0] = text;
                    return text;
                },
                Clock.systemUTC());
        CallFailure failure = echoed(text -> first[0], Clock.offset(Clock.systemUTC(), Duration.ofMinutes(20)))
                .failure();
        assertTrue(failure.getMessage().contains("timestamp ended"), failure.getMessage());
    }
}
