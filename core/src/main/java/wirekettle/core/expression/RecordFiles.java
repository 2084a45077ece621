package wirekettle.core.expression;

import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import wirekettle.core.soap.attachments.FileMark;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.value.Content;

/** The files one record sends and writes; those it wrote can be taken back. Safe for several threads. */
public final class RecordFiles {
    private final Folders folders;
    private final List<String[]> fresh = new ArrayList<>(0);

    RecordFiles(Folders folders) {
        this.folders = folders;
    }

    /** Returns what stands in a message for a file. */
    public FileMark mark(String folder, String name) throws Folders.NoSuchFile {
        return new FileMark(folder, name, folders.file(folder, name).length());
    }

    /** Writes a file and returns the name it has. */
    public String keep(String folder, String name, Content content) throws IOException, Folders.NoSuchFile {
        Folders.Kept kept = folders.keep(folder, name, content);
        if (kept.fresh()) {
            synchronized (fresh) {
                fresh.add(new String[] {folder, kept.name()});
            }
        }
        return kept.name();
    }

    /** Removes the files the record wrote, those that were not there before. */
    public void undo() {
        synchronized (fresh) {
            for (String[] each : fresh) {
                try {
                    folders.remove(each[0], each[1]);
                } catch (IOException e) {
                    // the file stays: a later run of the record uses it again
                }
            }
            fresh.clear();
        }
    }
}
