package wirekettle.core.soap;

import java.nio.charset.Charset;
import java.nio.charset.CharsetEncoder;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.soap.attachments.FileMark;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.soap.attachments.Multipart;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.soap.attachments.Xop;
import wirekettle.core.soap.security.ElementSigning;
import wirekettle.core.soap.security.KeyMaterial;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.soap.security.SecurityHeader;
import wirekettle.core.soap.security.SignatureMark;
import wirekettle.core.soap.security.XmlSigning;
import wirekettle.core.value.Content;
import wirekettle.core.value.Name;

/**
 * Makes of a message what really travels to an endpoint: with its header blocks, addressing, security header and
 * signature, in its charset, packed as MTOM. Safe for several threads.
 */
final class Dressing {
    private static final Pattern DECLARATION = Pattern.compile("^\\s*<\\?xml[^>]*\\?>");

    private final EndpointReach reach;
    private final String action;
    private final SoapVersion version;
    private final Set<Name> binary;
    private final KeyMaterial signing;

    /**
     * Makes a dressing.
     *
     * @param version the SOAP version of the port
     * @param action the operation's action
     * @param binary the elements that hold base64
     */
    Dressing(EndpointReach reach, SoapVersion version, String action, Set<Name> binary) {
        this.reach = reach;
        this.version = version;
        this.action = action;
        this.binary = binary;
        this.signing = reach.signKey();
    }

    /**
     * What travels.
     *
     * @param envelope the envelope's text, before it is packed
     * @param contentType its HTTP content type
     * @param content the HTTP content
     * @param messageId what the reply must relate to, null when addressing is off
     */
    record Dressed(String envelope, String contentType, Content content, String messageId) {}

    /** Returns what travels for a message; a text that is no envelope travels as it is. */
    Dressed dress(byte[] given) throws XmlSigning.NotSignable, Folders.NoSuchFile {
        EndpointSettings settings = reach.settings();
        // a signature is over the content itself (XOP 1.0, 3), and base64 is no ASCII in every charset
        boolean signs = SignatureMark.in(given);
        boolean whole = signing != null || signs || "A".getBytes(charset()).length > 1;
        byte[] message = whole ? FileMark.inMemory(given, reach.folders()) : given;
        EnvelopeText frame = null;
        String text = null;
        if (signs
                || settings.addressing()
                || settings.security().sends()
                || !settings.soapHeaders().isEmpty()) {
            text = new String(message, StandardCharsets.UTF_8);
            frame = EnvelopeText.of(text);
        }
        String messageId = null;
        if (frame != null) {
            StringBuilder blocks = new StringBuilder();
            for (String block : settings.soapHeaders()) {
                if (!frame.hasHeader(local(block))) {
                    String its =
                            reach.session() == null ? block : reach.session().filled(block);
                    // a block for the session is nothing outside one
                    blocks.append(its.contains(Session.MARK) ? "" : SecretMarks.filled(its, reach.secrets()));
                }
            }
            if (settings.addressing()) {
                Addressing.Blocks addressing = Addressing.blocks(frame, reach.address(), action);
                blocks.append(addressing.xml());
                messageId = addressing.messageId();
            }
            boolean secured = settings.security().sends() && !frame.hasHeader("Security");
            boolean signed = secured && signing != null;
            if (secured) {
                blocks.append(security(frame));
            }
            String id = " xmlns:wsu=\"" + SecurityHeader.WSU + "\" wsu:Id=\"" + SecurityHeader.BODY_ID + "\"";
            text = frame.with(blocks.toString(), signed ? id : "");
            if (signs && !reach.provesNothing()) {
                text = ElementSigning.sign(text, name -> name.isEmpty() ? signing : key(name));
            }
            if (signed) {
                String signature = XmlSigning.sign(text, signing);
                int end = text.indexOf("</wsse:Security>");
                text = text.substring(0, end) + signature + text.substring(end);
            }
        }
        return packed(text, message, messageId);
    }

    private KeyMaterial key(String name) {
        try {
            return reach.secrets().key(name);
        } catch (Secrets.SecretMissing e) {
            return null;
        }
    }

