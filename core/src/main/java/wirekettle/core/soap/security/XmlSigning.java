package wirekettle.core.soap.security;

import java.io.StringReader;
import java.io.StringWriter;
import java.security.GeneralSecurityException;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import javax.xml.XMLConstants;
import javax.xml.crypto.MarshalException;
import javax.xml.crypto.dom.DOMStructure;
import javax.xml.crypto.dsig.CanonicalizationMethod;
import javax.xml.crypto.dsig.DigestMethod;
import javax.xml.crypto.dsig.Reference;
import javax.xml.crypto.dsig.SignedInfo;
import javax.xml.crypto.dsig.Transform;
import javax.xml.crypto.dsig.XMLSignatureException;
import javax.xml.crypto.dsig.XMLSignatureFactory;
import javax.xml.crypto.dsig.dom.DOMSignContext;
import javax.xml.crypto.dsig.keyinfo.KeyInfo;
import javax.xml.crypto.dsig.spec.C14NMethodParameterSpec;
import javax.xml.crypto.dsig.spec.TransformParameterSpec;
import javax.xml.parsers.DocumentBuilderFactory;
import javax.xml.parsers.ParserConfigurationException;
import javax.xml.transform.OutputKeys;
import javax.xml.transform.Transformer;
import javax.xml.transform.TransformerException;
import javax.xml.transform.TransformerFactory;
import javax.xml.transform.dom.DOMSource;
import javax.xml.transform.stream.StreamResult;
import org.w3c.dom.Document;
import org.w3c.dom.Element;
import org.w3c.dom.Node;
import org.xml.sax.InputSource;
import org.xml.sax.SAXException;

/**
 * Signs body and timestamp of a message (Web Services Security: SOAP Message Security 1.1, 8) by the JDK's XML
 * signature: exclusive canonical form, SHA-256.
 */
public final class XmlSigning {
    private static final String RSA = "http://www.w3.org/2001/04/xmldsig-more#rsa-sha256";
    private static final String ECDSA = "http://www.w3.org/2001/04/xmldsig-more#ecdsa-sha256";

    private XmlSigning() {}

    /** A message that cannot be signed as it stands. */
    public static final class NotSignable extends Exception {
        NotSignable(String message) {
            super(message, null, false, false);
        }
    }

    /**
     * Returns the signature to be put at the end of the security header of an envelope; the envelope must carry the
     * header with its certificate already, and its body the id {@link SecurityHeader#BODY_ID}.
     */
    public static String sign(String envelope, KeyMaterial key) throws NotSignable {
        try {
            Document document = parse(envelope);
            Element header = child(document.getDocumentElement(), null, "Header");
            Element security = child(header, SecurityHeader.WSSE, "Security");
            Element body = child(document.getDocumentElement(), null, "Body");
            Element timestamp = child(security, SecurityHeader.WSU, "Timestamp");
            XMLSignatureFactory factory = XMLSignatureFactory.getInstance("DOM");
            List<Reference> references = new ArrayList<>();
            references.add(reference(factory, SecurityHeader.BODY_ID));
            if (timestamp != null) {
                references.add(reference(factory, SecurityHeader.TIMESTAMP_ID));
            }
            SignedInfo info = factory.newSignedInfo(
                    factory.newCanonicalizationMethod(CanonicalizationMethod.EXCLUSIVE, (C14NMethodParameterSpec) null),
                    factory.newSignatureMethod(algorithm(key), null),
                    references);
            KeyInfo told = factory.getKeyInfoFactory()
                    .newKeyInfo(Collections.singletonList(new DOMStructure(tokenReference(document))));
            DOMSignContext context = new DOMSignContext(key.key(), security);
            context.setDefaultNamespacePrefix("ds");
            context.setIdAttributeNS(body, SecurityHeader.WSU, "Id");
            if (timestamp != null) {
                context.setIdAttributeNS(timestamp, SecurityHeader.WSU, "Id");
            }
            factory.newXMLSignature(info, told).sign(context);
            return text(security.getLastChild());
        } catch (SAXException e) {
            throw new NotSignable("a message that is not well-formed cannot be signed: " + e.getMessage());
        } catch (MarshalException | XMLSignatureException | GeneralSecurityException e) {
            throw new NotSignable("the message cannot be signed: " + e.getMessage());
        }
    }

    /** Returns the signature algorithm of a key. */
    static String algorithm(KeyMaterial key) {
        return key.key().getAlgorithm().equals("EC") ? ECDSA : RSA;
    }

    private static Reference reference(XMLSignatureFactory factory, String id) throws GeneralSecurityException {
        Transform exclusive = factory.newTransform(CanonicalizationMethod.EXCLUSIVE, (TransformParameterSpec) null);
        return factory.newReference(
                "#" + id, factory.newDigestMethod(DigestMethod.SHA256, null), List.of(exclusive), null, null);
    }

    private static Element tokenReference(Document document) {
        Element told = document.createElementNS(SecurityHeader.WSSE, "wsse:SecurityTokenReference");
        told.setAttributeNS(XMLConstants.XMLNS_ATTRIBUTE_NS_URI, "xmlns:wsse", SecurityHeader.WSSE);
        Element reference = document.createElementNS(SecurityHeader.WSSE, "wsse:Reference");
        reference.setAttribute("URI", "#" + SecurityHeader.CERTIFICATE_ID);
        reference.setAttribute("ValueType", SecurityHeader.X509_TOKEN + "#X509v3");
        told.appendChild(reference);
        return told;
    }

    static Document parse(String xml) throws SAXException {
        try {
            DocumentBuilderFactory factory = DocumentBuilderFactory.newDefaultInstance();
            factory.setNamespaceAware(true);
            factory.setFeature("http://apache.org/xml/features/disallow-doctype-decl", true);
            factory.setFeature(XMLConstants.FEATURE_SECURE_PROCESSING, true);
            var builder = factory.newDocumentBuilder();
            // the default handler writes to the console
            builder.setErrorHandler(null);
            builder.setErrorHandler(new org.xml.sax.helpers.DefaultHandler());
            return builder.parse(new InputSource(new StringReader(xml)));
        } catch (ParserConfigurationException | java.io.IOException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Returns the first child element of a name; a null namespace means that of the parent. */
    static Element child(Element parent, String namespace, String local) {
        for (Node node = parent == null ? null : parent.getFirstChild(); node != null; node = node.getNextSibling()) {
            if (node instanceof Element element
                    && local.equals(element.getLocalName())
                    && (namespace == null ? parent.getNamespaceURI() : namespace).equals(element.getNamespaceURI())) {
                return element;
            }
        }
        return null;
    }

    static String text(Node node) {
        try {
            Transformer transformer = TransformerFactory.newDefaultInstance().newTransformer();
            transformer.setOutputProperty(OutputKeys.OMIT_XML_DECLARATION, "yes");
            StringWriter out = new StringWriter();
            transformer.transform(new DOMSource(node), new StreamResult(out));
            return out.toString();
        } catch (TransformerException e) {
            throw new IllegalStateException(e);
        }
    }
}
