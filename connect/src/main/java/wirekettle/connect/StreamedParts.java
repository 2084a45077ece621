package wirekettle.connect;

import java.io.FilterInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.util.List;
import wirekettle.core.soap.Transport;
import wirekettle.core.soap.attachments.Multipart;
import wirekettle.core.soap.attachments.Part;

/** Takes a multipart answer apart while it comes, up to a size. */
final class StreamedParts {
    private StreamedParts() {}

    static List<Part> read(InputStream stream, String contentType, Transport.Request request)
            throws Multipart.Broken, IOException {
        Transport.Limits limits = request.limits();
        InputStream in = new Limited(stream, limits.maxAttachmentBytes());
        List<Part> parts = Multipart.read(contentType, in, request.room().attachments(), limits.maxBytes());
        // read to the end, so that the connection can be used again
        in.transferTo(OutputStream.nullOutputStream());
        return parts;
    }

    /** Ends with an error beyond a size. */
    private static final class Limited extends FilterInputStream {
        private long left;

        Limited(InputStream in, long most) {
            super(in);
            left = most;
        }

        @Override
        public int read(byte[] into, int at, int most) throws IOException {
            int read = super.read(into, at, most);
            left -= Math.max(0, read);
            if (left < 0) {
                throw new AnswerBody.TooLarge();
            }
            return read;
        }
    }
}
