package wirekettle.core.soap;

import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.util.List;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.soap.attachments.Multipart;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.soap.attachments.Xop;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/**
 * A request as one who answers gets it (SOAP 1.1, 4; SOAP 1.2 part 1, 5).
 *
 * @param version the version of its envelope
 * @param headers its header blocks
 * @param body the elements of its body
 * @param packed whether it came with parts beside the envelope (MTOM)
 */
public record SoapRequest(SoapVersion version, List<Node> headers, List<Node> body, boolean packed) {
    private static final String SECURITY = "http://docs.oasis-open.org/wss/";

    /** A request that is answered by a fault. */
    public static final class Refused extends Exception {
        private final FaultCode code;

        /** Refuses a request. */
        public Refused(FaultCode code, String reason) {
            super(reason);
            this.code = code;
        }

        /** Returns the code of the fault. */
        public FaultCode code() {
            return code;
        }
    }

    /**
     * A name and a password, as a header says them (UsernameToken Profile 1.1.1, 3).
     *
     * @param password the password as a text, null where there is only a digest of it
     */
    public record Token(String name, String password) {
        @Override
        public String toString() {
            return "Token[" + name + "]";
        }
    }

    /**
     * Reads a request as it came over HTTP.
     *
     * @param contentType its content type, null when it had none
     * @throws Refused with what is wrong with the envelope
     */
    public static SoapRequest read(String contentType, byte[] content) throws Refused {
        boolean packed = Multipart.is(contentType);
        byte[] bytes = packed ? unpacked(contentType, content) : content;
        try {
            Node envelope = NodeReader.read(new ByteArrayInputStream(bytes), "the request", XmlLimits.MESSAGES);
            if (!envelope.name().local().equals("Envelope")) {
                throw new Refused(
                        FaultCode.SENDER, "the request is " + envelope.name().local() + ", no SOAP envelope");
            }
            SoapVersion version = version(envelope.name().namespace());
            Node body = envelope.child("Body");
            if (body == null || !body.name().namespace().equals(version.envelope())) {
                throw new Refused(FaultCode.SENDER, "the envelope has no body");
            }
            Node header = envelope.child("Header");
            return new SoapRequest(
                    version,
                    header == null ? List.of() : header.children(),
                    MultiReferences.resolve(body.children()),
                    packed);
        } catch (XmlProblem e) {
            throw new Refused(FaultCode.SENDER, e.sentence());
        }
    }

    private static byte[] unpacked(String contentType, byte[] content) throws Refused {
        try {
            List<Part> parts = Multipart.read(contentType, content);
            String envelope = new String(parts.get(0).bytes(), StandardCharsets.UTF_8);
            return Xop.unpack(envelope, parts.subList(1, parts.size())).getBytes(StandardCharsets.UTF_8);
        } catch (Multipart.Broken e) {
            throw new Refused(FaultCode.SENDER, e.getMessage());
        }
    }

    private static SoapVersion version(String namespace) throws Refused {
        for (SoapVersion each : SoapVersion.values()) {
            if (each.envelope().equals(namespace)) {
                return each;
            }
        }
        throw new Refused(FaultCode.VERSION_MISMATCH, "an envelope of “" + namespace + "” is of no version known here");
    }

    /** Returns the sender's own name for the message (WS-Addressing 1.0, MessageID), null where it has none. */
    public String messageId() {
        return headers.stream()
                .filter(each -> addressing(each.name()) && each.name().local().equals("MessageID"))
                .map(each -> each.text().strip())
                .filter(each -> !each.isEmpty())
                .findFirst()
                .orElse(null);
    }

    private static boolean addressing(Name name) {
        return name.namespace().equals(Addressing.NAMESPACE);
    }

    /** Returns the headers that say which message is answered (WS-Addressing 1.0, RelatesTo). */
    public List<Node> related() {
        String id = messageId();
        return id == null ? List.of() : List.of(Node.leaf(new Name(Addressing.NAMESPACE, "RelatesTo"), id));
    }

    /** Returns the user name token, null where there is none. */
    public Token token() {
        Node security = headers.stream()
                .filter(each -> each.name().local().equals("Security"))
                .findFirst()
                .orElse(null);
        Node token = security == null ? null : security.child("UsernameToken");
        if (token == null) {
            return null;
        }
        Node password = token.child("Password");
        Node type = password == null ? null : password.attribute("Type");
        boolean plain = password != null && (type == null || type.text().endsWith("#PasswordText"));
        return new Token(
                token.textOf("Username").strip(), plain ? password.text().strip() : null);
    }

    /**
     * Holds the header blocks that must be understood against those that are (SOAP 1.1, 4.2.3; SOAP 1.2 part 1, 2.4).
     *
     * @param declared the blocks the operation declares
     * @param tokens whether a user name token is understood
     * @throws Refused when one is not understood
     */
    public void understand(List<Name> declared, boolean tokens) throws Refused {
        for (Node each : headers) {
            String must = each.attributes().stream()
                    .filter(a -> a.name().local().equals("mustUnderstand")
                            && a.name().namespace().equals(version.envelope()))
                    .map(a -> a.text().strip())
                    .findFirst()
                    .orElse("");
            boolean known = addressing(each.name()) || declared.contains(each.name()) || tokens && onlyToken(each);
            if ((must.equals("1") || must.equals("true")) && !known) {
                throw new Refused(
                        FaultCode.MUST_UNDERSTAND,
                        "the header " + each.name().local() + " must be understood and is not");
            }
        }
    }

    private static boolean onlyToken(Node header) {
        return header.name().namespace().startsWith(SECURITY)
                && header.name().local().equals("Security")
                && header.children().stream()
                        .allMatch(each -> each.name().local().equals("UsernameToken")
                                || each.name().local().equals("Timestamp"));
    }
}
