package wirekettle.core.soap;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.io.ByteArrayInputStream;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import javax.xml.parsers.DocumentBuilderFactory;
import org.apache.xml.security.signature.XMLSignature;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import org.w3c.dom.Document;
import org.w3c.dom.Element;
import org.w3c.dom.NodeList;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.FilledBy;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.request.ByteOut;
import wirekettle.core.request.FillPlan;
import wirekettle.core.soap.security.KeyMaterial;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.soap.security.SignatureMark;
import wirekettle.core.soap.security.XmlSigning;

/** Signatures over elements of a message, checked by another implementation. */
public class ElementSigningTest {
    private static final String DSIG = SignatureMark.DSIG;
    private static final String P = "{urn:halewick:papers:1}";
    private static final String HAND_IN = "/" + P + "HandIn";

    private Contract contract;
    private KeyMaterial key;

    @BeforeClass
    public void make() throws Exception {
        org.apache.xml.security.Init.init();
        try (InputStream in = ElementSigningTest.class.getResourceAsStream("/keys/encrypted.pem")) {
            key = KeyMaterial.read(in.readAllBytes(), "for the file");
        }
        try (InputStream schema = XMLSignature.class.getResourceAsStream("/bindings/schemas/xmldsig-core-schema.xsd")) {
            String text =
                    new String(schema.readAllBytes(), StandardCharsets.UTF_8).replaceFirst("(?s)<!DOCTYPE.*?\\]>", "");
            contract = World.contract(World.resource("papers-signed.wsdl")
                    .add("xmldsig-core-schema.xsd", text.getBytes(StandardCharsets.UTF_8)));
        }
    }

    private String sent(EndpointSettings settings, Fill... signatures) throws Exception {
        List<Fill> fills = new ArrayList<>(List.of(
                Fill.constant("a", HAND_IN + "/" + P + "paper/@Id", "P-1"),
                Fill.constant("b", HAND_IN + "/" + P + "paper/" + P + "text", "On loan to Öderstad & others"),
                Fill.constant("c", HAND_IN + "/" + P + "remark", "soon")));
        fills.addAll(List.of(signatures));
        FillPlan plan = FillPlan.compile(
                contract,
                contract.operations().get(0).operation().input(),
                SoapVersion.SOAP_11,
                fills,
                Set.of(),
                MappingContext.of(new Expressions()));
        assertEquals(plan.designProblems(), List.of());
        ByteOut out = new ByteOut();
        List<MappingProblem> problems = plan.write(Scope.empty(), out);
        assertEquals(problems, List.of());
        Secrets secrets = name -> key.pem();
        EndpointReach reach = EndpointReach.of("http://papers.invalid", settings, secrets, java.time.Clock.systemUTC());
        Dressing.Dressed dressed = new Dressing(reach, SoapVersion.SOAP_11, "", Set.of()).dress(out.bytes());
        return dressed.envelope();
    }

    private static Document parsed(String xml) throws Exception {
        DocumentBuilderFactory factory = DocumentBuilderFactory.newInstance();
        factory.setNamespaceAware(true);
        return factory.newDocumentBuilder().parse(new ByteArrayInputStream(xml.getBytes(StandardCharsets.UTF_8)));
    }

    /** Tells whether the other implementation takes the signature of a message as genuine. */
    private static boolean genuine(String message) throws Exception {
        Document document = parsed(message);
        Element paper = (Element) document.getElementsByTagNameNS("urn:halewick:papers:1", "paper")
                .item(0);
        paper.setIdAttribute("Id", true);
        NodeList found = document.getElementsByTagNameNS(DSIG, "Signature");
        Element its = null;
        for (int i = 0; i < found.getLength(); i++) {
            Element each = (Element) found.item(i);
            boolean ofHeader = each.getParentNode().getLocalName().equals("Security");
            its = ofHeader ? its : each;
        }
        XMLSignature signature = new XMLSignature(its, "");
        return signature.checkSignatureValue(signature.getKeyInfo().getX509Certificate());
    }

    private static final String ENVELOPED = HAND_IN + "/" + P + "paper/{" + DSIG + "}Signature";
    private static final String DETACHED = HAND_IN + "/{" + DSIG + "}Signature";
    private static final String PAPER = HAND_IN + "/" + P + "paper";

    @DataProvider
    public Object[][] forms() {
        return new Object[][] {
            {ENVELOPED, null},
            {ENVELOPED, true},
            {DETACHED, null},
            {DETACHED, true},
        };
    }

    @Test(dataProvider = "forms")
    public void anotherImplementationTakesTheSignatureAsGenuine(String target, Boolean inclusive) throws Exception {
        Fill fill = Fill.signature("s", target, PAPER, "key of the desk")
                .by(new FilledBy.Signature(PAPER, "key of the desk", inclusive));
        String message = sent(EndpointSettings.PLAIN, fill);
        assertTrue(genuine(message), message);
        assertFalse(message.contains("sign."), "the mark is gone");
        assertEquals(message.contains("enveloped-signature"), target.equals(ENVELOPED));
        assertFalse(genuine(message.replace("Öderstad", "Oderstad")));
    }

    /** What the endpoint adds to the message leaves the signature inside it as it is, and signs it too. */
    @Test
    public void theEndpointsOwnSignatureComesOnTop() throws Exception {
        EndpointSettings settings = new EndpointSettings(
                null,
                null,
                null,
                null,
                null,
                null,
                null,
                new EndpointSettings.Security(null, null, null, 60, "key", List.of(), false),
                false,
                false);
        String message = sent(settings, Fill.signature("s", ENVELOPED, PAPER, null));
        assertEquals(parsed(message).getElementsByTagNameNS(DSIG, "Signature").getLength(), 2);
        assertTrue(genuine(message), message);
    }

    @Test
    public void withoutAKeyOrAnIdTheMessageIsNotSent() {
        XmlSigning.NotSignable keyless = expectThrows(
                XmlSigning.NotSignable.class,
                () -> sent(EndpointSettings.PLAIN, Fill.signature("s", ENVELOPED, PAPER, null)));
        assertTrue(keyless.getMessage().contains("its endpoint has no key to sign with"), keyless.getMessage());
        XmlSigning.NotSignable nameless = expectThrows(
                XmlSigning.NotSignable.class,
                () -> sent(EndpointSettings.PLAIN, Fill.signature("s", DETACHED, HAND_IN, "key")));
        assertEquals(
                nameless.getMessage(),
                "the element HandIn is to be signed and has no id to be referred to by: fill its attribute Id");
    }

    @Test
    public void aSignatureStandsOnlyInAnElementOfSignatures() {
        FillPlan plan = FillPlan.compile(
                contract,
                contract.operations().get(0).operation().input(),
                SoapVersion.SOAP_11,
                List.of(Fill.signature("s", HAND_IN + "/" + P + "remark", PAPER, null)),
                Set.of(),
                MappingContext.of(new Expressions()));
        assertTrue(plan.designProblems().stream().anyMatch(p -> p.message()
                .equals("is no element Signature of XML Signature: a signature cannot stand in it")));
    }
}
