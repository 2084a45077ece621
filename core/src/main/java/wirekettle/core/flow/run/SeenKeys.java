package wirekettle.core.flow.run;

import java.io.IOException;
import java.io.RandomAccessFile;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/**
 * Remembers which keys came before, and where. In memory it keeps two numbers a key; the keys themselves stand in a
 * temporary file, where a key that looks known is compared whole: two keys with one hash are two keys. For one thread.
 */
final class SeenKeys implements AutoCloseable {
    private static final int PENDING = 1 << 16;

    // the hash of a key to where the last entry of that hash begins; an entry leads to the one before it
    private final Map<Long, Long> last = new HashMap<>();
    private final Path path;
    private final RandomAccessFile file;
    private final byte[] pending = new byte[PENDING];
    private int waiting;
    private long written;

    SeenKeys() throws IOException {
        path = Files.createTempFile("wire-kettle-keys-", null);
        file = new RandomAccessFile(path.toFile(), "rw");
    }

    /** Returns the place a key was put at before, or puts it at this one and returns -1. */
    long putIfAbsent(List<String> key, long place) throws IOException {
        byte[] bytes = bytes(key);
        Long hash = hash(bytes);
        long at = last.getOrDefault(hash, -1L);
        for (long entry = at; entry >= 0; ) {
            flush();
            file.seek(entry);
            byte[] head = new byte[20];
            file.readFully(head);
            ByteBuffer fields = ByteBuffer.wrap(head);
            long before = fields.getLong();
            long itsPlace = fields.getLong();
            int length = fields.getInt();
            if (length == bytes.length) {
                byte[] its = new byte[length];
                file.readFully(its);
                if (Arrays.equals(its, bytes)) {
                    return itsPlace;
                }
            }
            entry = before;
        }
        last.put(hash, written + waiting);
        append(ByteBuffer.allocate(20)
                .putLong(at)
                .putLong(place)
                .putInt(bytes.length)
                .array());
        append(bytes);
        return -1;
    }

    private static byte[] bytes(List<String> key) {
        StringBuilder joined = new StringBuilder();
        for (String part : key) {
            joined.append(part.length()).append(':').append(part);
        }
        return joined.toString().getBytes(StandardCharsets.UTF_8);
    }

    private static long hash(byte[] bytes) {
        long hash = 0xcbf29ce484222325L;
        for (byte b : bytes) {
            hash = (hash ^ (b & 0xFF)) * 0x100000001b3L;
        }
        return hash;
    }

    private void append(byte[] bytes) throws IOException {
        if (waiting + bytes.length > PENDING) {
            flush();
        }
        if (bytes.length > PENDING) {
            file.seek(written);
            file.write(bytes);
            written += bytes.length;
            return;
        }
        System.arraycopy(bytes, 0, pending, waiting, bytes.length);
        waiting += bytes.length;
    }

    private void flush() throws IOException {
        file.seek(written);
        file.write(pending, 0, waiting);
        written += waiting;
        waiting = 0;
    }

    @Override
    public void close() throws IOException {
        file.close();
        Files.deleteIfExists(path);
    }
}
