package wirekettle.core.xml;

import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.Charset;
import java.nio.charset.CharsetDecoder;
import java.nio.charset.CodingErrorAction;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.xml.Finding.Severity;

/**
 * Reads a document as it was found: sound ones go straight to the parser; others are decoded as what they are and
 * freed of what browsers and proxies put around and into them. Every repair is a finding with its place, and removed
 * characters leave blanks behind, so that lines and columns stay those of the document as it was given.
 */
public final class LenientXml {
    private static final Pattern DECLARED = Pattern.compile("^\\s*<\\?xml[^>]*?encoding\\s*=\\s*[\"']([\\w.-]+)[\"']");
    private static final Charset LATIN = Charset.forName("windows-1252");

    private final byte[] bytes;
    private final String document;
    private final XmlLimits limits;
    private final List<Finding> findings;

    private LenientXml(byte[] bytes, String document, XmlLimits limits, List<Finding> findings) {
        this.bytes = bytes;
        this.document = document;
        this.limits = limits;
        this.findings = findings;
    }

    /**
     * Reads {@code bytes}, repairing what can be repaired.
     *
     * @param document the name used in findings and problems
     * @param findings where repairs are reported
     * @throws XmlProblem when even the repaired text is no well-formed XML, has a DTD, or passes a limit
     */
    public static XmlElement read(byte[] bytes, String document, XmlLimits limits, List<Finding> findings)
            throws XmlProblem {
        return new LenientXml(bytes, document, limits, findings).read();
    }

    /** Returns the text of a document in the encoding it is really in, without a byte order mark. */
    public static String text(byte[] bytes) {
        LenientXml document = new LenientXml(bytes, "", XmlLimits.DOCUMENTS, new java.util.ArrayList<>());
        Charset actual = document.actualCharset();
        return document.decode(actual == null ? document.declaredOrUtf8() : actual);
    }

    private XmlElement read() throws XmlProblem {
        if (bytes.length > limits.maxBytes() || bytes.length == 0) {
            return XmlTree.read(bytes, document, limits);
        }
        Charset actual = actualCharset();
        if (actual == null) {
            try {
                return XmlTree.read(bytes, document, limits);
            } catch (XmlProblem problem) {
                if (!worthRepairing(problem)) {
                    throw problem;
                }
                return repaired(decode(declaredOrUtf8()), problem);
            }
        }
        String text = decode(actual);
        try {
            return XmlTree.read(withoutDeclaration(text), document, limits);
        } catch (XmlProblem problem) {
            if (!worthRepairing(problem)) {
                throw problem;
            }
            return repaired(text, problem);
        }
    }

    private static boolean worthRepairing(XmlProblem problem) {
        return problem.code().equals("not-well-formed") || problem.code().equals("html-page");
    }

    private XmlElement repaired(String text, XmlProblem first) throws XmlProblem {
        TextRepair repair = new TextRepair(text, document, findings);
        return repair.read(limits, first);
    }

    /**
     * Returns the charset the bytes are really in when it is not what the parser would take them for; null when the
     * parser is right.
     */
    private Charset actualCharset() {
        if (bytes.length >= 2 && (bytes[0] & 0xFF) == 0xFE && (bytes[1] & 0xFF) == 0xFF) {
            return mismatch(StandardCharsets.UTF_16BE, "a byte order mark of UTF-16");
        }
        if (bytes.length >= 2 && (bytes[0] & 0xFF) == 0xFF && (bytes[1] & 0xFF) == 0xFE) {
            return mismatch(StandardCharsets.UTF_16LE, "a byte order mark of UTF-16");
        }
        if (bytes.length >= 4 && bytes[0] == 0 && bytes[1] == '<') {
            return mismatch(StandardCharsets.UTF_16BE, "text in UTF-16");
        }
        if (bytes.length >= 4 && bytes[0] == '<' && bytes[1] == 0) {
            return mismatch(StandardCharsets.UTF_16LE, "text in UTF-16");
        }
        Charset declared = declaredOrUtf8();
        int bad = firstNotUtf8();
        if (declared.equals(StandardCharsets.UTF_8)) {
            if (bad < 0) {
                return null;
            }
            tell(
                    "wrong-encoding",
                    bad,
                    "is said to be UTF-8, but has bytes that are not; it is read as windows-1252, of which ISO-8859-1"
                            + " is a part: check accented letters");
            return LATIN;
        }
        if (declared.name().startsWith("UTF-16")) {
            tell("wrong-encoding", 0, "is said to be " + declared.name() + ", but its bytes are single; read as UTF-8");
            return bad < 0 ? StandardCharsets.UTF_8 : LATIN;
        }
        int accented = bad < 0 ? firstNotAscii() : -1;
        if (accented >= 0
                && !declared.name().startsWith("GB")
                && declared.newEncoder().maxBytesPerChar() == 1) {
            tell(
                    "wrong-encoding",
                    accented,
                    "is said to be " + declared.name() + ", but its accented letters are UTF-8; it is read as UTF-8");
            return StandardCharsets.UTF_8;
        }
        return null;
    }

