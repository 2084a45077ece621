package wirekettle.connect;

import java.io.FilterInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.net.http.HttpRequest.BodyPublisher;
import java.net.http.HttpRequest.BodyPublishers;
import wirekettle.core.value.Content;

/** Sends content: from memory what is there, files as they are read. */
final class SentContent {
    private SentContent() {}

    /** Returns what the client sends; an error of reading is put into {@code unreadable} too. */
    static BodyPublisher of(Content content, IOException[] unreadable) {
        long length = content.length();
        if (length == 0) {
            return BodyPublishers.noBody();
        }
        if (content.inMemory()) {
            return BodyPublishers.ofByteArray(content.bytes());
        }
        return BodyPublishers.fromPublisher(BodyPublishers.ofInputStream(() -> opened(content, unreadable)), length);
    }

    private static InputStream opened(Content content, IOException[] unreadable) {
        try {
            return new FilterInputStream(content.open()) {
                @Override
                public int read(byte[] into, int at, int most) throws IOException {
                    try {
                        return super.read(into, at, most);
                    } catch (IOException e) {
                        unreadable[0] = e;
                        throw e;
                    }
                }
            };
        } catch (IOException e) {
            unreadable[0] = e;
            return null;
        }
    }
}
