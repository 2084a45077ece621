package wirekettle.core.request;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import javax.xml.parsers.DocumentBuilderFactory;
import javax.xml.parsers.ParserConfigurationException;
import org.w3c.dom.Document;
import org.w3c.dom.Element;
import org.w3c.dom.Node;
import org.xml.sax.SAXException;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.schema.SchemaCheck;
import wirekettle.core.soap.attachments.FileMark;

/**
 * Holds a whole message as it would be sent against the schemas of its contract: every header block and body element.
 */
public final class MessageCheck {
    private final SchemaCheck schemas;
    private final SoapVersion version;
    private final DocumentBuilderFactory reader;

    /** Makes a check; the version is that of the envelope, null for the bare body element. */
    public MessageCheck(SchemaCheck schemas, SoapVersion version) {
        this.schemas = schemas;
        this.version = version;
        this.reader = DocumentBuilderFactory.newDefaultNSInstance();
        try {
            reader.setFeature("http://apache.org/xml/features/disallow-doctype-decl", true);
        } catch (ParserConfigurationException e) {
            throw new IllegalStateException("the JDK's own reader can refuse a DOCTYPE", e);
        }
    }

    /** Returns what is wrong with a message, one sentence each; empty when it is valid. */
    public List<String> problems(byte[] given) {
        byte[] message = FileMark.standIns(given);
        if (version == null) {
            return schemas.problems(message);
        }
        try {
            Document document = reader.newDocumentBuilder().parse(new ByteArrayInputStream(message));
            List<String> problems = new ArrayList<>();
            for (Element part : elements(document.getDocumentElement())) {
                for (Element block : elements(part)) {
                    problems.addAll(schemas.problems(block));
                }
            }
            return problems;
        } catch (SAXException | IOException | ParserConfigurationException e) {
            return List.of("it is no XML: " + e.getMessage());
        }
    }

    private static List<Element> elements(Element parent) {
        List<Element> found = new ArrayList<>();
        for (Node child = parent.getFirstChild(); child != null; child = child.getNextSibling()) {
            if (child instanceof Element element) {
                found.add(element);
            }
        }
        return found;
    }
}
