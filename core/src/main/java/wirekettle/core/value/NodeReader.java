package wirekettle.core.value;

import java.io.InputStream;
import javax.xml.stream.XMLStreamConstants;
import javax.xml.stream.XMLStreamException;
import javax.xml.stream.XMLStreamReader;
import wirekettle.core.xml.SafeXml;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/** Reads XML into a {@link Node}: {@code xsi:nil} and {@code xsi:type} are understood, DTDs are refused. */
public final class NodeReader {
    /** The namespace of {@code xsi:nil} and {@code xsi:type} (XML Schema 1.0 part 1, 2.6). */
    public static final String XSI = "http://www.w3.org/2001/XMLSchema-instance";

    /** The namespace of the SOAP 1.1 encoding, whose arrays name the type of their items in an attribute (5.4.2). */
    public static final String SOAP_ENCODING = "http://schemas.xmlsoap.org/soap/encoding/";

    private NodeReader() {}

    /**
     * Reads the whole document.
     *
     * @param document the name used in problems
     * @throws XmlProblem when it is no well-formed XML, has a DTD, or passes a limit
     */
    public static Node read(InputStream in, String document, XmlLimits limits) throws XmlProblem {
        XMLStreamReader reader = null;
        try {
            reader = SafeXml.reader(in);
            int[] elements = {0};
            Node root = null;
            while (reader.hasNext()) {
                int event = reader.next();
                if (event == XMLStreamConstants.DTD) {
                    throw problem(reader, "dtd-refused", "a DOCTYPE is refused for safety", document);
                }
                if (event == XMLStreamConstants.START_ELEMENT) {
                    root = element(reader, document, limits, 1, elements);
                }
            }
            return root;
        } catch (XMLStreamException e) {
            var at = e.getLocation();
            throw new XmlProblem(
                    "not-well-formed",
                    SafeXml.reason(e),
                    document,
                    at == null ? 0 : at.getLineNumber(),
                    at == null ? 0 : at.getColumnNumber());
        } finally {
            SafeXml.close(reader);
        }
    }

    private static Node element(XMLStreamReader reader, String document, XmlLimits limits, int depth, int[] elements)
            throws XMLStreamException, XmlProblem {
        if (depth > limits.maxDepth()) {
            throw problem(reader, "too-deep", "elements are nested deeper than " + limits.maxDepth(), document);
        }
        if (++elements[0] > limits.maxElements()) {
            throw problem(
                    reader, "too-many-elements", "there are more than " + limits.maxElements() + " elements", document);
        }
        Node.Builder node = Node.build(name(reader.getNamespaceURI(), reader.getLocalName()));
        for (int i = 0; i < reader.getAttributeCount(); i++) {
            String namespace = reader.getAttributeNamespace(i);
            String local = reader.getAttributeLocalName(i);
            String value = reader.getAttributeValue(i);
            if (SOAP_ENCODING.equals(namespace) && local.equals("arrayType")) {
                // kept as {namespace}local[n], since prefixes do not outlive the text
                int bracket = value.indexOf('[');
                Name item = typeName(
                        reader, value.substring(0, Math.max(0, bracket)).strip());
                node.attribute(name(namespace, local), item + value.substring(Math.max(0, bracket)));
            } else if (!XSI.equals(namespace)) {
                node.attribute(name(namespace, local), value);
            } else if (local.equals("nil") && (value.equals("true") || value.equals("1"))) {
                node.nil();
            } else if (local.equals("type")) {
                node.type(typeName(reader, value.strip()));
            }
        }
        while (true) {
            switch (reader.next()) {
                case XMLStreamConstants.START_ELEMENT -> node.add(
                        element(reader, document, limits, depth + 1, elements));
                case XMLStreamConstants.END_ELEMENT -> {
                    return node.done();
                }
                case XMLStreamConstants.CHARACTERS, XMLStreamConstants.CDATA, XMLStreamConstants.SPACE -> node.text(
                        reader.getText());
                default -> {}
            }
        }
    }

    private static Name typeName(XMLStreamReader reader, String value) {
        int colon = value.indexOf(':');
        String namespace = reader.getNamespaceURI(colon < 0 ? "" : value.substring(0, colon));
        return name(namespace, value.substring(colon + 1));
    }

    private static Name name(String namespace, String local) {
        return new Name(namespace == null ? "" : namespace, local);
    }

    private static XmlProblem problem(XMLStreamReader reader, String code, String message, String document) {
        var at = reader.getLocation();
        return new XmlProblem(code, message, document, at.getLineNumber(), at.getColumnNumber());
    }
}
