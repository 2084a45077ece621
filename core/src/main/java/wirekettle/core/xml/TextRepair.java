package wirekettle.core.xml;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.xml.Finding.Severity;

/** Frees the text of a description from junk, one repair at a time, until a parser takes it. */
final class TextRepair {
    private static final int MOST_ROUNDS = 30;
    private static final Pattern START =
            Pattern.compile("<(?:[A-Za-z_][\\w.-]*:)?(definitions|schema|description)(?=[\\s>])");
    private static final Pattern ESCAPED_START =
            Pattern.compile("&lt;(?:[A-Za-z_][\\w.-]*:)?(definitions|schema)(?=[\\s&])");
    private static final Pattern SCRIPT =
            Pattern.compile("(?is)<(script|style|iframe|noscript)\\b[^>]*>.*?</\\1\\s*>|<(script|iframe)\\b[^>]*/>");
    private static final Pattern BARE_AMPERSAND = Pattern.compile("&(?!(?:[A-Za-z][\\w.-]*|#\\d+|#x[0-9A-Fa-f]+);)");
    private static final Pattern HTML_ENTITY = Pattern.compile("&(?!(?:lt|gt|amp|quot|apos);)([A-Za-z][\\w.-]*);");
    private static final Pattern NOT_XML =
            Pattern.compile("[^\\x09\\x0A\\x0D\\x20-\\x{D7FF}\\x{E000}-\\x{FFFD}\\x{10000}-\\x{10FFFF}]");
    private static final Pattern UNBOUND = Pattern.compile("the prefix (\\S+) is not declared");
    private static final Map<String, String> ENTITIES = Map.of(
            "nbsp", "\u00A0", "copy", "\u00A9", "reg", "\u00AE", "ndash", "\u2013", "mdash", "\u2014", "hellip",
            "\u2026", "laquo", "\u00AB", "raquo", "\u00BB", "euro", "\u20AC", "deg", "\u00B0");
    private static final Map<String, String> KNOWN_PREFIXES = Map.of(
            "wsdl", "http://schemas.xmlsoap.org/wsdl/",
            "soap", "http://schemas.xmlsoap.org/wsdl/soap/",
            "soap12", "http://schemas.xmlsoap.org/wsdl/soap12/",
            "http", "http://schemas.xmlsoap.org/wsdl/http/",
            "mime", "http://schemas.xmlsoap.org/wsdl/mime/",
            "soapenc", "http://schemas.xmlsoap.org/soap/encoding/",
            "xs", "http://www.w3.org/2001/XMLSchema",
            "xsd", "http://www.w3.org/2001/XMLSchema",
            "s", "http://www.w3.org/2001/XMLSchema",
            "xsi", "http://www.w3.org/2001/XMLSchema-instance");

    private final String document;
    private final List<Finding> findings;
    private final List<Finding> repairs = new ArrayList<>();
    private String text;

    TextRepair(String text, String document, List<Finding> findings) {
        this.text = text;
        this.document = document;
        this.findings = findings;
    }

    /** Reads the repaired text; the first problem is thrown when there is nothing to repair, the last one otherwise. */
    XmlElement read(XmlLimits limits, XmlProblem first) throws XmlProblem {
        unescape();
        boolean page = first.code().equals("html-page") && !START.matcher(text).find();
        if (page || text.contains("<!ENTITY")) {
            throw first;
        }
        trimEnds();
        drop(SCRIPT, "script-removed", "a script was put into the document by what it came through; it is left out");
        drop(NOT_XML, "bad-character", "a character XML cannot carry is left out");
        ampersands();
        entities();
        XmlProblem problem = first;
        for (int round = 0; round < MOST_ROUNDS; round++) {
            try {
                XmlElement root = XmlTree.read(LenientXml.withoutDeclaration(text), document, limits);
                findings.addAll(repairs);
                return root;
            } catch (XmlProblem e) {
                problem = e;
                if (!declarePrefix(e)) {
                    break;
                }
            }
        }
        throw repairs.isEmpty() ? first : problem;
    }

    /** A page that shows the description as text carries it escaped. */
    private void unescape() {
        Matcher escaped = ESCAPED_START.matcher(text);
        if (START.matcher(text).find() || !escaped.find()) {
            return;
        }
        tell("escaped", escaped.start(), "the description stands escaped inside a page; it is taken out of it");
        text = text.replaceAll("(?is)<(?!/?(?:[A-Za-z_][\\w.-]*:)?(?:definitions|schema))[^>]*>", "")
                .replace("&lt;", "<")
                .replace("&gt;", ">")
                .replace("&quot;", "\"")
                .replace("&apos;", "'")
                .replace("&amp;", "&");
    }