    private String security(EnvelopeText frame) {
        EndpointSettings.Security security = reach.settings().security();
        Instant now = reach.clock().instant();
        SecurityHeader header = new SecurityHeader(frame.prefix(), frame.version(), security.optional());
        if (security.lifetimeSeconds() != null) {
            header.timestamp(now, security.lifetimeSeconds());
        }
        if (signing != null) {
            header.certificate(signing);
        }
        switch (security.token()) {
            case TEXT -> header.userName(security.user(), reach.secrets().text(security.secret()));
            case DIGEST -> header.userNameDigest(
                    security.user(), reach.secrets().text(security.secret()), now);
            default -> {}
        }
        return header.text();
    }

    private Dressed packed(String dressed, byte[] message, String messageId) throws Folders.NoSuchFile {
        String text = dressed;
        Charset charset = charset();
        String type = version == SoapVersion.SOAP_12 ? "application/soap+xml" : "text/xml";
        String parameter = version == SoapVersion.SOAP_12 && !action.isEmpty() ? "; action=\"" + action + "\"" : "";
        if (reach.settings().mtom()) {
            text = text == null ? new String(message, StandardCharsets.UTF_8) : text;
            Xop.Packed packed = Xop.pack(text, binary).withFiles(reach.folders());
            Part root = new Part(
                    "root@wire-kettle.invalid",
                    "application/xop+xml; charset=" + charset.name() + "; type=\"" + type + "\"",
                    encoded(packed.envelope(), charset));
            java.util.ArrayList<Part> parts = new java.util.ArrayList<>(List.of(root));
            parts.addAll(packed.parts());
            Multipart.Written written =
                    Multipart.write(parts, "; type=\"application/xop+xml\"; start-info=\"" + type + "\"" + parameter);
            return new Dressed(text, written.contentType(), written.content(), messageId);
        }
        String contentType = type + "; charset=" + charset.name().toLowerCase(java.util.Locale.ROOT) + parameter;
        boolean marked = FileMark.in(message);
        if (text == null && !marked && charset.equals(StandardCharsets.UTF_8)) {
            return new Dressed(null, contentType, Content.of(message), null);
        }
        text = text == null ? new String(message, StandardCharsets.UTF_8) : text;
        return new Dressed(
                text, contentType, marked ? inlined(text, charset) : Content.of(encoded(text, charset)), messageId);
    }

    private Content inlined(String text, Charset charset) throws Folders.NoSuchFile {
        String whole = charset.equals(StandardCharsets.UTF_8) ? text : new String(encoded(text, charset), charset);
        return FileMark.inlined(whole, charset, reach.folders());
    }

    private Charset charset() {
        String name = reach.settings().charset();
        return name == null ? StandardCharsets.UTF_8 : Charset.forName(name);
    }

    /** Writes text in a charset: what it has no character for becomes a reference (XML 1.0, 4.1). */
    private static byte[] encoded(String text, Charset charset) {
        if (charset.equals(StandardCharsets.UTF_8)) {
            return text.getBytes(charset);
        }
        Matcher declaration = DECLARATION.matcher(text);
        String rest = declaration.find() ? text.substring(declaration.end()) : text;
        CharsetEncoder encoder = charset.newEncoder();
        StringBuilder out = new StringBuilder("<?xml version=\"1.0\" encoding=\"" + charset.name() + "\"?>");
        rest.codePoints().forEach(c -> {
            if (encoder.canEncode(new String(Character.toChars(c)))) {
                out.appendCodePoint(c);
            } else {
                out.append("&#").append(c).append(';');
            }
        });
        return out.toString().getBytes(charset);
    }

    private static String local(String block) {
        Matcher name = Pattern.compile("<(?:[\\w.-]+:)?([\\w.-]+)").matcher(block);
        return name.find() ? name.group(1) : "";
    }

    /** Returns the HTTP headers of a dressed message. */
    Map<String, String> headers(Dressed dressed) {
        Map<String, String> headers = new LinkedHashMap<>();
        headers.put("Content-Type", dressed.contentType());
        if (version != SoapVersion.SOAP_12) {
            headers.put("SOAPAction", "\"" + action + "\"");
        }
        headers.put("Accept", "text/xml, application/soap+xml, multipart/related");
        headers.put("Accept-Encoding", "gzip");
        return headers;
    }
}
