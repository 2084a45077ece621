package wirekettle.core.soap.security;

import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.cert.X509Certificate;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.Base64;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import javax.xml.crypto.MarshalException;
import javax.xml.crypto.dsig.Reference;
import javax.xml.crypto.dsig.XMLSignature;
import javax.xml.crypto.dsig.XMLSignatureException;
import javax.xml.crypto.dsig.XMLSignatureFactory;
import javax.xml.crypto.dsig.dom.DOMValidateContext;
import org.w3c.dom.Document;
import org.w3c.dom.Element;
import org.w3c.dom.Node;
import org.xml.sax.SAXException;

/**
 * Checks the signature of a reply: it must cover the very body that is read, be made with the key of a certificate that
 * is expected, and its timestamp, where it has one, must not be over.
 */
public final class SignedReply {
    private static final long SKEW_SECONDS = 300;

    private SignedReply() {}

    /** A reply whose signature does not hold. */
    public static final class NotGenuine extends Exception {
        NotGenuine(String message) {
            super(message, null, false, false);
        }
    }

    /**
     * Returns when the signature holds.
     *
     * @param expected the certificates it may be made with, or those of their issuers
     */
    public static void check(byte[] envelope, List<X509Certificate> expected, Instant now) throws NotGenuine {
        try {
            Document document = XmlSigning.parse(new String(envelope, StandardCharsets.UTF_8));
            Element root = document.getDocumentElement();
            Element body = XmlSigning.child(root, null, "Body");
            Element security =
                    XmlSigning.child(XmlSigning.child(root, null, "Header"), SecurityHeader.WSSE, "Security");
            Element signature = XmlSigning.child(security, XMLSignature.XMLNS, "Signature");
            if (signature == null || body == null) {
                throw new NotGenuine("the reply is not signed, but this endpoint expects it to be");
            }
            Map<String, Element> byId = new HashMap<>();
            collect(root, byId);
            X509Certificate signer = signer(signature, security);
            trusted(signer, expected, now);
            DOMValidateContext context = new DOMValidateContext(signer.getPublicKey(), signature);
            byId.forEach((id, element) -> mark(context, element));
            XMLSignature read = XMLSignatureFactory.getInstance("DOM").unmarshalXMLSignature(context);
            if (!read.validate(context)) {
                throw new NotGenuine("the signature of the reply does not fit its content: it was changed on the way");
            }
            covered(read, byId, body, "body");
            Element timestamp = XmlSigning.child(security, SecurityHeader.WSU, "Timestamp");
            if (timestamp != null) {
                covered(read, byId, timestamp, "timestamp");
                fresh(timestamp, now);
            }
        } catch (SAXException e) {
            throw new NotGenuine("the reply's signature cannot be read: " + e.getMessage());
        } catch (MarshalException | XMLSignatureException e) {
            throw new NotGenuine("the reply's signature cannot be checked: " + e.getMessage());
        } catch (KeyUnreadable e) {
            throw new NotGenuine("the reply's certificate cannot be read: " + e.getMessage());
        }
    }

    private static void mark(DOMValidateContext context, Element element) {
        if (element.hasAttributeNS(SecurityHeader.WSU, "Id")) {
            context.setIdAttributeNS(element, SecurityHeader.WSU, "Id");
        }
    }

    /** Ids must be unique, else a signature could be about another element than the one read. */
    private static void collect(Element element, Map<String, Element> byId) throws NotGenuine {
        String id = element.getAttributeNS(SecurityHeader.WSU, "Id");
        if (!id.isEmpty() && byId.put(id, element) != null) {
            throw new NotGenuine("the reply has the id " + id + " twice: its signature proves nothing");
        }
        for (Node node = element.getFirstChild(); node != null; node = node.getNextSibling()) {
            if (node instanceof Element child) {
                collect(child, byId);
            }
        }
    }

    private static void covered(XMLSignature signature, Map<String, Element> byId, Element element, String what)
            throws NotGenuine {
        for (Object given : signature.getSignedInfo().getReferences()) {
            String uri = ((Reference) given).getURI();
            if (uri != null && uri.startsWith("#") && byId.get(uri.substring(1)) == element) {
                return;
            }
        }
        throw new NotGenuine("the signature of the reply does not cover its " + what);
    }

    private static X509Certificate signer(Element signature, Element security) throws NotGenuine, KeyUnreadable {
        Element told = XmlSigning.child(
                XmlSigning.child(signature, XMLSignature.XMLNS, "KeyInfo"),
                SecurityHeader.WSSE,
                "SecurityTokenReference");
        Element reference = XmlSigning.child(told, SecurityHeader.WSSE, "Reference");
        Element token = XmlSigning.child(security, SecurityHeader.WSSE, "BinarySecurityToken");
        if (reference == null
                || token == null
                || !reference.getAttribute("URI").equals("#" + token.getAttributeNS(SecurityHeader.WSU, "Id"))) {
            throw new NotGenuine("the reply's signature does not name the certificate it was made with");
        }
        return Certificates.of(Base64.getMimeDecoder().decode(token.getTextContent()));
    }

    private static void trusted(X509Certificate signer, List<X509Certificate> expected, Instant now) throws NotGenuine {
        if (signer.getNotAfter().toInstant().isBefore(now)) {
            throw new NotGenuine("the reply is signed with a certificate that ended on "
                    + signer.getNotAfter().toInstant());
        }
        for (X509Certificate certificate : expected) {
            if (certificate.equals(signer)) {
                return;
            }
            try {
                signer.verify(certificate.getPublicKey());
                return;
            } catch (GeneralSecurityException e) {
                // not this one's signature; another may fit
            }
        }
        throw new NotGenuine("the reply is signed by " + Certificates.owner(signer)
                + ", whose certificate this endpoint does not expect");
    }

    private static void fresh(Element timestamp, Instant now) throws NotGenuine {
        Element expires = XmlSigning.child(timestamp, SecurityHeader.WSU, "Expires");
        try {
            if (expires != null
                    && OffsetDateTime.parse(expires.getTextContent().strip())
                            .toInstant()
                            .plusSeconds(SKEW_SECONDS)
                            .isBefore(now)) {
                throw new NotGenuine("the reply's timestamp ended at " + expires.getTextContent());
            }
        } catch (DateTimeException e) {
            throw new NotGenuine("the reply's timestamp “" + expires.getTextContent() + "” is no time");
        }
    }
}
