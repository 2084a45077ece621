package wirekettle.core.soap.security;

import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.List;
import wirekettle.core.value.Content;

/** Content in which asterisks stand where secrets stood: as long as it was, and read piece by piece. */
final class MaskedContent implements Content {
    private static final int PIECE = 1 << 16;

    private final Content content;
    private final List<byte[]> hidden;

    MaskedContent(Content content, List<String> values) {
        this.content = content;
        this.hidden = values.stream()
                .map(value -> value.getBytes(StandardCharsets.UTF_8))
                .toList();
    }

    @Override
    public long length() {
        return content.length();
    }

    @Override
    public boolean inMemory() {
        return content.inMemory();
    }

    @Override
    public String type() {
        return content.type();
    }

    @Override
    public InputStream open() throws IOException {
        return new Masked(content.open());
    }

    private final class Masked extends InputStream {
        private final InputStream in;
        private final int longest =
                hidden.stream().mapToInt(value -> value.length).max().orElse(1);
        private byte[] buffer = new byte[0];
        private int at;
        private int clean;
        private boolean ended;

        Masked(InputStream in) {
            this.in = in;
        }

        /** What may be the beginning of a secret waits until the rest of it could be read. */
        private boolean more() throws IOException {
            while (at == clean && !(ended && at == buffer.length)) {
                byte[] next = in.readNBytes(PIECE);
                ended = next.length < PIECE;
                byte[] joined =
                        Arrays.copyOf(Arrays.copyOfRange(buffer, at, buffer.length), buffer.length - at + next.length);
                System.arraycopy(next, 0, joined, buffer.length - at, next.length);
                buffer = joined;
                at = 0;
                hidden.forEach(this::hide);
                clean = ended ? buffer.length : Math.max(0, buffer.length - longest + 1);
            }
            return at < clean;
        }

        private void hide(byte[] value) {
            for (int i = 0; i <= buffer.length - value.length; i++) {
                if (buffer[i] == value[0] && Arrays.equals(buffer, i, i + value.length, value, 0, value.length)) {
                    Arrays.fill(buffer, i, i + value.length, (byte) '*');
                    i += value.length - 1;
                }
            }
        }

        @Override
        public int read() throws IOException {
            return more() ? buffer[at++] & 0xFF : -1;
        }

        @Override
        public int read(byte[] into, int from, int most) throws IOException {
            if (most == 0) {
                return 0;
            }
            if (!more()) {
                return -1;
            }
            int taken = Math.min(most, clean - at);
            System.arraycopy(buffer, at, into, from, taken);
            at += taken;
            return taken;
        }

        @Override
        public void close() throws IOException {
            in.close();
        }
    }
}