    /** Everything before the root's start tag and after its end tag goes. */
    private void trimEnds() {
        Matcher start = START.matcher(text);
        if (!start.find()) {
            blankBefore(text.indexOf('<'));
            return;
        }
        int close = text.lastIndexOf("</" + text.substring(start.start() + 1, start.end()));
        int end = close < 0 ? -1 : text.indexOf('>', close);
        if (end >= 0 && !text.substring(end + 1).isBlank()) {
            tell("text-after", end + 1, "text after the end of the description is left out");
            text = text.substring(0, end + 1) + blank(text.substring(end + 1));
        }
        blankBefore(start.start());
    }

    private void blankBefore(int at) {
        if (at <= 0) {
            return;
        }
        String before = text.substring(0, at);
        String plain = before.replaceAll("(?s)<!--.*?-->|<\\?.*?\\?>", "").strip();
        boolean late = before.indexOf("<?xml ") > 0;
        if (!plain.isEmpty() || late) {
            int first = 0;
            while (Character.isWhitespace(before.charAt(first))) {
                first++;
            }
            tell(
                    "text-before",
                    plain.isEmpty() ? 0 : first,
                    plain.isEmpty()
                            ? "there is white space before the XML declaration; it is left out"
                            : "text before the description is left out: “" + cut(plain) + "”");
            text = blank(before) + text.substring(at);
        }
    }

    private static String cut(String plain) {
        String line = plain.replaceAll("\\s+", " ");
        return line.length() > 60 ? line.substring(0, 60) + "…" : line;
    }

    private void drop(Pattern junk, String code, String message) {
        Matcher found = junk.matcher(text);
        StringBuilder out = new StringBuilder();
        boolean any = false;
        while (found.find()) {
            tell(code, found.start(), message);
            any = true;
            found.appendReplacement(out, Matcher.quoteReplacement(blank(found.group())));
        }
        if (any) {
            text = found.appendTail(out).toString();
        }
    }

    private void ampersands() {
        Matcher bare = BARE_AMPERSAND.matcher(text);
        StringBuilder out = new StringBuilder();
        boolean any = false;
        while (bare.find()) {
            boolean cdata = text.lastIndexOf("<![CDATA[", bare.start()) > text.lastIndexOf("]]>", bare.start());
            if (!cdata) {
                tell("bare-ampersand", bare.start(), "an & stands by itself; it is read as &amp;");
                any = true;
            }
            bare.appendReplacement(out, cdata ? "&" : "&amp;");
        }
        if (any) {
            text = bare.appendTail(out).toString();
        }
    }

    private void entities() {
        Matcher entity = HTML_ENTITY.matcher(text);
        StringBuilder out = new StringBuilder();
        boolean any = false;
        while (entity.find()) {
            tell("html-entity", entity.start(), "&" + entity.group(1) + "; is HTML, not XML; its character is used");
            any = true;
            entity.appendReplacement(
                    out, Matcher.quoteReplacement(ENTITIES.getOrDefault(entity.group(1), entity.group(1))));
        }
        if (any) {
            text = entity.appendTail(out).toString();
        }
    }

    /** Text copied from a browser can lose its declarations; well-known prefixes are declared again on the root. */
    private boolean declarePrefix(XmlProblem problem) {
        Matcher unbound = UNBOUND.matcher(problem.getMessage());
        Matcher root = START.matcher(text);
        if (!unbound.find() || !root.find()) {
            return false;
        }
        String prefix = unbound.group(1);
        String namespace = KNOWN_PREFIXES.getOrDefault(prefix, "urn:undeclared:" + prefix);
        repairs.add(new Finding(
                Severity.WARNING,
                "prefix-declared",
                "the prefix " + prefix + " is not declared; it is taken for " + namespace,
                document,
                problem.line(),
                problem.column()));
        text = text.substring(0, root.end()) + " xmlns:" + prefix + "=\"" + namespace + "\""
                + text.substring(root.end());
        return true;
    }

    private static String blank(String removed) {
        StringBuilder out = new StringBuilder(removed.length());
        for (int i = 0; i < removed.length(); i++) {
            char c = removed.charAt(i);
            out.append(c == '\n' || c == '\r' ? c : ' ');
        }
        return out.toString();
    }

    private void tell(String code, int at, String message) {
        if (repairs.stream().filter(f -> f.code().equals(code)).count() >= 20) {
            return;
        }
        int line = 1;
        int lineStart = 0;
        for (int i = 0; i < at; i++) {
            if (text.charAt(i) == '\n') {
                line++;
                lineStart = i + 1;
            }
        }
        repairs.add(new Finding(Severity.WARNING, code, message, document, line, at - lineStart + 1));
    }
}
