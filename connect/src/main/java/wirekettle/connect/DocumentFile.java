package wirekettle.connect;

import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;
import wirekettle.core.xml.XmlTree;

/** Reads the file of a contract's document without ever taking more memory than a document may have. */
public final class DocumentFile {
    private static final int START = 1 << 20;

    private DocumentFile() {}

    /**
     * Returns a document's bytes. Of a file that is too large only the start is returned when that already shows what
     * is wrong with it, so that the reader can name the place.
     */
    public static byte[] read(Path file) throws IOException {
        if (Files.size(file) <= XmlLimits.DOCUMENTS.maxBytes()) {
            return Files.readAllBytes(file);
        }
        byte[] start;
        try (InputStream in = Files.newInputStream(file)) {
            start = in.readNBytes(START);
        }
        try {
            XmlTree.read(start, file.toString(), XmlLimits.DOCUMENTS);
        } catch (XmlProblem e) {
            if (!e.code().equals("not-well-formed")) {
                return start;
            }
        }
        throw new IOException("the document is larger than " + (XmlLimits.DOCUMENTS.maxBytes() >> 20) + " MB");
    }
}
