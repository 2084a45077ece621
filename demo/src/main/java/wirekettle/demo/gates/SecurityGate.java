package wirekettle.demo.gates;

import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.security.PrivateKey;
import java.security.Signature;
import java.security.cert.CertificateFactory;
import java.security.cert.X509Certificate;
import java.time.Clock;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import javax.xml.parsers.DocumentBuilderFactory;
import org.w3c.dom.Document;
import org.w3c.dom.Element;
import org.w3c.dom.Node;
import wirekettle.connect.SimulatorHost;
import wirekettle.connect.SimulatorHost.Refusal;
import wirekettle.core.simulate.Simulator;

/** WS-Security as a service sees it: token, timestamp and signature of each request checked, replies signed. */
public final class SecurityGate implements SimulatorHost.Gate {
    private static final String OASIS = "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-";
    private static final String WSSE = OASIS + "wssecurity-secext-1.0.xsd";
    private static final String WSU = OASIS + "wssecurity-utility-1.0.xsd";
    private static final String DS = "http://www.w3.org/2000/09/xmldsig#";
    private static final Duration SKEW = Duration.ofMinutes(1);
    private static final Duration LONGEST = Duration.ofMinutes(10);

    /**
     * What is asked of a request.
     *
     * @param understands whether the security header is known at all
     * @param token text, digest or null for no user name token
     * @param user the user name
     * @param password its password
     * @param timestamp whether a timestamp is wanted
     * @param authority who must have signed the certificate body and timestamp are signed with, null for no signature
     */
    public record Wants(
            boolean understands,
            String token,
            String user,
            String password,
            boolean timestamp,
            X509Certificate authority) {}

    private final Wants wants;
    private final Clock clock;
    private final PrivateKey key;
    private final X509Certificate certificate;
    private final Set<String> nonces = ConcurrentHashMap.newKeySet();

    /**
     * Makes a gate.
     *
     * @param clock the service's clock, which may be wrong
     * @param key what replies are signed with, null for unsigned replies
     * @param certificate the certificate of that key
     */
    public SecurityGate(Wants wants, Clock clock, PrivateKey key, X509Certificate certificate) {
        this.wants = wants;
        this.clock = clock;
        this.key = key;
        this.certificate = certificate;
    }

    private static final class Refused extends Exception {
        private final String code;

        Refused(String code, String reason) {
            super(reason);
            this.code = code;
        }
    }

    @Override
    public Refusal refuse(String method, String uri, Map<String, String> headers, byte[] body) {
        try {
            Element envelope = parse(body);
            Element security = child(child(envelope, "Header", null), "Security", WSSE);
            if (!wants.understands()) {
                if (security != null && mustUnderstand(security)) {
                    return fault("s:MustUnderstand", "the header Security is not understood", "");
                }
                return null;
            }
            if (security == null) {
                throw new Refused("wsse:InvalidSecurity", "there is no security header");
            }
            if (wants.timestamp()) {
                timestamp(child(security, "Timestamp", WSU));
            }
            if (wants.token() != null) {
                token(child(security, "UsernameToken", WSSE));
            }
            if (wants.authority() != null) {
                signature(envelope, security);
            }
            return null;
        } catch (Refused e) {
            return fault(e.code, e.getMessage(), clock.instant().toString());
        } catch (Exception e) {
            return fault("wsse:InvalidSecurity", "the message cannot be checked: " + e.getMessage(), "");
        }
    }

    private static boolean mustUnderstand(Element security) {
        for (int i = 0; i < security.getAttributes().getLength(); i++) {
            Node attribute = security.getAttributes().item(i);
            if ("mustUnderstand".equals(attribute.getLocalName())
                    && attribute.getNodeValue().matches("1|true")) {
                return true;
            }
        }
        return false;
    }

    private void timestamp(Element timestamp) throws Refused {
        if (timestamp == null) {
            throw new Refused("wsse:InvalidSecurity", "there is no timestamp");
        }
        Instant now = clock.instant();
        Instant created = time(timestamp, "Created");
        Instant expires = time(timestamp, "Expires");
        if (created.isAfter(now.plus(SKEW))) {
            throw new Refused("wsu:MessageExpired", "the message was created in the future");
        }
        if (expires.isBefore(now)) {
            throw new Refused("wsu:MessageExpired", "the message has expired");
        }
        if (Duration.between(created, expires).compareTo(LONGEST) > 0) {
            throw new Refused("wsu:MessageExpired", "the message lives too long");
        }
    }

    private static Instant time(Element parent, String name) throws Refused {
        Element element = child(parent, name, WSU);
        try {
            return Instant.parse(element == null ? "" : element.getTextContent());
        } catch (DateTimeException e) {
            throw new Refused("wsse:InvalidSecurity", name + " is no time");
        }
    }

