package wirekettle.connect;

import java.io.FilterInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.http.HttpResponse;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ScheduledFuture;
import java.util.concurrent.TimeUnit;
import java.util.zip.GZIPInputStream;
import wirekettle.core.soap.Transport;
import wirekettle.core.soap.attachments.Multipart;
import wirekettle.core.soap.attachments.Part;

/** Takes a multipart answer apart while it comes, up to a size and a point in time. */
final class StreamedParts {
    private StreamedParts() {}

    /** Tells whether an answer is one to be taken apart. */
    static boolean are(HttpResponse.ResponseInfo info) {
        return info.statusCode() / 100 == 2
                && Multipart.is(info.headers().firstValue("content-type").orElse(null));
    }

    static List<Part> read(InputStream stream, Map<String, String> headers, Transport.Request request, long deadline)
            throws Multipart.Broken, IOException {
        boolean[] late = {false};
        ScheduledFuture<?> end = LimitedBody.DEADLINES.schedule(
                () -> {
                    late[0] = true;
                    close(stream);
                },
                Math.max(0, deadline - System.nanoTime()),
                TimeUnit.NANOSECONDS);
        Transport.Limits limits = request.limits();
        try (InputStream plain = unpacked(stream, headers);
                InputStream in = new Limited(plain, limits.maxAttachmentBytes())) {
            List<Part> parts =
                    Multipart.read(headers.get("content-type"), in, request.attachments(), limits.maxBytes());
            // read to the end, so that the connection can be used again
            in.transferTo(OutputStream.nullOutputStream());
            return parts;
        } catch (Multipart.Broken | IOException e) {
            if (late[0]) {
                throw new LimitedBody.TooLate();
            }
            throw e;
        } finally {
            end.cancel(false);
        }
    }

    private static InputStream unpacked(InputStream stream, Map<String, String> headers) throws IOException {
        if (!"gzip".equalsIgnoreCase(headers.get("content-encoding"))) {
            return stream;
        }
        try {
            return new GZIPInputStream(stream);
        } catch (java.util.zip.ZipException e) {
            throw new LimitedBody.BrokenGzip("the answer says it is gzip but cannot be unpacked: " + e.getMessage());
        }
    }

    private static void close(InputStream stream) {
        try {
            stream.close();
        } catch (IOException e) {
            // it is given up anyway
        }
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
                throw new LimitedBody.TooLarge();
            }
            return read;
        }
    }
}
