package wirekettle.core.soap.security;

import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Stands in a message where an XML signature comes when it is sent: a whole element Signature without values, whose id
 * says what is signed and with which key. A message with it is valid and can be shown; the key is used only on the way to
 * its endpoint.
 *
 * @param over the path of the element that is signed, {@code /{urn:x}Order/{urn:x}paper}
 * @param key names the secret with the key; empty for the key the endpoint signs messages with
 * @param inclusive whether the canonical form is that of Canonical XML 1.0, else the exclusive one
 */
public record SignatureMark(String over, String key, boolean inclusive) {
    /** The namespace of XML signatures (XML Signature Syntax and Processing, 1.3). */
    public static final String DSIG = "http://www.w3.org/2000/09/xmldsig#";

    private static final String START = "sign.";
    private static final byte[] MARK = ("Id=\"" + START).getBytes(StandardCharsets.US_ASCII);
    private static final Pattern FORM = Pattern.compile("Id=\"sign\\.([ie])\\.([0-9a-f]*)\\.([0-9a-f]+)\"");

    /** Returns the id that stands for it in a message. */
    public String id() {
        return START + (inclusive ? "i" : "e") + "." + hex(key) + "." + hex(over);
    }

    private static String hex(String text) {
        return HexFormat.of().formatHex(text.getBytes(StandardCharsets.UTF_8));
    }

    private static String plain(String hex) {
        return new String(HexFormat.of().parseHex(hex), StandardCharsets.UTF_8);
    }

    /** Tells whether a message may have marks. */
    public static boolean in(byte[] message) {
        int last = message.length - MARK.length;
        for (int i = 0; i <= last; i++) {
            if (message[i] == 'I'
                    && message[i + 1] == 'd'
                    && Arrays.equals(message, i, i + MARK.length, MARK, 0, MARK.length)) {
                return true;
            }
        }
        return false;
    }

    /**
     * Where a mark stands in a message.
     *
     * @param from where its element begins
     * @param to behind its element
     */
    public record Place(SignatureMark mark, int from, int to) {}

    /** Returns the first mark of a message, null when there is none. */
    public static Place first(String message) {
        Matcher id = FORM.matcher(message);
        if (!id.find()) {
            return null;
        }
        int from = message.lastIndexOf('<', id.start());
        Matcher name = Pattern.compile("<([^\\s/>]+)").matcher(message);
        if (from < 0 || !name.find(from) || name.start() != from) {
            return null;
        }
        String end = "</" + name.group(1) + ">";
        int to = message.indexOf(end, id.end());
        return to < 0
                ? null
                : new Place(
                        new SignatureMark(
                                plain(id.group(3)),
                                plain(id.group(2)),
                                id.group(1).equals("i")),
                        from,
                        to + end.length());
    }
}