    private void token(Element token) throws Refused, GeneralSecurityException {
        Element user = child(token, "Username", WSSE);
        Element password = child(token, "Password", WSSE);
        if (user == null || password == null) {
            throw new Refused("wsse:InvalidSecurity", "there is no user name token");
        }
        boolean digest = password.getAttribute("Type").endsWith("#PasswordDigest");
        if (digest != wants.token().equals("digest")) {
            throw new Refused("wsse:UnsupportedSecurityToken", "the password must come as " + wants.token());
        }
        String expected = wants.password();
        if (digest) {
            Element nonce = child(token, "Nonce", WSSE);
            Instant created = time(token, "Created");
            if (nonce == null
                    || Duration.between(created, clock.instant()).abs().compareTo(LONGEST) > 0) {
                throw new Refused("wsse:InvalidSecurity", "the nonce is missing or old");
            }
            if (!nonces.add(nonce.getTextContent())) {
                throw new Refused("wsse:InvalidSecurity", "the nonce was used before");
            }
            MessageDigest sha = MessageDigest.getInstance("SHA-1");
            sha.update(Base64.getDecoder().decode(nonce.getTextContent()));
            sha.update(child(token, "Created", WSU).getTextContent().getBytes(StandardCharsets.UTF_8));
            expected = Base64.getEncoder()
                    .encodeToString(sha.digest(wants.password().getBytes(StandardCharsets.UTF_8)));
        }
        if (!user.getTextContent().equals(wants.user())
                || !password.getTextContent().equals(expected)) {
            throw new Refused("wsse:FailedAuthentication", "unknown user or wrong password");
        }
    }

    private void signature(Element envelope, Element security) throws Exception {
        Element signature = child(security, "Signature", DS);
        Element token = child(security, "BinarySecurityToken", WSSE);
        if (signature == null || token == null) {
            throw new Refused("wsse:InvalidSecurity", "the message is not signed");
        }
        X509Certificate signer = (X509Certificate) CertificateFactory.getInstance("X.509")
                .generateCertificate(
                        new ByteArrayInputStream(Base64.getMimeDecoder().decode(token.getTextContent())));
        try {
            signer.checkValidity();
            signer.verify(wants.authority().getPublicKey());
        } catch (GeneralSecurityException e) {
            throw new Refused("wsse:InvalidSecurityToken", "the certificate is not known here");
        }
        Element info = child(signature, "SignedInfo", DS);
        List<Element> covered = new ArrayList<>();
        for (Node node = info.getFirstChild(); node != null; node = node.getNextSibling()) {
            if (node instanceof Element reference && "Reference".equals(reference.getLocalName())) {
                Element target = byId(envelope, reference.getAttribute("URI").substring(1));
                byte[] hash = MessageDigest.getInstance("SHA-256").digest(Canonical.of(target));
                String said =
                        child(reference, "DigestValue", DS).getTextContent().replaceAll("\\s", "");
                if (!Base64.getEncoder().encodeToString(hash).equals(said)) {
                    throw new Refused("wsse:FailedCheck", "the content was changed");
                }
                covered.add(target);
            }
        }
        if (!covered.contains(child(envelope, "Body", null))) {
            throw new Refused("wsse:FailedCheck", "the body is not signed");
        }
        if (wants.timestamp() && !covered.contains(child(security, "Timestamp", WSU))) {
            throw new Refused("wsse:FailedCheck", "the timestamp is not signed");
        }
        boolean ec = signer.getPublicKey().getAlgorithm().equals("EC");
        Signature check = Signature.getInstance(ec ? "SHA256withECDSAinP1363Format" : "SHA256withRSA");
        check.initVerify(signer.getPublicKey());
        check.update(Canonical.of(info));
        if (!check.verify(Base64.getMimeDecoder()
                .decode(child(signature, "SignatureValue", DS).getTextContent()))) {
            throw new Refused("wsse:FailedCheck", "the signature is wrong");
        }
    }

    @Override
    public Simulator.Answer dressed(Simulator.Answer answer) {
        if (key == null || answer.body().length == 0) {
            return answer;
        }
        try {
            String signed = signed(new String(answer.body(), StandardCharsets.UTF_8));
            return new Simulator.Answer(
                    answer.status(),
                    answer.contentType(),
                    signed.getBytes(StandardCharsets.UTF_8),
                    answer.delayMillis(),
                    answer.told());
        } catch (Exception e) {
            throw new IllegalStateException("the reply cannot be signed", e);
        }
    }

