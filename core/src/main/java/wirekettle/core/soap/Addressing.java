package wirekettle.core.soap;

import java.util.UUID;
import wirekettle.core.value.Node;
import wirekettle.core.value.XmlText;

/** The headers of WS-Addressing 1.0 for a call over HTTP (WS-Addressing 1.0 SOAP Binding, 3). */
final class Addressing {
    static final String NAMESPACE = "http://www.w3.org/2005/08/addressing";

    private Addressing() {}

    /** The blocks of one message, and the id its reply must relate to. */
    record Blocks(String xml, String messageId) {}

    static Blocks blocks(EnvelopeText envelope, String address, String action) {
        String id = "urn:uuid:" + UUID.randomUUID();
        StringBuilder out = new StringBuilder();
        block(out, envelope, "Action", action);
        block(out, envelope, "To", address);
        block(out, envelope, "MessageID", id);
        if (!envelope.hasHeader("ReplyTo")) {
            out.append("<wsa:ReplyTo xmlns:wsa=\"")
                    .append(NAMESPACE)
                    .append("\"><wsa:Address>")
                    .append(NAMESPACE);
            out.append("/anonymous</wsa:Address></wsa:ReplyTo>");
        }
        return new Blocks(out.toString(), envelope.hasHeader("MessageID") ? null : id);
    }

    private static void block(StringBuilder out, EnvelopeText envelope, String local, String value) {
        if (!envelope.hasHeader(local)) {
            out.append("<wsa:")
                    .append(local)
                    .append(" xmlns:wsa=\"")
                    .append(NAMESPACE)
                    .append("\">");
            out.append(XmlText.escape(value)).append("</wsa:").append(local).append('>');
        }
    }

    /** Returns what is odd about a reply's addressing, or null. */
    static String note(Reply reply, String messageId) {
        for (Node header : reply.headers()) {
            if (header.name().namespace().equals(NAMESPACE)
                    && header.name().local().equals("RelatesTo")
                    && messageId != null
                    && !header.text().strip().equals(messageId)) {
                return "the reply relates to the message " + header.text().strip() + ", not to the one sent";
            }
        }
        return null;
    }
}
