package wirekettle.core.soap.attachments;

import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Base64;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.value.Content;

/**
 * Stands in a message where the content of a file goes when the message is sent: a processing instruction
 * {@code <?file-content folder="…" name="…" bytes="…"?>} inside an element of base64. What is kept and shown of a
 * message has the mark, never the content.
 *
 * @param folder the folder's name
 * @param name the file's name in it
 * @param bytes how long the file was when the mark was made
 */
public record FileMark(String folder, String name, long bytes) {
    private static final String START = "<?file-content ";
    private static final byte[] MARK = START.getBytes(StandardCharsets.US_ASCII);
    private static final Pattern FORM =
            Pattern.compile("<\\?file-content folder=\"([^\"]*)\" name=\"([^\"]*)\" bytes=\"(\\d{1,15})\"\\?>");
    private static final long MOST_IN_MEMORY = 64L << 20;
    private static final int MOST_STAND_IN = 1 << 20;

    /** Returns the mark as it stands in a message. */
    public byte[] text() {
        return (START + "folder=\"" + escaped(folder) + "\" name=\"" + escaped(name) + "\" bytes=\"" + bytes + "\"?>")
                .getBytes(StandardCharsets.UTF_8);
    }

    private static String escaped(String text) {
        return text.replace("&", "&amp;")
                .replace("\"", "&quot;")
                .replace("<", "&lt;")
                .replace(">", "&gt;");
    }

    private static String plain(String text) {
        Matcher reference = Pattern.compile("&#(\\d{1,7});").matcher(text);
        String characters = reference.replaceAll(found -> {
            int point = Integer.parseInt(found.group(1));
            return Matcher.quoteReplacement(Character.isValidCodePoint(point) ? Character.toString(point) : "");
        });
        return characters
                .replace("&lt;", "<")
                .replace("&gt;", ">")
                .replace("&quot;", "\"")
                .replace("&amp;", "&");
    }

    /** Tells whether a message may have marks. */
    public static boolean in(byte[] message) {
        int last = message.length - MARK.length;
        for (int i = 0; i <= last; i++) {
            // nearly no message has a processing instruction
            if (message[i] == '<'
                    && message[i + 1] == '?'
                    && Arrays.equals(message, i, i + MARK.length, MARK, 0, MARK.length)) {
                return true;
            }
        }
        return false;
    }

    /**
     * A piece of a message.
     *
     * @param text what stands before a mark, or behind the last
     * @param mark the mark behind it, null behind the last
     */
    public record Piece(String text, FileMark mark) {}

    /** Returns a message in pieces; what looks like a mark in a comment or a CDATA section is none. */
    public static List<Piece> pieces(String message) {
        List<Piece> pieces = new ArrayList<>();
        int from = 0;
        int at = 0;
        while (true) {
            int open = message.indexOf('<', at);
            if (open < 0) {
                break;
            }
            if (message.startsWith("<!--", open)) {
                at = behind(message, "-->", open);
            } else if (message.startsWith("<![CDATA[", open)) {
                at = behind(message, "]]>", open);
            } else if (message.startsWith(START, open)) {
                Matcher found = FORM.matcher(message).region(open, message.length());
                if (found.lookingAt()) {
                    FileMark mark =
                            new FileMark(plain(found.group(1)), plain(found.group(2)), Long.parseLong(found.group(3)));
                    pieces.add(new Piece(message.substring(from, open), mark));
                    from = found.end();
                    at = from;
                } else {
                    at = open + START.length();
                }
            } else {
                at = open + 1;
            }
        }
        pieces.add(new Piece(message.substring(from), null));
        return pieces;
    }

    private static int behind(String message, String end, int from) {
        int found = message.indexOf(end, from);
        return found < 0 ? message.length() : found + end.length();
    }

    /** Returns what a message sends with the content of its files within it, as base64. */
    public static Content inlined(String message, Charset charset, Folders folders) throws Folders.NoSuchFile {
        List<Content> all = new ArrayList<>();
        for (Piece piece : pieces(message)) {
            all.add(Content.of(piece.text().getBytes(charset)));
            if (piece.mark() != null) {
                Content file = folders.file(piece.mark().folder(), piece.mark().name());
                all.add(Content.inBase64(file));
            }
        }
        return Content.of(all);
    }

    /**
     * Returns a message with the content of its files within it, in memory: where it is signed, or becomes JSON.
     *
     * @throws Folders.NoSuchFile when a file is not there, or the message becomes longer than 64 MB
     */
    public static byte[] inMemory(byte[] message, Folders folders) throws Folders.NoSuchFile {
        if (!in(message)) {
            return message;
        }
        String text = new String(message, StandardCharsets.UTF_8);
        Content whole = inlined(text, StandardCharsets.UTF_8, folders);
        if (whole.length() > MOST_IN_MEMORY) {
            throw new Folders.NoSuchFile("makes it " + (whole.length() >> 20)
                    + " MB long; a message that is signed, or no" + " SOAP, takes at most " + (MOST_IN_MEMORY >> 20));
        }
        return whole.bytes();
    }

    /**
     * Returns a message that can be held against a schema: base64 as long as each file stands in its place, of zeros,
     * at most of a megabyte.
     */
    public static byte[] standIns(byte[] message) {
        if (!in(message)) {
            return message;
        }
        StringBuilder out = new StringBuilder();
        for (Piece piece : pieces(new String(message, StandardCharsets.UTF_8))) {
            out.append(piece.text());
            if (piece.mark() != null) {
                out.append(standIn(piece.mark().bytes()));
            }
        }
        return out.toString().getBytes(StandardCharsets.UTF_8);
    }

    /** Returns base64 of zeros as long as some content, at most of a megabyte. */
    public static String standIn(long bytes) {
        return Base64.getEncoder().encodeToString(new byte[(int) Math.min(bytes, MOST_STAND_IN)]);
    }
}
