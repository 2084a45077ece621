package wirekettle.core.schema;

import java.io.IOException;
import java.io.InputStream;
import java.util.Map;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;
import wirekettle.core.xml.XmlTree;

/**
 * Schemas of standards that contracts import from far away or without bringing them along: what they define is the same
 * everywhere, so nothing is fetched for them.
 */
public final class KnownSchemas {
    /** The namespace of {@code xml:lang} and its like; its prefix is always {@code xml} (Namespaces in XML 1.0, 3). */
    public static final String XML = "http://www.w3.org/XML/1998/namespace";

    private static final Map<String, String> FILES = Map.of(
            XML,
            "xml.xsd",
            "http://www.w3.org/2005/05/xmlmime",
            "xmlmime.xsd",
            "http://www.w3.org/2004/08/xop/include",
            "xop-include.xsd",
            "http://schemas.xmlsoap.org/ws/2004/08/addressing",
            "addressing-2004.xsd",
            "http://www.w3.org/2005/08/addressing",
            "addressing-2005.xsd");

    private KnownSchemas() {}

    /** Tells whether a namespace's schema is known without fetching it. */
    public static boolean has(String namespace) {
        return FILES.containsKey(namespace) || SoapEncoding.NAMESPACE.equals(namespace);
    }

    /** Returns the schema of a namespace, as if it were a document of the contract; null when it is not known. */
    public static SchemaDocument of(String namespace) {
        if (SoapEncoding.NAMESPACE.equals(namespace)) {
            return SoapEncoding.schema();
        }
        String file = FILES.get(namespace);
        if (file == null) {
            return null;
        }
        String name = file + " (built in)";
        try (InputStream in = KnownSchemas.class.getResourceAsStream("/schemas/" + file)) {
            return new SchemaDocument(XmlTree.read(in.readAllBytes(), name, XmlLimits.DOCUMENTS), name, namespace);
        } catch (IOException | XmlProblem e) {
            throw new IllegalStateException(name, e);
        }
    }
}
