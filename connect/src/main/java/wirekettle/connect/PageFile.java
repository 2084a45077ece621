package wirekettle.connect;

import java.io.ByteArrayOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.EOFException;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.Channels;
import java.nio.channels.FileChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.List;
import wirekettle.core.flow.run.KeptNode;
import wirekettle.core.flow.run.PagedSource;
import wirekettle.core.value.Node;
import wirekettle.core.xml.XmlProblem;

/**
 * The pages an operation gave, in a file as they came: a run that goes on takes them from there, and asks for what is
 * behind the last whole one. Used by one thread.
 */
public final class PageFile implements PagedSource.Kept {
    private static final int NONE = -1;

    private final FileChannel channel;
    private final DataInputStream in;
    private final String name;
    private String watermark;
    private long whole;

    private PageFile(FileChannel channel, String name) {
        this.channel = channel;
        this.in = new DataInputStream(new java.io.BufferedInputStream(Channels.newInputStream(channel), 1 << 16));
        this.name = name;
    }

    /**
     * Opens the file of a run; one that is not there begins.
     *
     * @param watermark how far was read before the run began; that of a file that is there already counts
     */
    public static PageFile open(Path file, String watermark) throws IOException {
        Files.createDirectories(file.toAbsolutePath().getParent());
        FileChannel channel =
                FileChannel.open(file, StandardOpenOption.CREATE, StandardOpenOption.READ, StandardOpenOption.WRITE);
        try {
            PageFile pages = new PageFile(channel, file.getFileName().toString());
            pages.begin(watermark);
            return pages;
        } catch (IOException | RuntimeException e) {
            channel.close();
            throw e;
        }
    }

    private void begin(String given) throws IOException {
        try {
            watermark = text();
            whole = size(watermark);
        } catch (EOFException e) {
            watermark = given;
            ByteArrayOutputStream bytes = new ByteArrayOutputStream();
            text(new DataOutputStream(bytes), given);
            channel.truncate(0);
            write(bytes);
            channel.position(whole);
        }
    }

    /** Returns how far was read before the run began, or null. */
    public String watermark() {
        return watermark;
    }

    private static long size(String text) {
        return Integer.BYTES + (text == null ? 0 : text.getBytes(StandardCharsets.UTF_8).length);
    }

    @Override
    public PagedSource.Page next() throws IOException {
        try {
            long from = whole;
            int count = in.readInt();
            from += Integer.BYTES;
            List<Node> rows = new ArrayList<>(Math.min(count, 1 << 16));
            for (int i = 0; i < count; i++) {
                String row = text();
                from += size(row);
                rows.add(KeptNode.read(row));
            }
            int pages = in.readInt();
            long all = in.readLong();
            String token = text();
            boolean over = in.readBoolean();
            whole = from + Integer.BYTES + Long.BYTES + size(token) + 1;
            return new PagedSource.Page(rows, new PagedSource.Standing(pages, all, token, over));
        } catch (EOFException e) {
            return null; // what is behind was torn by a crash
        } catch (XmlProblem e) {
            throw new IOException("the pages kept in " + name + " are damaged: " + e.getMessage(), e);
        }
    }

    @Override
    public void keep(PagedSource.Page page) throws IOException {
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        DataOutputStream out = new DataOutputStream(bytes);
        out.writeInt(page.rows().size());
        for (Node row : page.rows()) {
            text(out, KeptNode.write(row));
        }
        PagedSource.Standing after = page.after();
        out.writeInt(after.count());
        out.writeLong(after.rows());
        text(out, after.token());
        out.writeBoolean(after.over());
        channel.truncate(whole);
        write(bytes);
    }

    private void write(ByteArrayOutputStream bytes) throws IOException {
        ByteBuffer buffer = ByteBuffer.wrap(bytes.toByteArray());
        long at = whole;
        while (buffer.hasRemaining()) {
            at += channel.write(buffer, at);
        }
        channel.force(false);
        whole = at;
    }

    private static void text(DataOutputStream out, String text) throws IOException {
        if (text == null) {
            out.writeInt(NONE);
            return;
        }
        byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
        out.writeInt(bytes.length);
        out.write(bytes);
    }

    private String text() throws IOException {
        int length = in.readInt();
        if (length == NONE) {
            return null;
        }
        byte[] bytes = in.readNBytes(length);
        if (bytes.length < length) {
            throw new EOFException();
        }
        return new String(bytes, StandardCharsets.UTF_8);
    }

    @Override
    public void close() throws IOException {
        channel.close();
    }
}
