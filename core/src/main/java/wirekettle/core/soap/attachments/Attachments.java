package wirekettle.core.soap.attachments;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.OutputStream;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import wirekettle.core.value.Content;

/**
 * Where the parts of answers go while one record is worked on: short ones stay in memory, longer ones go to files in
 * the machine's temporary folder, which are gone when this is closed. Safe for several threads.
 */
public final class Attachments implements AutoCloseable {
    private static final int SHORT = 64 << 10;

    private final List<Path> files = Collections.synchronizedList(new ArrayList<>(0));

    /** Takes the bytes of one part. */
    MultipartReader.Taken taken() {
        return new Spilling();
    }

    private final class Spilling extends MultipartReader.Taken {
        private ByteArrayOutputStream memory = new ByteArrayOutputStream();
        private Path file;
        private OutputStream out = memory;

        @Override
        public void write(byte[] bytes, int from, int length) throws IOException {
            if (file == null && memory.size() + length > SHORT) {
                file = Files.createTempFile("wire-kettle-part-", null);
                files.add(file);
                out = Files.newOutputStream(file);
                memory.writeTo(out);
                memory = null;
            }
            out.write(bytes, from, length);
        }

        @Override
        public void close() throws IOException {
            out.close();
        }

        @Override
        Content content() throws IOException {
            close();
            return file == null ? Content.of(memory.toByteArray()) : Content.of(file);
        }
    }

    /** Removes the files. */
    @Override
    public void close() {
        try {
            for (Path file : files) {
                Files.deleteIfExists(file);
            }
            files.clear();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