    private String signed(String envelope) throws Exception {
        Instant now = clock.instant().truncatedTo(ChronoUnit.SECONDS);
        String prefix = envelope.replaceFirst("(?s)^.*?<((?:[\\w.-]+:)?)Envelope.*$", "$1");
        String timestamp = "<wsu:Timestamp wsu:Id=\"T\"><wsu:Created>" + now + "</wsu:Created><wsu:Expires>"
                + now.plusSeconds(300) + "</wsu:Expires></wsu:Timestamp>";
        String token = "<wsse:BinarySecurityToken wsu:Id=\"C\" ValueType=\"" + OASIS
                + "x509-token-profile-1.0#X509v3\">"
                + Base64.getEncoder().encodeToString(certificate.getEncoded()) + "</wsse:BinarySecurityToken>";
        String open = "<wsse:Security xmlns:wsse=\"" + WSSE + "\" xmlns:wsu=\"" + WSU + "\">" + timestamp + token;
        String header = "<" + prefix + "Header>" + open + "@@</wsse:Security></" + prefix + "Header>";
        String with = envelope.replaceFirst(
                "<" + prefix + "Body",
                header.replace("$", "\\$") + "<" + prefix + "Body xmlns:wsu=\"" + WSU + "\" wsu:Id=\"B\"");
        Element root = parse(with.getBytes(StandardCharsets.UTF_8));
        String info = "<ds:SignedInfo xmlns:ds=\"" + DS + "\"><ds:CanonicalizationMethod Algorithm=\"http://www.w3.org/"
                + "2001/10/xml-exc-c14n#\"></ds:CanonicalizationMethod><ds:SignatureMethod Algorithm=\"http://www.w3.org/"
                + "2001/04/xmldsig-more#rsa-sha256\"></ds:SignatureMethod>" + reference(root, "B")
                + reference(root, "T")
                + "</ds:SignedInfo>";
        Signature sign = Signature.getInstance("SHA256withRSA");
        sign.initSign(key);
        sign.update(Canonical.of(parse(info.getBytes(StandardCharsets.UTF_8))));
        String signature = "<ds:Signature xmlns:ds=\"" + DS + "\">" + info + "<ds:SignatureValue>"
                + Base64.getEncoder().encodeToString(sign.sign()) + "</ds:SignatureValue><ds:KeyInfo>"
                + "<wsse:SecurityTokenReference><wsse:Reference URI=\"#C\"/></wsse:SecurityTokenReference></ds:KeyInfo>"
                + "</ds:Signature>";
        return with.replace("@@", signature);
    }

    private static String reference(Element root, String id) throws Exception {
        byte[] hash = MessageDigest.getInstance("SHA-256").digest(Canonical.of(byId(root, id)));
        return "<ds:Reference URI=\"#" + id + "\"><ds:Transforms><ds:Transform Algorithm=\"http://www.w3.org/2001/10/"
                + "xml-exc-c14n#\"></ds:Transform></ds:Transforms><ds:DigestMethod Algorithm=\"http://www.w3.org/2001/04/"
                + "xmlenc#sha256\"></ds:DigestMethod><ds:DigestValue>"
                + Base64.getEncoder().encodeToString(hash) + "</ds:DigestValue></ds:Reference>";
    }

    private static Element parse(byte[] xml) throws Exception {
        DocumentBuilderFactory factory = DocumentBuilderFactory.newDefaultInstance();
        factory.setNamespaceAware(true);
        factory.setFeature("http://apache.org/xml/features/disallow-doctype-decl", true);
        Document document = factory.newDocumentBuilder().parse(new ByteArrayInputStream(xml));
        return document.getDocumentElement();
    }

    private static Element child(Element parent, String local, String namespace) {
        for (Node node = parent == null ? null : parent.getFirstChild(); node != null; node = node.getNextSibling()) {
            if (node instanceof Element element
                    && local.equals(element.getLocalName())
                    && (namespace == null ? parent.getNamespaceURI() : namespace).equals(element.getNamespaceURI())) {
                return element;
            }
        }
        return null;
    }

    private static Element byId(Element element, String id) throws Refused {
        Element found = find(element, id);
        if (found == null) {
            throw new Refused("wsse:FailedCheck", "what is signed is not there");
        }
        return found;
    }

    private static Element find(Element element, String id) {
        if (element.getAttributeNS(WSU, "Id").equals(id)) {
            return element;
        }
        for (Node node = element.getFirstChild(); node != null; node = node.getNextSibling()) {
            Element found = node instanceof Element child ? find(child, id) : null;
            if (found != null) {
                return found;
            }
        }
        return null;
    }

    private Refusal fault(String code, String reason, String at) {
        String text = "<s:Envelope xmlns:s=\"http://schemas.xmlsoap.org/soap/envelope/\" xmlns:wsse=\"" + WSSE
                + "\" xmlns:wsu=\"" + WSU + "\"><s:Body><s:Fault><faultcode>" + code + "</faultcode><faultstring>"
                + reason.replace("&", "&amp;").replace("<", "&lt;") + (at.isEmpty() ? "" : " (it is " + at + " here)")
                + "</faultstring></s:Fault></s:Body></s:Envelope>";
        return new Refusal(500, "text/xml; charset=utf-8", text, Map.of());
    }
}
