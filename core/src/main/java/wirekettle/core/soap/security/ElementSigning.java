package wirekettle.core.soap.security;

import java.security.GeneralSecurityException;
import java.util.ArrayList;
import java.util.List;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.xml.crypto.MarshalException;
import javax.xml.crypto.dsig.CanonicalizationMethod;
import javax.xml.crypto.dsig.DigestMethod;
import javax.xml.crypto.dsig.Reference;
import javax.xml.crypto.dsig.SignedInfo;
import javax.xml.crypto.dsig.Transform;
import javax.xml.crypto.dsig.XMLSignatureException;
import javax.xml.crypto.dsig.XMLSignatureFactory;
import javax.xml.crypto.dsig.dom.DOMSignContext;
import javax.xml.crypto.dsig.keyinfo.KeyInfo;
import javax.xml.crypto.dsig.keyinfo.KeyInfoFactory;
import javax.xml.crypto.dsig.spec.C14NMethodParameterSpec;
import javax.xml.crypto.dsig.spec.TransformParameterSpec;
import org.w3c.dom.Attr;
import org.w3c.dom.Document;
import org.w3c.dom.Element;
import org.w3c.dom.Node;
import org.xml.sax.SAXException;

/**
 * Signs elements inside a message (XML Signature Syntax and Processing 1.1) by the JDK's XML signature, with SHA-256: in
 * the place of every {@link SignatureMark}. The signature is enveloped where it stands in the element that is signed,
 * else detached. The element is referred to by its id.
 */
public final class ElementSigning {
    private static final Pattern STEP = Pattern.compile("/(?:\\{([^}]*)})?([^/{}#~]+)(?:#(\\d+))?(?:~\\{[^}]*}[^/]+)?");
    private static final List<String> IDS = List.of("Id", "ID", "id");

    private ElementSigning() {}

    /**
     * Puts signatures in the places of the marks.
     *
     * @param envelope the whole message as it is sent
     * @param keys gives the key of a name; an empty name is the endpoint's own
     * @throws XmlSigning.NotSignable saying what is missing
     */
    public static String sign(String envelope, Function<String, KeyMaterial> keys) throws XmlSigning.NotSignable {
        String text = envelope;
        for (SignatureMark.Place place = SignatureMark.first(text); place != null; place = SignatureMark.first(text)) {
            KeyMaterial key = keys.apply(place.mark().key());
            if (key == null) {
                throw new XmlSigning.NotSignable(
                        "the message is to be signed, and its endpoint has no key to sign with:"
                                + " name one in the fill or at the endpoint");
            }
            text = text.substring(0, place.from()) + signature(text, place.mark(), key) + text.substring(place.to());
        }
        return text;
    }

    private static String signature(String message, SignatureMark mark, KeyMaterial key) throws XmlSigning.NotSignable {
        try {
            Document document = XmlSigning.parse(message);
            Element place = marked(document.getDocumentElement(), mark.id());
            Element over = over(document, mark.over());
            if (place == null || over == null) {
                throw new XmlSigning.NotSignable("the element to be signed is not in the message: "
                        + mark.over().replaceAll("\\{[^}]*}", ""));
            }
            Attr id = id(over);
            Node parent = place.getParentNode();
            Node next = place.getNextSibling();
            parent.removeChild(place);
            boolean enveloped = over.isSameNode(parent) || holds(over, parent);
            String canonical = mark.inclusive() ? CanonicalizationMethod.INCLUSIVE : CanonicalizationMethod.EXCLUSIVE;
            XMLSignatureFactory factory = XMLSignatureFactory.getInstance("DOM");
            List<Transform> transforms = new ArrayList<>();
            if (enveloped) {
                transforms.add(factory.newTransform(Transform.ENVELOPED, (TransformParameterSpec) null));
            }
            transforms.add(factory.newTransform(canonical, (TransformParameterSpec) null));
            Reference reference = factory.newReference(
                    "#" + id.getValue(), factory.newDigestMethod(DigestMethod.SHA256, null), transforms, null, null);
            SignedInfo info = factory.newSignedInfo(
                    factory.newCanonicalizationMethod(canonical, (C14NMethodParameterSpec) null),
                    factory.newSignatureMethod(XmlSigning.algorithm(key), null),
                    List.of(reference));
            KeyInfoFactory told = factory.getKeyInfoFactory();
            KeyInfo certificate = told.newKeyInfo(List.of(told.newX509Data(List.of(key.certificate()))));
            DOMSignContext context =
                    next == null ? new DOMSignContext(key.key(), parent) : new DOMSignContext(key.key(), parent, next);
            context.setDefaultNamespacePrefix("ds");
            context.setIdAttributeNS(over, id.getNamespaceURI(), id.getLocalName());
            factory.newXMLSignature(info, certificate).sign(context);
            Node made = next == null ? parent.getLastChild() : next.getPreviousSibling();
            // base64 may stand in one line: the JDK breaks it with carriage returns
            return XmlSigning.text(made).replace("&#13;", "");
        } catch (SAXException e) {
            throw new XmlSigning.NotSignable("a message that is not well-formed cannot be signed: " + e.getMessage());
        } catch (MarshalException | XMLSignatureException | GeneralSecurityException e) {
            throw new XmlSigning.NotSignable("the message cannot be signed: " + e.getMessage());
        }
    }

    private static Attr id(Element over) throws XmlSigning.NotSignable {
        for (String name : IDS) {
            Attr id = over.getAttributeNodeNS(null, name);
            if (id != null && !id.getValue().isBlank()) {
                return id;
            }
        }
        throw new XmlSigning.NotSignable("the element " + over.getLocalName()
                + " is to be signed and has no id to be referred to by: fill its attribute Id");
    }

    private static boolean holds(Element outer, Node node) {
        for (Node at = node; at != null; at = at.getParentNode()) {
            if (outer.isSameNode(at)) {
                return true;
            }
        }
        return false;
    }

    private static Element marked(Element element, String id) {
        if (id.equals(element.getAttribute("Id"))) {
            return element;
        }
        for (Node node = element.getFirstChild(); node != null; node = node.getNextSibling()) {
            Element found = node instanceof Element child ? marked(child, id) : null;
            if (found != null) {
                return found;
            }
        }
        return null;
    }

    /** Returns the element of a path; the first step is one of body or header. */
    private static Element over(Document document, String path) {
        Element at = null;
        Matcher step = STEP.matcher(path);
        while (step.find()) {
            String namespace = step.group(1) == null ? "" : step.group(1);
            int wanted = step.group(3) == null ? 1 : Integer.parseInt(step.group(3));
            at = at == null
                    ? ofEnvelope(document.getDocumentElement(), namespace, step.group(2))
                    : child(at, namespace, step.group(2), wanted);
            if (at == null) {
                return null;
            }
        }
        return at;
    }

    private static Element ofEnvelope(Element envelope, String namespace, String local) {
        for (Node part = envelope.getFirstChild(); part != null; part = part.getNextSibling()) {
            Element found = part instanceof Element its ? child(its, namespace, local, 1) : null;
            if (found != null) {
                return found;
            }
        }
        return null;
    }

    private static Element child(Element parent, String namespace, String local, int wanted) {
        int seen = 0;
        for (Node node = parent.getFirstChild(); node != null; node = node.getNextSibling()) {
            boolean its = node instanceof Element element
                    && local.equals(element.getLocalName())
                    && namespace.equals(element.getNamespaceURI() == null ? "" : element.getNamespaceURI());
            if (its && ++seen == wanted) {
                return (Element) node;
            }
        }
        return null;
    }
}
