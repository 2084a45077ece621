package wirekettle.core.xml;

import java.io.ByteArrayInputStream;
import java.io.StringReader;
import java.util.HashMap;
import java.util.Map;
import javax.xml.stream.Location;
import javax.xml.stream.XMLStreamConstants;
import javax.xml.stream.XMLStreamException;
import javax.xml.stream.XMLStreamReader;
import wirekettle.core.value.Name;

/** Reads a document into {@link XmlElement}s, refusing DTDs and anything beyond the limits. */
public final class XmlTree {
    private final String document;
    private final XmlLimits limits;
    private final Map<Name, Name> names = new HashMap<>();

    private XmlTree(String document, XmlLimits limits) {
        this.document = document;
        this.limits = limits;
    }

    /**
     * Reads {@code bytes}.
     *
     * @param document the name used in problems
     * @return the root element
     * @throws XmlProblem when it is no well-formed XML, has a DTD, or passes a limit
     */
    public static XmlElement read(byte[] bytes, String document, XmlLimits limits) throws XmlProblem {
        return new XmlTree(document, limits).read(bytes);
    }

    /** Reads text already decoded; the same problems. */
    static XmlElement read(String text, String document, XmlLimits limits) throws XmlProblem {
        return new XmlTree(document, limits).parse(() -> SafeXml.reader(new StringReader(text)));
    }

    private interface Opening {
        XMLStreamReader open() throws XMLStreamException;
    }

    private XmlElement read(byte[] bytes) throws XmlProblem {
        refuseWhatIsNoXml(bytes);
        return parse(() -> SafeXml.reader(new ByteArrayInputStream(bytes)));
    }

    private XmlElement parse(Opening opening) throws XmlProblem {
        XMLStreamReader reader = null;
        try {
            reader = opening.open();
            return build(reader);
        } catch (XMLStreamException e) {
            Location at = e.getLocation();
            int line = at == null ? 0 : at.getLineNumber();
            int column = at == null ? 0 : at.getColumnNumber();
            throw new XmlProblem("not-well-formed", SafeXml.reason(e), document, line, column);
        } finally {
            SafeXml.close(reader);
        }
    }

    private void refuseWhatIsNoXml(byte[] bytes) throws XmlProblem {
        if (bytes.length == 0) {
            throw new XmlProblem("empty", "the document is empty", document, 1, 1);
        }
        if (bytes.length > limits.maxBytes()) {
            throw new XmlProblem(
                    "too-large", "the document is larger than " + (limits.maxBytes() >> 20) + " MB", document, 0, 0);
        }
        String start = new String(bytes, 0, Math.min(bytes.length, 400), java.nio.charset.StandardCharsets.ISO_8859_1)
                .strip()
                .toLowerCase(java.util.Locale.ROOT);
        if (start.startsWith("<!doctype html") || start.startsWith("<html")) {
            throw new XmlProblem(
                    "html-page",
                    "this is an HTML page, not a service description; save the address that ends in ?wsdl instead",
                    document,
                    1,
                    1);
        }
    }

    private XmlElement build(XMLStreamReader reader) throws XMLStreamException, XmlProblem {
        XmlElement root = null;
        XmlElement current = null;
        int depth = 0;
        int elements = 0;
        while (reader.hasNext()) {
            switch (reader.next()) {
                case XMLStreamConstants.START_ELEMENT -> {
                    Location at = reader.getLocation();
                    if (++depth > limits.maxDepth() || ++elements > limits.maxElements()) {
                        throw new XmlProblem(
                                depth > limits.maxDepth() ? "too-deep" : "too-many-elements",
                                depth > limits.maxDepth()
                                        ? "elements are nested deeper than " + limits.maxDepth()
                                        : "there are more than " + limits.maxElements() + " elements",
                                document,
                                at.getLineNumber(),
                                at.getColumnNumber());
                    }
                    XmlElement element = element(reader, current, at);
                    if (current == null) {
                        root = element;
                    } else {
                        current.add(element);
                    }
                    current = element;
                }
                case XMLStreamConstants.END_ELEMENT -> {
                    depth--;
                    current = current.parent();
                }
                case XMLStreamConstants.CHARACTERS, XMLStreamConstants.CDATA -> {
                    if (!reader.isWhiteSpace() && current != null) {
                        current.addText(reader.getTextCharacters(), reader.getTextStart(), reader.getTextLength());
                    }
                }
                case XMLStreamConstants.DTD -> {
                    Location at = reader.getLocation();
                    throw new XmlProblem(
                            "dtd-refused",
                            "the document has a DOCTYPE; DTDs and entities are refused for safety: remove it",
                            document,
                            at.getLineNumber(),
                            at.getColumnNumber());
                }
                default -> {}
            }
        }
        return root;
    }

    private XmlElement element(XMLStreamReader reader, XmlElement parent, Location at) {
        int count = reader.getAttributeCount();
        String[] attributes = count == 0 ? null : new String[count * 3];
        for (int i = 0; i < count; i++) {
            String namespace = reader.getAttributeNamespace(i);
            attributes[i * 3] = namespace == null ? "" : namespace;
            attributes[i * 3 + 1] = reader.getAttributeLocalName(i);
            attributes[i * 3 + 2] = reader.getAttributeValue(i);
        }
        Map<String, String> prefixes = parent == null ? Map.of() : parent.scope();
        int declared = reader.getNamespaceCount();
        if (declared > 0) {
            prefixes = new HashMap<>(prefixes);
            for (int i = 0; i < declared; i++) {
                String prefix = reader.getNamespacePrefix(i);
                String uri = reader.getNamespaceURI(i);
                prefixes.put(prefix == null ? "" : prefix, uri == null ? "" : uri);
            }
        }
        String namespace = reader.getNamespaceURI();
        Name name = new Name(namespace == null ? "" : namespace, reader.getLocalName());
        Name known = names.putIfAbsent(name, name);
        return new XmlElement(
                known == null ? name : known,
                parent,
                at.getLineNumber(),
                Math.max(1, at.getColumnNumber()),
                attributes,
                prefixes);
    }
}
