package wirekettle.core.soap;

import java.nio.charset.Charset;
import java.nio.charset.IllegalCharsetNameException;
import java.nio.charset.StandardCharsets;
import java.nio.charset.UnsupportedCharsetException;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.soap.attachments.Multipart;

/** Text as it is on the wire: in the charset the HTTP header names (RFC 7303, 3), else the one the XML declares. */
final class WireText {
    private static final Pattern DECLARED =
            Pattern.compile("^\\uFEFF?\\s*<\\?xml[^>]*?encoding\\s*=\\s*[\"']([\\w.-]+)[\"'][^>]*\\?>");

    private static final String UTF_8 = "charset=utf-8";

    private WireText() {}

    private static Charset charset(byte[] content, String contentType) {
        if (contentType.regionMatches(
                true, Math.max(0, contentType.length() - UTF_8.length()), UTF_8, 0, UTF_8.length())) {
            // what nearly everybody sends
            return StandardCharsets.UTF_8;
        }
        if (content.length > 1) {
            int mark = (content[0] & 0xff) << 8 | content[1] & 0xff;
            if (mark == 0xfeff || mark == 0xfffe) {
                return StandardCharsets.UTF_16;
            }
        }
        String name = Multipart.parameter(contentType, "charset");
        if (name == null && !mayDeclare(content)) {
            return StandardCharsets.UTF_8;
        }
        if (name == null) {
            Matcher declared = DECLARED.matcher(
                    new String(content, 0, Math.min(200, content.length), StandardCharsets.ISO_8859_1));
            name = declared.find() ? declared.group(1) : "utf-8";
        }
        try {
            return Charset.forName(name);
        } catch (IllegalCharsetNameException | UnsupportedCharsetException e) {
            return StandardCharsets.UTF_8;
        }
    }

    /** Tells whether content may begin with an XML declaration: it does not where it begins with an element. */
    private static boolean mayDeclare(byte[] content) {
        return content.length < 2 || content[0] != '<' || content[1] == '?';
    }

    /** Returns content in UTF-8; the same array when it is already. */
    static byte[] utf8(byte[] content, String contentType) {
        Charset charset = charset(content, contentType);
        return charset.equals(StandardCharsets.UTF_8) || charset.equals(StandardCharsets.US_ASCII)
                ? content
                : new String(content, charset).getBytes(StandardCharsets.UTF_8);
    }

    /** Returns UTF-8 content without an XML declaration that names another charset. */
    static byte[] withoutDeclaration(byte[] content) {
        String start = new String(content, 0, Math.min(200, content.length), StandardCharsets.UTF_8);
        Matcher declared = DECLARED.matcher(start);
        if (!declared.find() || declared.group(1).equalsIgnoreCase("utf-8")) {
            return content;
        }
        String text = new String(content, StandardCharsets.UTF_8);
        return text.substring(declared.end()).getBytes(StandardCharsets.UTF_8);
    }
}
