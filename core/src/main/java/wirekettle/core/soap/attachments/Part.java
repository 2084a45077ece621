package wirekettle.core.soap.attachments;

import java.io.IOException;
import java.io.InputStream;
import wirekettle.core.value.Content;

/**
 * One part of a multipart message.
 *
 * @param id its content id without angle brackets, empty when it has none
 * @param type its content type, application/octet-stream when it does not say
 * @param content its content, decoded
 */
public record Part(String id, String type, Content content) implements Content {
    /** A part in memory. */
    public Part(String id, String type, byte[] bytes) {
        this(id, type, Content.of(bytes));
    }

    @Override
    public boolean inMemory() {
        return content.inMemory();
    }

    @Override
    public long length() {
        return content.length();
    }

    @Override
    public InputStream open() throws IOException {
        return content.open();
    }

    @Override
    public byte[] bytes() {
        return content.bytes();
    }
}