    private Charset mismatch(Charset found, String what) {
        String head = new String(bytes, 0, Math.min(bytes.length, 400), found);
        Matcher declared = DECLARED.matcher(head.startsWith("\uFEFF") ? head.substring(1) : head);
        if (declared.find()
                && !declared.group(1).toUpperCase(java.util.Locale.ROOT).startsWith("UTF-16")) {
            tell("wrong-encoding", 0, "is said to be " + declared.group(1) + ", but has " + what + "; read as UTF-16");
        }
        return found;
    }

    private Charset declaredOrUtf8() {
        Matcher declared =
                DECLARED.matcher(new String(bytes, 0, Math.min(bytes.length, 400), StandardCharsets.ISO_8859_1)
                        .replace("\u00EF\u00BB\u00BF", ""));
        if (!declared.find()) {
            return StandardCharsets.UTF_8;
        }
        try {
            return Charset.forName(declared.group(1));
        } catch (IllegalArgumentException e) {
            tell("wrong-encoding", 0, "names the unknown encoding " + declared.group(1) + "; it is read as UTF-8");
            return StandardCharsets.UTF_8;
        }
    }

    /** Returns the index of the first byte that is no UTF-8, or -1. */
    private int firstNotUtf8() {
        int ascii = firstNotAscii();
        if (ascii < 0) {
            return -1;
        }
        CharsetDecoder decoder = StandardCharsets.UTF_8
                .newDecoder()
                .onMalformedInput(CodingErrorAction.REPORT)
                .onUnmappableCharacter(CodingErrorAction.REPORT);
        ByteBuffer in = ByteBuffer.wrap(bytes, ascii, bytes.length - ascii);
        java.nio.CharBuffer out = java.nio.CharBuffer.allocate(8192);
        while (true) {
            var result = decoder.decode(in, out, true);
            if (result.isError()) {
                return in.position();
            }
            if (result.isUnderflow()) {
                return -1;
            }
            out.clear();
        }
    }

    private int firstNotAscii() {
        for (int i = 0; i < bytes.length; i++) {
            if (bytes[i] < 0) {
                return i;
            }
        }
        return -1;
    }

    private String decode(Charset charset) {
        String text;
        try {
            text = charset.newDecoder()
                    .onMalformedInput(CodingErrorAction.REPORT)
                    .onUnmappableCharacter(CodingErrorAction.REPORT)
                    .decode(ByteBuffer.wrap(bytes))
                    .toString();
        } catch (CharacterCodingException e) {
            text = new String(bytes, charset);
        }
        return text.startsWith("\uFEFF") ? text.substring(1) : text;
    }

    /** The declaration names an encoding that no longer applies once the text is decoded. */
    static String withoutDeclaration(String text) {
        if (!text.startsWith("<?xml ")) {
            return text;
        }
        int end = text.indexOf("?>");
        return end < 0 ? text : " ".repeat(end + 2) + text.substring(end + 2);
    }

    private void tell(String code, int at, String what) {
        int line = 1;
        int column = 1;
        for (int i = 0; i < at; i++) {
            column++;
            if (bytes[i] == '\n') {
                line++;
                column = 1;
            }
        }
        Finding finding = new Finding(Severity.WARNING, code, "the document " + what, document, line, column);
        if (!findings.contains(finding)) {
            findings.add(finding);
        }
    }
}
