package wirekettle.core.xml;

import java.io.FilterInputStream;
import java.io.FilterReader;
import java.io.IOException;
import java.io.InputStream;
import java.io.Reader;

/**
 * Refuses XML with a tag that declares so many namespaces that reading them would take for ever: the time the JDK's
 * reader needs grows with the square of their number. It looks at what passes by, one character after the other.
 */
final class TagLimit {
    private static final int MOST_NAMESPACES = 2_000;
    private static final String XMLNS = "xmlns";

    private enum In {
        TEXT,
        OPENING,
        TAG,
        SINGLE_QUOTES,
        DOUBLE_QUOTES,
        COMMENT,
        CDATA,
        INSTRUCTION
    }

    private In in = In.TEXT;
    private final StringBuilder opening = new StringBuilder(9);
    private int matched;
    private int namespaces;
    private char last;
    private char beforeLast;

    private void see(char c) throws IOException {
        if (in == In.TEXT) {
            if (c == '<') {
                in = In.OPENING;
                opening.setLength(0);
            }
            return;
        }
        switch (in) {
            case OPENING -> open(c);
            case TAG -> tag(c);
            case SINGLE_QUOTES -> in = c == '\'' ? In.TAG : in;
            case DOUBLE_QUOTES -> in = c == '"' ? In.TAG : in;
            case COMMENT -> in = c == '>' && last == '-' && beforeLast == '-' ? In.TEXT : in;
            case CDATA -> in = c == '>' && last == ']' && beforeLast == ']' ? In.TEXT : in;
            case INSTRUCTION -> in = c == '>' && last == '?' ? In.TEXT : in;
            case TEXT -> {}
        }
        beforeLast = last;
        last = c;
    }

    private void open(char c) throws IOException {
        opening.append(c);
        String seen = opening.toString();
        if (seen.equals("!--")) {
            in = In.COMMENT;
        } else if (seen.equals("![CDATA[")) {
            in = In.CDATA;
        } else if (seen.equals("?")) {
            in = In.INSTRUCTION;
        } else if (!"!--".startsWith(seen) && !"![CDATA[".startsWith(seen)) {
            in = In.TAG;
            matched = 0;
            namespaces = 0;
            tag(c);
        }
    }

    private void tag(char c) throws IOException {
        switch (c) {
            case '>' -> in = In.TEXT;
            case '\'' -> in = In.SINGLE_QUOTES;
            case '"' -> in = In.DOUBLE_QUOTES;
            default -> {
                matched = c == XMLNS.charAt(matched) ? matched + 1 : c == 'x' ? 1 : 0;
                if (matched == XMLNS.length()) {
                    matched = 0;
                    if (++namespaces > MOST_NAMESPACES) {
                        throw new IOException(
                                "one element declares more than " + MOST_NAMESPACES + " namespaces: that is refused");
                    }
                }
            }
        }
    }

    /** Returns a stream that looks at its bytes; zero bytes are those of wider encodings and passed over. */
    static InputStream over(InputStream stream) {
        TagLimit limit = new TagLimit();
        return new FilterInputStream(stream) {
            @Override
            public int read() throws IOException {
                int b = super.read();
                if (b > 0) {
                    limit.see((char) b);
                }
                return b;
            }

            @Override
            public int read(byte[] into, int from, int most) throws IOException {
                int read = super.read(into, from, most);
                for (int i = from; i < from + read; i++) {
                    if (into[i] != 0) {
                        limit.see((char) (into[i] & 0xFF));
                    }
                }
                return read;
            }

            @Override
            public boolean markSupported() {
                return false;
            }
        };
    }

    /** Returns a reader that looks at its characters. */
    static Reader over(Reader reader) {
        TagLimit limit = new TagLimit();
        return new FilterReader(reader) {
            @Override
            public int read() throws IOException {
                int c = super.read();
                if (c >= 0) {
                    limit.see((char) c);
                }
                return c;
            }

            @Override
            public int read(char[] into, int from, int most) throws IOException {
                int read = super.read(into, from, most);
                for (int i = from; i < from + read; i++) {
                    limit.see(into[i]);
                }
                return read;
            }
        };
    }
}
