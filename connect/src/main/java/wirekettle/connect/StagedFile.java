package wirekettle.connect;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;

/** A file that was written aside and then takes its place, or is added to what is there. */
final class StagedFile {
    // two runs that end at once take their places one after the other
    private static final Map<Path, Object> PLACES = new ConcurrentHashMap<>();

    private final Path target;
    private final Path staged;
    private final boolean append;

    /**
     * Makes the file's folder.
     *
     * @param target where the result goes, null to leave it staged
     * @param staged where it is written; nobody else writes there
     * @param append whether it is added to what the target has, else it takes its place
     */
    StagedFile(Path target, Path staged, boolean append) throws IOException {
        this.target = target;
        this.staged = staged;
        this.append = append;
        Files.createDirectories(staged.toAbsolutePath().getParent());
    }

    /** Adds the staged file to a target that is not empty. */
    interface Adding {
        void to(Path target) throws IOException;
    }

    /** Makes the result visible. */
    void takePlace(Adding adding) throws IOException {
        if (target == null) {
            return;
        }
        Path place = target.toAbsolutePath().normalize();
        synchronized (PLACES.computeIfAbsent(place, p -> new Object())) {
            Files.createDirectories(place.getParent());
            if (append && Files.exists(place) && Files.size(place) > 0) {
                adding.to(place);
                return;
            }
            Path beside = Files.createTempFile(place.getParent(), ".", ".part");
            try {
                Files.copy(staged, beside, StandardCopyOption.REPLACE_EXISTING);
                Files.move(beside, place, StandardCopyOption.REPLACE_EXISTING, StandardCopyOption.ATOMIC_MOVE);
            } finally {
                Files.deleteIfExists(beside);
            }
        }
    }
}
