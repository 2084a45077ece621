package wirekettle.server.runs;

import io.quarkus.runtime.StartupEvent;
import jakarta.annotation.Priority;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.io.IOException;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.channels.OverlappingFileLockException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import java.util.stream.Stream;
import org.jboss.logging.Logger;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.ledger.RunMapper;

/**
 * Which server holds which run. A server renews the leases of its runs; where one ended, another takes them over: at once
 * when both share their data folder, where every server keeps a locked file of its name, else when the leases are over.
 */
@ApplicationScoped
class Leases {
    private static final Logger LOG = Logger.getLogger(Leases.class);
    private static final String ENDING = ".server";

    @Inject
    RunMapper runs;

    @Inject
    DatasetStore datasets;

    private final String holder = UUID.randomUUID().toString();
    private FileChannel own;

    /** Returns the name of this server. */
    String holder() {
        return holder;
    }

    /** Locks the file of this server before it takes anything. */
    void begin(@Observes @Priority(1) StartupEvent start) throws IOException {
        Files.createDirectories(folder());
        own = FileChannel.open(folder().resolve(holder + ENDING), StandardOpenOption.CREATE, StandardOpenOption.WRITE);
        if (own.tryLock() == null) {
            throw new IOException("the file of this server is locked: " + folder());
        }
    }

    private Path folder() {
        return datasets.data().resolve("servers");
    }

    /** Renews the leases of the runs of this server. */
    void renew() {
        runs.renew(holder);
    }

    /** Takes runs from servers that have ended; returns those that are to be looked after now. */
    List<Long> orphans() {
        List<String> gone = new ArrayList<>();
        try (Stream<Path> files = Files.list(folder())) {
            for (Path file :
                    files.filter(each -> each.toString().endsWith(ENDING)).toList()) {
                String name = file.getFileName().toString().replace(ENDING, "");
                if (!name.equals(holder) && ended(file)) {
                    gone.add(name);
                }
            }
        } catch (IOException e) {
            LOG.debugf("the servers of this data folder are not known: %s", e.getMessage());
        }
        List<Long> orphans = runs.interrupt(String.join(",", gone));
        gone.forEach(this::forget);
        return orphans;
    }

    /** Tells whether the server of a file has ended: nobody holds its lock any more. */
    private static boolean ended(Path file) {
        try (FileChannel channel = FileChannel.open(file, StandardOpenOption.WRITE);
                FileLock lock = channel.tryLock()) {
            return lock != null;
        } catch (OverlappingFileLockException e) {
            return false;
        } catch (IOException e) {
            return false;
        }
    }

    private void forget(String name) {
        try {
            Files.deleteIfExists(folder().resolve(name + ENDING));
        } catch (IOException e) {
            LOG.debugf("the file of a server that ended stays: %s", e.getMessage());
        }
    }
}
