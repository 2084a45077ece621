package wirekettle.connect;

import java.io.FilterInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.util.Set;
import org.apache.hc.core5.function.Supplier;
import org.apache.hc.core5.http.Header;
import org.apache.hc.core5.http.HttpEntity;
import org.apache.hc.core5.http.io.entity.ByteArrayEntity;
import wirekettle.core.value.Content;

/** A request's body: from memory what is there, files as they are read. */
final class SentContent implements HttpEntity {
    private final Content content;
    private volatile IOException unreadable;

    private SentContent(Content content) {
        this.content = content;
    }

    /** Returns the body as the client takes it. */
    static HttpEntity of(Content content) {
        return content.inMemory() || content.length() == 0
                ? new ByteArrayEntity(content.bytes(), null)
                : new SentContent(content);
    }

    /** Returns why a body could not be read while it was sent, null when it could. */
    static IOException unreadable(HttpEntity body) {
        return body instanceof SentContent sent ? sent.unreadable : null;
    }

    @Override
    public InputStream getContent() throws IOException {
        try {
            return new FilterInputStream(content.open()) {
                @Override
                public int read(byte[] into, int at, int most) throws IOException {
                    try {
                        return super.read(into, at, most);
                    } catch (IOException e) {
                        unreadable = e;
                        throw e;
                    }
                }
            };
        } catch (IOException e) {
            unreadable = e;
            throw e;
        }
    }

    @Override
    public void writeTo(OutputStream out) throws IOException {
        try (InputStream in = getContent()) {
            in.transferTo(out);
        }
    }

    @Override
    public boolean isRepeatable() {
        return true;
    }

    @Override
    public boolean isStreaming() {
        return false;
    }

    @Override
    public boolean isChunked() {
        return false;
    }

    @Override
    public long getContentLength() {
        return content.length();
    }

    @Override
    public String getContentType() {
        return null;
    }

    @Override
    public String getContentEncoding() {
        return null;
    }

    @Override
    public Supplier<java.util.List<? extends Header>> getTrailers() {
        return null;
    }

    @Override
    public Set<String> getTrailerNames() {
        return Set.of();
    }

    @Override
    public void close() {
        // nothing stays open
    }
}
