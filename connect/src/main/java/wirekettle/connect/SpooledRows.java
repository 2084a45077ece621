package wirekettle.connect;

import java.io.BufferedInputStream;
import java.io.BufferedOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.EOFException;
import java.io.FileOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.ArrayList;
import java.util.List;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/**
 * The rows of a query, read once into a file and taken from there: a run that goes on later reads the same rows in the
 * same order, and no transaction stays open while a run is slow. The file is complete or not there. For one thread at a
 * time, but for {@link #stop}.
 */
public final class SpooledRows implements RecordSource {
    /** Opens the query; its records are flat and have the same fields. */
    public interface Query {
        /** Opens it. */
        RecordSource open() throws IOException;
    }

    private final Path file;
    private final String name;
    private final Query query;
    private volatile boolean stopped;
    private DataInputStream rows;
    private Name record;
    private final List<Name> fields = new ArrayList<>();

    /**
     * Makes a source; nothing is read before the first record is asked for.
     *
     * @param file where the rows are kept; a file that is there already is used
     * @param name what is read
     */
    public SpooledRows(Path file, String name, Query query) {
        this.file = file;
        this.name = name;
        this.query = query;
    }

    /** Stops reading from the query: there are no more records. */
    public void stop() {
        stopped = true;
    }

    @Override
    public Item next() throws IOException {
        if (rows == null) {
            if (!Files.exists(file) && !spool()) {
                return null;
            }
            rows = new DataInputStream(new BufferedInputStream(Files.newInputStream(file), 1 << 16));
            head();
        }
        return record == null ? null : row();
    }

    /** Reads the query into the file; false when it was stopped. */
    private boolean spool() throws IOException {
        Files.createDirectories(file.toAbsolutePath().getParent());
        Path part = file.resolveSibling(file.getFileName() + ".part");
        try (RecordSource from = query.open();
                FileOutputStream to = new FileOutputStream(part.toFile());
                DataOutputStream out = new DataOutputStream(new BufferedOutputStream(to, 1 << 16))) {
            boolean first = true;
            for (Item item = from.next(); item != null; item = from.next()) {
                if (stopped) {
                    return false;
                }
                List<Node> its = item.node().children();
                if (first) {
                    write(out, item.node().name().toString());
                    out.writeInt(its.size());
                    for (Node field : its) {
                        write(out, field.name().toString());
                    }
                    first = false;
                }
                for (Node field : its) {
                    write(out, field.text());
                }
            }
            out.flush();
            to.getFD().sync();
        }
        Files.move(part, file, StandardCopyOption.ATOMIC_MOVE);
        return true;
    }

    private void head() throws IOException {
        String of = read(true);
        if (of == null) {
            return; // the query gave no rows
        }
        int count = rows.readInt();
        for (int i = 0; i < count; i++) {
            fields.add(Name.parse(read(false)));
        }
        record = Name.parse(of);
    }

    private Item row() throws IOException {
        Node.Builder made = Node.build(record);
        for (int i = 0; i < fields.size(); i++) {
            String value = read(i == 0);
            if (value == null) {
                return null;
            }
            made.add(Node.leaf(fields.get(i), value));
        }
        return new Item(made.done(), null);
    }

    private static void write(DataOutputStream out, String text) throws IOException {
        byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
        out.writeInt(bytes.length);
        out.write(bytes);
    }

    /** Returns the next text; null at the end of the file where one may be. */
    private String read(boolean mayEnd) throws IOException {
        int length;
        try {
            length = rows.readInt();
        } catch (EOFException e) {
            if (mayEnd) {
                return null;
            }
            throw new IOException("the rows kept in " + file.getFileName() + " are not whole", e);
        }
        byte[] bytes = rows.readNBytes(length);
        if (bytes.length < length) {
            throw new IOException("the rows kept in " + file.getFileName() + " are not whole");
        }
        return new String(bytes, StandardCharsets.UTF_8);
    }

    @Override
    public long size() {
        return -1;
    }

    @Override
    public String name() {
        return name;
    }

    @Override
    public void close() throws IOException {
        if (rows != null) {
            rows.close();
        }
    }
}
