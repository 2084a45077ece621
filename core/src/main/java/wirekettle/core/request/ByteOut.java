package wirekettle.core.request;

import java.util.Arrays;

/** A growing byte buffer that can go back to a mark; texts are escaped and encoded in one step. Not thread-safe. */
public final class ByteOut {
    /** The characters below U+0080 that stand for themselves: most of all that is written. */
    private static final boolean[] PLAIN = plain("&<>\r");

    private static final boolean[] PLAIN_IN_ATTRIBUTE = plain("&<>\r\"\n\t");

    private byte[] bytes = new byte[4096];
    private int length;

    /** Returns how much has been written, a mark to go back to. */
    public int length() {
        return length;
    }

    /** Forgets everything after {@code mark}. */
    public void back(int mark) {
        length = mark;
    }

    private static boolean[] plain(String not) {
        boolean[] plain = new boolean[0x80];
        for (char c = 0; c < plain.length; c++) {
            plain[c] = not.indexOf(c) < 0;
        }
        return plain;
    }

    /** Returns a copy of what was written. */
    public byte[] bytes() {
        return Arrays.copyOf(bytes, length);
    }

    private void room(int more) {
        if (length + more > bytes.length) {
            bytes = Arrays.copyOf(bytes, Math.max(bytes.length * 2, length + more));
        }
    }

    /** Appends bytes as they are. */
    public void raw(byte[] more) {
        room(more.length);
        System.arraycopy(more, 0, bytes, length, more.length);
        length += more.length;
    }

    /** Puts bytes in at a place already passed. */
    void insert(int at, byte[] more) {
        room(more.length);
        System.arraycopy(bytes, at, bytes, at + more.length, length - at);
        System.arraycopy(more, 0, bytes, at, more.length);
        length += more.length;
    }

    /** Appends text in UTF-8, escaped for element content or a double-quoted attribute. */
    public void text(String text, boolean attribute) {
        room(text.length() * 6);
        boolean[] plain = attribute ? PLAIN_IN_ATTRIBUTE : PLAIN;
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (c < 0x80 && plain[c]) {
                bytes[length++] = (byte) c;
            } else if (c < 0x80) {
                ascii(c);
            } else if (c < 0x800) {
                bytes[length++] = (byte) (0xC0 | c >> 6);
                bytes[length++] = (byte) (0x80 | c & 0x3F);
            } else if (Character.isHighSurrogate(c) && i + 1 < text.length()) {
                int point = Character.toCodePoint(c, text.charAt(++i));
                bytes[length++] = (byte) (0xF0 | point >> 18);
                bytes[length++] = (byte) (0x80 | point >> 12 & 0x3F);
                bytes[length++] = (byte) (0x80 | point >> 6 & 0x3F);
                bytes[length++] = (byte) (0x80 | point & 0x3F);
            } else {
                bytes[length++] = (byte) (0xE0 | c >> 12);
                bytes[length++] = (byte) (0x80 | c >> 6 & 0x3F);
                bytes[length++] = (byte) (0x80 | c & 0x3F);
            }
        }
    }

    /** Writes what cannot stand as it is. */
    private void ascii(char c) {
        switch (c) {
            case '&' -> put("&amp;");
            case '<' -> put("&lt;");
            case '>' -> put("&gt;");
            case '"' -> put("&quot;");
            default -> put("&#" + (int) c + ";");
        }
    }

    private void put(String ascii) {
        for (int i = 0; i < ascii.length(); i++) {
            bytes[length++] = (byte) ascii.charAt(i);
        }
    }
}
