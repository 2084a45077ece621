package wirekettle.core.xml;

import java.io.ByteArrayInputStream;
import java.io.InputStream;
import java.io.Reader;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.xml.stream.XMLInputFactory;
import javax.xml.stream.XMLStreamException;
import javax.xml.stream.XMLStreamReader;

/** The one place where XML readers are made: no DTD support, no external entities. */
public final class SafeXml {
    /** One for each thread: a factory makes its readers one at a time. */
    private static final ThreadLocal<XMLInputFactory> FACTORY = ThreadLocal.withInitial(SafeXml::factory);

    /** Making a reader costs as much as reading a usual message: small ones are read by one that is used again. */
    private static final ThreadLocal<XMLInputFactory> SMALL = ThreadLocal.withInitial(() -> {
        XMLInputFactory factory = factory();
        factory.setProperty("reuse-instance", true);
        return factory;
    });

    /** The most bytes a reader may hold on to that is used again. */
    private static final int SMALL_BYTES = 64 << 10;

    /** The JDK's reader tells an undeclared prefix by the bare key of its message. */
    private static final Pattern UNBOUND = Pattern.compile("PrefixUnbound\\?([^&]*)&");

    private SafeXml() {}

    private static XMLInputFactory factory() {
        XMLInputFactory factory = XMLInputFactory.newDefaultFactory();
        factory.setProperty(XMLInputFactory.SUPPORT_DTD, false);
        factory.setProperty(XMLInputFactory.IS_SUPPORTING_EXTERNAL_ENTITIES, false);
        factory.setProperty(XMLInputFactory.IS_COALESCING, false);
        factory.setXMLResolver((publicId, systemId, base, namespace) -> {
            throw new XMLStreamException("external entities are refused");
        });
        return factory;
    }

    /** Returns a reader; a DOCTYPE shows up as a DTD event, which every caller must refuse. */
    public static XMLStreamReader reader(InputStream in) throws XMLStreamException {
        boolean small = in instanceof ByteArrayInputStream bytes && bytes.available() <= SMALL_BYTES;
        return (small ? SMALL : FACTORY).get().createXMLStreamReader(TagLimit.over(in));
    }

    /** Returns a reader over text already decoded; the same rules. */
    public static XMLStreamReader reader(Reader in) throws XMLStreamException {
        return FACTORY.get().createXMLStreamReader(TagLimit.over(in));
    }

    /** Closes quietly: nothing can be lost by a reader that will not close. */
    public static void close(XMLStreamReader reader) {
        if (reader != null) {
            try {
                reader.close();
            } catch (XMLStreamException ignored) {
                // a reader over memory has nothing to release
            }
        }
    }

    /** Returns the parser's reason without its own "ParseError at [row,col]" frame. */
    public static String reason(XMLStreamException e) {
        String message = String.valueOf(e.getMessage());
        int at = message.indexOf("Message: ");
        String reason = at < 0 ? message : message.substring(at + 9);
        Matcher unbound = UNBOUND.matcher(reason);
        if (unbound.find()) {
            return "the prefix " + unbound.group(1) + " is not declared";
        }
        return reason.contains("must start and end within the same entity")
                ? "the document ends here in the middle: it was cut off"
                : reason;
    }
}
