package wirekettle.core.soap.attachments;

import java.io.IOException;
import wirekettle.core.value.Content;

/** The folders messages send files from and contents of replies are kept in. Safe for several threads. */
public interface Folders {
    /** Knows no folder. */
    Folders NONE = new Folders() {
        @Override
        public Content file(String folder, String name) throws NoSuchFile {
            throw NoSuchFile.folder(folder);
        }

        @Override
        public Kept keep(String folder, String name, Content content) throws NoSuchFile {
            throw NoSuchFile.folder(folder);
        }

        @Override
        public void remove(String folder, String name) {}
    };

    /** Returns a file of a folder; never one outside it. */
    Content file(String folder, String name) throws NoSuchFile;

    /**
     * Keeps content as a file. What is not possible in a name is replaced; a file of that name with other content stays
     * as it is, and a number is added to the name; one with the same content is used again.
     */
    Kept keep(String folder, String name, Content content) throws NoSuchFile, IOException;

    /** Removes a file that was kept. */
    void remove(String folder, String name) throws IOException;

    /**
     * A file that was kept.
     *
     * @param name the name it has
     * @param fresh whether it was not there before
     */
    record Kept(String name, boolean fresh) {}

    /** A file or folder that is not there; the message is a few words after the value. */
    final class NoSuchFile extends Exception {
        /** Tells what is wrong with a value. */
        public NoSuchFile(String message) {
            super(message, null, false, false);
        }

        /** A folder that is not there. */
        public static NoSuchFile folder(String folder) {
            return new NoSuchFile("cannot be looked for: there is no folder “" + folder + "”");
        }
    }

    /** Returns the same folders for looking only: what would be kept is given its name and nothing is written. */
    default Folders forLooking() {
        Folders real = this;
        return new Folders() {
            @Override
            public Content file(String folder, String name) throws NoSuchFile {
                return real.file(folder, name);
            }

            @Override
            public Kept keep(String folder, String name, Content content) {
                return new Kept(possible(name), false);
            }

            @Override
            public void remove(String folder, String name) {}
        };
    }

    /** Returns a name files can have: no separators, no control characters, at most 150 characters, never hidden. */
    static String possible(String name) {
        String clean =
                name.strip().replaceAll("[\\p{Cntrl}/\\\\:*?\"<>|]+", "_").replaceAll("^\\.+", "");
        if (clean.length() > 150) {
            int dot = clean.lastIndexOf('.');
            String ending = dot > 0 && clean.length() - dot <= 12 ? clean.substring(dot) : "";
            clean = clean.substring(0, 150 - ending.length()) + ending;
        }
        return clean.isEmpty() ? "file" : clean;
    }
}
