package wirekettle.connect;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.time.temporal.ChronoUnit;
import java.util.Iterator;
import java.util.List;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.soap.attachments.MediaTypes;
import wirekettle.core.value.Column;
import wirekettle.core.value.Layout;
import wirekettle.core.value.Node;
import wirekettle.core.value.ScalarType;

/** Reads what is known of the files of a folder, one record a file, by name; the files themselves stay closed. */
public final class FolderSource implements RecordSource {
    /** The fields of a file's record: its name, media type, size in bytes, and when it was written, in UTC. */
    public static final Layout LAYOUT = new Layout(List.of(
            new Column("name", "name", ScalarType.STRING, null, true),
            new Column("type", "type", ScalarType.STRING, null, true),
            new Column("bytes", "bytes", ScalarType.INTEGER, null, true),
            new Column("written", "written", ScalarType.DATETIME, null, true)));

    private final Path folder;
    private final List<Path> files;
    private final Iterator<Path> left;

    /** Opens a folder; one that is not there has no files. */
    public FolderSource(Path folder) throws IOException {
        this.folder = folder;
        this.files = FolderFiles.list(folder);
        this.left = files.iterator();
    }

    @Override
    public Item next() throws IOException {
        while (left.hasNext()) {
            Path file = left.next();
            try {
                return new Item(record(file), null);
            } catch (NoSuchFileException e) {
                // removed since the folder was opened
            }
        }
        return null;
    }

    private static Node record(Path file) throws IOException {
        String name = file.getFileName().toString();
        return LAYOUT.record(
                "record",
                List.of(
                        name,
                        MediaTypes.of(name),
                        Long.toString(Files.size(file)),
                        Files.getLastModifiedTime(file)
                                .toInstant()
                                .truncatedTo(ChronoUnit.SECONDS)
                                .toString()));
    }

    @Override
    public long size() {
        return files.size();
    }

    @Override
    public String name() {
        return String.valueOf(folder.getFileName());
    }

    @Override
    public void close() {}
}
