package wirekettle.core.soap;

import java.util.regex.Pattern;
import wirekettle.core.contract.SoapVersion;

/**
 * An envelope's text and the places in it where header blocks go. Only the envelope's own frame is read, so that what
 * stands in the body stays as it was typed, well-formed or not.
 */
final class EnvelopeText {
    private static final Pattern ENVELOPE = Pattern.compile("<(?:[\\w.-]+:)?Envelope[\\s>]");

    private final String text;
    private int at;

    // what was found: the frame's prefix with its colon, the header's inside, the body's start tag
    private String prefix = "";
    private SoapVersion version;
    private int headerFrom = -1;
    private int headerInside = -1;
    private int headerTo = -1;
    private int bodyTag = -1;

    private EnvelopeText(String text) {
        this.text = text;
    }

    /** Returns the frame of a text, or null when it does not begin as an envelope. */
    static EnvelopeText of(String text) {
        EnvelopeText found = new EnvelopeText(text);
        return ENVELOPE.matcher(text).find() && found.read() ? found : null;
    }

    private boolean read() {
        Tag root = next();
        if (root == null || !root.local().equals("Envelope")) {
            return false;
        }
        prefix = root.name().substring(0, root.name().length() - "Envelope".length());
        String start = text.substring(root.from(), root.to());
        version = start.contains(SoapVersion.SOAP_12.envelope())
                ? SoapVersion.SOAP_12
                : start.contains(SoapVersion.SOAP_11.envelope()) ? SoapVersion.SOAP_11 : null;
        Tag tag = next();
        if (tag != null && tag.local().equals("Header") && !tag.closing()) {
            headerFrom = tag.from();
            headerInside = tag.empty() ? -1 : tag.to();
            headerTo = tag.to();
            for (int depth = tag.empty() ? 0 : 1; depth > 0; ) {
                Tag inside = next();
                if (inside == null) {
                    return false;
                }
                depth += inside.closing() ? -1 : inside.empty() ? 0 : 1;
                headerTo = inside.to();
            }
            tag = next();
        }
        if (version == null || tag == null || !tag.local().equals("Body") || tag.closing()) {
            return false;
        }
        bodyTag = tag.from();
        return true;
    }

    private record Tag(int from, int to, String name, boolean closing, boolean empty) {
        String local() {
            return name.substring(name.indexOf(':') + 1);
        }
    }

    /**
     * Returns the next tag, past text, comments, CDATA and instructions; null at the end or where nothing is closed.
     */
    private Tag next() {
        while (true) {
            int from = text.indexOf('<', at);
            if (from < 0) {
                return null;
            }
            String until = text.startsWith("<!--", from)
                    ? "-->"
                    : text.startsWith("<![CDATA[", from) ? "]]>" : text.startsWith("<?", from) ? "?>" : null;
            if (until == null) {
                return tag(from);
            }
            int end = text.indexOf(until, from);
            if (end < 0) {
                return null;
            }
            at = end + until.length();
        }
    }

    private Tag tag(int from) {
        char quote = 0;
        for (int i = from + 1; i < text.length(); i++) {
            char c = text.charAt(i);
            if (quote != 0) {
                quote = c == quote ? 0 : quote;
            } else if (c == '"' || c == '\'') {
                quote = c;
            } else if (c == '>') {
                at = i + 1;
                boolean closing = text.charAt(from + 1) == '/';
                int name = from + (closing ? 2 : 1);
                int end = name;
                while (end < i && !Character.isWhitespace(text.charAt(end)) && text.charAt(end) != '/') {
                    end++;
                }
                return new Tag(from, i + 1, text.substring(name, end), closing, text.charAt(i - 1) == '/');
            }
        }
        return null;
    }

    SoapVersion version() {
        return version;
    }

    /** Returns the prefix of the envelope's namespace with its colon, empty for the default namespace. */
    String prefix() {
        return prefix;
    }

    /** Tells whether the header has a block of a local name already. */
    boolean hasHeader(String local) {
        return headerFrom >= 0
                && Pattern.compile("<(?:[\\w.-]+:)?" + Pattern.quote(local) + "[\\s/>]")
                        .matcher(text.substring(headerFrom, headerTo))
                        .find();
    }

    /**
     * Returns the text with blocks at the end of its header.
     *
     * @param blocks XML text, may be empty
     * @param bodyAttributes what is added to the body's start tag, with a space before it, may be empty
     */
    String with(String blocks, String bodyAttributes) {
        StringBuilder out = new StringBuilder(text.length() + blocks.length() + 80);
        if (headerInside >= 0) {
            int end = text.lastIndexOf('<', headerTo - 1);
            out.append(text, 0, end).append(blocks).append(text, end, headerTo);
        } else if (blocks.isEmpty()) {
            out.append(text, 0, headerFrom >= 0 ? headerTo : bodyTag);
        } else {
            out.append(text, 0, headerFrom >= 0 ? headerFrom : bodyTag);
            out.append('<').append(prefix).append("Header>").append(blocks);
            out.append("</").append(prefix).append("Header>");
        }
        int rest = headerFrom >= 0 ? headerTo : bodyTag;
        int name = bodyTag + 1 + prefix.length() + "Body".length();
        out.append(text, rest, name).append(bodyAttributes).append(text, name, text.length());
        return out.toString();
    }
}
