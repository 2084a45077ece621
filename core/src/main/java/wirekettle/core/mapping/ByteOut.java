package wirekettle.core.mapping;

import java.util.Arrays;

/** A growing byte buffer that can go back to a mark; texts are escaped and encoded in one step. Not thread-safe. */
public final class ByteOut {
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
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (c < 0x80) {
                ascii(c, attribute);
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

    private void ascii(char c, boolean attribute) {
        switch (c) {
            case '&' -> put("&amp;");
            case '<' -> put("&lt;");
            case '>' -> put("&gt;");
            case '\r' -> put("&#13;");
            default -> {
                if (attribute && c == '"') {
                    put("&quot;");
                } else if (attribute && (c == '\n' || c == '\t')) {
                    put(c == '\n' ? "&#10;" : "&#9;");
                } else {
                    bytes[length++] = (byte) c;
                }
            }
        }
    }

    private void put(String ascii) {
        for (int i = 0; i < ascii.length(); i++) {
            bytes[length++] = (byte) ascii.charAt(i);
        }
    }
}
