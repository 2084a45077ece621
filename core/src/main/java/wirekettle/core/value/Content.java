package wirekettle.core.value;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.SequenceInputStream;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.Base64;
import java.util.Collections;
import java.util.List;

/** Bytes that are read when they are wanted, as often as they are: in memory, in a file, or put together of several. */
public interface Content {
    /** The largest content, in bytes, that is turned into a text: 16 MB. */
    int MOST_TEXT = 16 << 20;

    /** Returns how many bytes there are. */
    long length();

    /** Tells whether all bytes are in memory already. */
    default boolean inMemory() {
        return false;
    }

    /** Returns the media type of the bytes, null when nothing is known of them. */
    default String type() {
        return null;
    }

    /** Opens the bytes from the first on. */
    InputStream open() throws IOException;

    /** Returns all bytes in memory. */
    default byte[] bytes() {
        try (InputStream in = open()) {
            return in.readAllBytes();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Returns the bytes as base64; content above {@link #MOST_TEXT} is too large to be a text. */
    default String base64() {
        if (length() > MOST_TEXT) {
            throw new TooLarge(length());
        }
        return Base64.getEncoder().encodeToString(bytes());
    }

    /** Content that cannot be a text in memory. */
    final class TooLarge extends RuntimeException {
        TooLarge(long length) {
            super(
                    "an attachment of " + (length >> 20) + " MB is too large to be a value of text: write it as a file",
                    null,
                    false,
                    false);
        }
    }

    /** Returns content in memory. */
    static Content of(byte[] bytes) {
        return new Content() {
            @Override
            public long length() {
                return bytes.length;
            }

            @Override
            public InputStream open() {
                return new ByteArrayInputStream(bytes);
            }

            @Override
            public boolean inMemory() {
                return true;
            }

            @Override
            public byte[] bytes() {
                return bytes;
            }
        };
    }

    /** Returns the content of a file as long as it is now. */
    static Content of(Path file) throws IOException {
        long length = Files.size(file);
        return new Content() {
            @Override
            public long length() {
                return length;
            }

            @Override
            public InputStream open() throws IOException {
                return Files.newInputStream(file);
            }
        };
    }

    /** Returns several contents one after the other. */
    static Content of(List<Content> parts) {
        List<Content> all = List.copyOf(parts);
        return new Content() {
            @Override
            public long length() {
                return all.stream().mapToLong(Content::length).sum();
            }

            @Override
            public boolean inMemory() {
                return all.stream().allMatch(Content::inMemory);
            }

            @Override
            public InputStream open() {
                // one file open at a time: each is opened when the one before it is at its end
                return new SequenceInputStream(Collections.enumeration(
                        all.stream().<InputStream>map(Later::new).toList()));
            }
        };
    }

    /** Returns content as base64 without line breaks (RFC 4648, 4). */
    static Content inBase64(Content plain) {
        return new Content() {
            @Override
            public long length() {
                return (plain.length() + 2) / 3 * 4;
            }

            @Override
            public InputStream open() throws IOException {
                return new InBase64(plain.open());
            }
        };
    }

    /** Opens its content with the first byte read. */
    final class Later extends InputStream {
        private final Content content;
        private InputStream opened;

        private Later(Content content) {
            this.content = content;
        }

        private InputStream in() throws IOException {
            if (opened == null) {
                opened = content.open();
            }
            return opened;
        }

        @Override
        public int read() throws IOException {
            return in().read();
        }

        @Override
        public int read(byte[] into, int at, int most) throws IOException {
            return in().read(into, at, most);
        }

        @Override
        public void close() throws IOException {
            if (opened != null) {
                opened.close();
            }
        }
    }

    /** Encodes what it reads, some thousand bytes at a time. */
    final class InBase64 extends InputStream {
        private static final int CHUNK = 3 * 8192;

        private final InputStream plain;
        private byte[] encoded = new byte[0];
        private int at;

        private InBase64(InputStream plain) {
            this.plain = plain;
        }

        private boolean more() throws IOException {
            if (at < encoded.length) {
                return true;
            }
            byte[] next = plain.readNBytes(CHUNK);
            encoded = Base64.getEncoder().encode(next);
            at = 0;
            return encoded.length > 0;
        }

        @Override
        public int read() throws IOException {
            return more() ? encoded[at++] : -1;
        }

        @Override
        public int read(byte[] into, int from, int most) throws IOException {
            if (most == 0) {
                return 0;
            }
            if (!more()) {
                return -1;
            }
            int taken = Math.min(most, encoded.length - at);
            System.arraycopy(encoded, at, into, from, taken);
            at += taken;
            return taken;
        }

        @Override
        public void close() throws IOException {
            plain.close();
        }
    }

    /** Tells whether two contents hold the same bytes. */
    static boolean same(Content one, Content other) throws IOException {
        if (one.length() != other.length()) {
            return false;
        }
        try (InputStream left = one.open();
                InputStream right = other.open()) {
            while (true) {
                byte[] a = left.readNBytes(1 << 16);
                if (!Arrays.equals(a, right.readNBytes(1 << 16))) {
                    return false;
                }
                if (a.length == 0) {
                    return true;
                }
            }
        }
    }
}
