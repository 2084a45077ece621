package wirekettle.connect;

import java.io.IOException;
import java.io.InputStream;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.InvalidPathException;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.value.Content;

/** Folders of the machine by name. Nothing outside them is read or written, whatever a name says. */
public final class FolderFiles implements Folders {
    private static final int MOST_NUMBERS = 10_000;

    private final Map<String, Path> folders;

    /** Knows folders by the names of their datasets; one that is not there yet is made when a file is kept in it. */
    public FolderFiles(Map<String, Path> folders) {
        this.folders = Map.copyOf(folders);
    }

    private Path folder(String name) throws NoSuchFile {
        Path folder = folders.get(name);
        if (folder == null) {
            throw NoSuchFile.folder(name);
        }
        return folder;
    }

    @Override
    public Content file(String folder, String name) throws NoSuchFile {
        Path in = folder(folder);
        try {
            Path file = in.resolve(name).normalize();
            if (Files.isRegularFile(file)) {
                // what a link leads to counts
                if (!file.toRealPath().startsWith(in.toRealPath())) {
                    throw new NoSuchFile("leads out of the folder “" + folder + "”");
                }
                return Content.of(file);
            }
        } catch (InvalidPathException | IOException e) {
            throw new NoSuchFile("cannot be read in the folder “" + folder + "”");
        }
        throw new NoSuchFile("is no file of the folder “" + folder + "”");
    }

    @Override
    public Kept keep(String folder, String name, Content content) throws NoSuchFile, IOException {
        Path in = folder(folder);
        Files.createDirectories(in);
        String wanted = Folders.possible(name);
        int dot = wanted.lastIndexOf('.');
        String stem = dot > 0 ? wanted.substring(0, dot) : wanted;
        String ending = dot > 0 ? wanted.substring(dot) : "";
        Path written = Files.createTempFile(in, ".", ".part");
        try {
            try (InputStream from = content.open()) {
                Files.copy(from, written, StandardCopyOption.REPLACE_EXISTING);
            }
            Content now = Content.of(written);
            for (int n = 1; n <= MOST_NUMBERS; n++) {
                String free = n == 1 ? wanted : stem + "-" + n + ending;
                Path target = in.resolve(free);
                try {
                    // taken first, so that two records never write the same file
                    Files.createFile(target);
                    Files.move(written, target, StandardCopyOption.REPLACE_EXISTING, StandardCopyOption.ATOMIC_MOVE);
                    return new Kept(free, true);
                } catch (FileAlreadyExistsException e) {
                    if (Files.isRegularFile(target, LinkOption.NOFOLLOW_LINKS)
                            && Content.same(now, Content.of(target))) {
                        return new Kept(free, false);
                    }
                }
            }
            throw new IOException("the folder has " + MOST_NUMBERS + " files called " + wanted + " already");
        } finally {
            Files.deleteIfExists(written);
        }
    }

    @Override
    public void remove(String folder, String name) throws IOException {
        Path in = folders.get(folder);
        if (in != null && Folders.possible(name).equals(name)) {
            Files.deleteIfExists(in.resolve(name));
        }
    }

    /**
     * Returns the files of a folder by name, without hidden ones and those still being written; none when it is not
     * there.
     */
    public static List<Path> list(Path folder) throws IOException {
        if (!Files.isDirectory(folder)) {
            return List.of();
        }
        try (Stream<Path> all = Files.list(folder)) {
            return all.filter(file -> !file.getFileName().toString().startsWith(".") && Files.isRegularFile(file))
                    .sorted()
                    .toList();
        }
    }
}
