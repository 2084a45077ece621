package wirekettle.connect;

import java.io.IOException;
import java.io.OutputStream;
import java.nio.channels.Channels;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;

/**
 * A file that is written aside and then takes its place, or is added to what is there. What was forced is there after a
 * crash; a run that goes on cuts it back to what its ledger knows.
 */
final class StagedFile extends OutputStream {
    // two runs that end at once take their places one after the other
    private static final Map<Path, Object> PLACES = new ConcurrentHashMap<>();

    private final Path target;
    private final Path staged;
    private final boolean append;
    private final FileChannel channel;
    private final OutputStream out;
    private long count;

    /**
     * Opens the file, and makes its folder.
     *
     * @param target where the result goes, null to leave it staged
     * @param staged where it is written; nobody else writes there
     * @param append whether it is added to what the target has, else it takes its place
     * @param from how much of it is kept of an earlier time, in bytes; 0 to begin anew
     */
    StagedFile(Path target, Path staged, boolean append, long from) throws IOException {
        this.target = target;
        this.staged = staged;
        this.append = append;
        Files.createDirectories(staged.toAbsolutePath().getParent());
        if (from > 0 && (!Files.exists(staged) || Files.size(staged) < from)) {
            throw new IOException("what the run had written is gone from " + staged + ": it cannot go on");
        }
        if (from == 0) {
            Files.deleteIfExists(placed());
        }
        channel = FileChannel.open(staged, StandardOpenOption.CREATE, StandardOpenOption.WRITE);
        channel.truncate(from);
        channel.position(from);
        count = from;
        out = Channels.newOutputStream(channel);
    }

    @Override
    public void write(int b) throws IOException {
        out.write(b);
        count++;
    }

    @Override
    public void write(byte[] bytes, int from, int length) throws IOException {
        out.write(bytes, from, length);
        count += length;
    }

    /** Makes what was written durable. */
    void force() throws IOException {
        channel.force(false);
    }

    /** Returns how many bytes it has. */
    long count() {
        return count;
    }

    @Override
    public void close() throws IOException {
        out.close();
    }

    /** Adds the staged file to a copy of a target that is not empty. */
    interface Adding {
        void to(Path target) throws IOException;
    }

    private Path placed() {
        return staged.resolveSibling(staged.getFileName() + ".placed");
    }

    /** Makes the result visible, once: a run that goes on after that does not do it again. */
    void takePlace(Adding adding) throws IOException {
        if (target == null || Files.exists(placed())) {
            return;
        }
        Path place = target.toAbsolutePath().normalize();
        synchronized (PLACES.computeIfAbsent(place, p -> new Object())) {
            Files.createDirectories(place.getParent());
            Path beside = Files.createTempFile(place.getParent(), ".", ".part");
            try {
                boolean more = append && Files.exists(place) && Files.size(place) > 0;
                Files.copy(more ? place : staged, beside, StandardCopyOption.REPLACE_EXISTING);
                if (more) {
                    adding.to(beside);
                }
                try (FileChannel copied = FileChannel.open(beside, StandardOpenOption.WRITE)) {
                    copied.force(true);
                }
                Files.move(beside, place, StandardCopyOption.REPLACE_EXISTING, StandardCopyOption.ATOMIC_MOVE);
                Files.createFile(placed());
            } finally {
                Files.deleteIfExists(beside);
            }
        }
    }
}
