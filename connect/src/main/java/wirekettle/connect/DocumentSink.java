package wirekettle.connect;

import java.io.IOException;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.List;
import wirekettle.core.flow.run.RecordSink;

/**
 * Writes nested documents to a staged file that takes its place, or is appended, when the run ends: JSON one document a
 * line, XML all documents below one root element.
 */
public final class DocumentSink implements RecordSink {
    private static final byte[] OPEN =
            "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<records>\n".getBytes(StandardCharsets.UTF_8);
    private static final byte[] CLOSE = "</records>\n".getBytes(StandardCharsets.UTF_8);

    private final StagedFile file;
    private final Path staged;
    private final boolean xml;
    private final OutputStream out;
    private long written;

    /** Begins a staged file. */
    public DocumentSink(Path target, Path staged, String form, boolean append) throws IOException {
        this(target, staged, form, append, 0);
    }

    /**
     * Opens a staged file.
     *
     * @param target where the result goes
     * @param staged where documents are collected
     * @param form json or xml
     * @param append whether documents are added to what the target has, else it is replaced
     * @param from the position from which a run goes on, 0 to begin
     */
    public DocumentSink(Path target, Path staged, String form, boolean append, long from) throws IOException {
        this.file = new StagedFile(target, staged, append, from);
        this.staged = staged;
        this.xml = "xml".equals(form);
        this.written = from;
        out = new java.io.BufferedOutputStream(file, 1 << 16);
        if (xml && from == 0) {
            put(OPEN);
        }
    }

    private void put(byte[] bytes) throws IOException {
        out.write(bytes);
        written += bytes.length;
    }

    @Override
    public void write(long ordinal, List<String[]> rows) throws IOException {
        for (String[] row : rows) {
            put((row[0] + "\n").getBytes(StandardCharsets.UTF_8));
        }
    }

    @Override
    public void flush() throws IOException {
        out.flush();
        file.force();
    }

    @Override
    public long position() {
        return written;
    }

    @Override
    public void finish() throws IOException {
        leave();
        file.takePlace(this::addTo);
    }

    @Override
    public void leave() throws IOException {
        if (xml) {
            put(CLOSE);
        }
        flush();
    }

    /** The target's closing tag makes room for what follows it. */
    private void addTo(Path target) throws IOException {
        try (var channel = Files.newByteChannel(target, StandardOpenOption.WRITE);
                var from = Files.newInputStream(staged)) {
            if (xml) {
                channel.truncate(Math.max(0, channel.size() - CLOSE.length));
                from.skipNBytes(OPEN.length);
            }
            channel.position(channel.size());
            from.transferTo(java.nio.channels.Channels.newOutputStream(channel));
        }
    }

    @Override
    public void close() throws IOException {
        out.close();
    }
}
