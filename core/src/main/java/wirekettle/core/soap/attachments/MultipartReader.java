package wirekettle.core.soap.attachments;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Locale;
import wirekettle.core.soap.attachments.Multipart.Broken;
import wirekettle.core.value.Content;

/** Reads one multipart stream part by part; a boundary counts only at the start of a line (RFC 2046, 5.1.1). */
final class MultipartReader {
    private static final int MOST_PARTS = 10_000;
    private static final int MOST_HEADERS = 64 << 10;

    private final InputStream in;
    private final Attachments attachments;
    private final long mostRoot;
    private final String start;
    private final byte[] mark;
    private final String boundary;
    // what was read and not yet used: buffer[at] to buffer[end - 1]
    private final byte[] buffer = new byte[64 << 10];
    private int at;
    private int end;
    private boolean drained;

    /** Reads a stream; attachments is null to keep all in memory. */
    MultipartReader(InputStream in, String contentType, Attachments attachments, long mostRoot) throws Broken {
        this.in = in;
        this.attachments = attachments;
        this.mostRoot = mostRoot;
        this.start = Multipart.parameter(contentType, "start");
        this.boundary = Multipart.parameter(contentType, "boundary");
        if (boundary == null) {
            throw new Broken("the answer is multipart, but its content type names no boundary");
        }
        this.mark = ("--" + boundary).getBytes(StandardCharsets.ISO_8859_1);
        if (mark.length > 1_000) {
            throw new Broken("the boundary of the multipart answer is longer than 1000 characters");
        }
    }

    List<Part> parts() throws Broken, IOException {
        if (!upToMark(OutputStream.nullOutputStream())) {
            throw new Broken("the answer is multipart, but its boundary “" + boundary + "” does not occur in it");
        }
        List<Part> parts = new ArrayList<>();
        int root = start == null ? 0 : -1;
        while (!last()) {
            if (parts.size() == MOST_PARTS) {
                throw new Broken("the answer is multipart with more than " + MOST_PARTS + " parts");
            }
            Head head = head();
            boolean isRoot = start == null ? parts.isEmpty() : head.id.equals(bare(start));
            parts.add(part(head, isRoot, parts.size() + 1));
            root = isRoot ? parts.size() - 1 : root;
        }
        if (parts.isEmpty()) {
            throw new Broken("the answer is multipart, but has no part");
        }
        if (root < 0) {
            throw new Broken("the answer's root part " + start + " is missing");
        }
        parts.add(0, parts.remove(root));
        return parts;
    }

    /** Passes the rest of a boundary's line; tells whether it was the last boundary. */
    private boolean last() throws IOException {
        String rest = line(MOST_HEADERS);
        return rest != null && rest.startsWith("--");
    }

    private record Head(String id, String type, boolean base64) {}

    private Head head() throws Broken, IOException {
        StringBuilder lines = new StringBuilder();
        while (true) {
            String line = line(MOST_HEADERS);
            if (line == null || lines.length() > MOST_HEADERS || line.startsWith("--" + boundary)) {
                throw new Broken("a part of the multipart answer has no end of its headers");
            }
            if (line.isEmpty()) {
                break;
            }
            boolean folded = line.charAt(0) == ' ' || line.charAt(0) == '\t';
            lines.append(folded ? " " : "\n").append(line.strip());
        }
        String id = "";
        String type = "application/octet-stream";
        boolean base64 = false;
        for (String line : lines.toString().split("\n")) {
            int colon = line.indexOf(':');
            String value = line.substring(colon + 1).strip();
            switch (line.substring(0, Math.max(0, colon)).strip().toLowerCase(Locale.ROOT)) {
                case "content-id" -> id = bare(value);
                case "content-type" -> type = value;
                case "content-transfer-encoding" -> base64 = value.equalsIgnoreCase("base64");
                default -> {}
            }
        }
        return new Head(id, type, base64);
    }

    private Part part(Head head, boolean root, int number) throws Broken, IOException {
        try (Taken out = taken(root)) {
            if (!upToMark(out)) {
                throw new Broken("the answer is multipart and was cut off in its part " + number);
            }
            Content content = out.content();
            return new Part(head.id, head.type, head.base64 ? decoded(content, head, root) : content);
        }
    }

    private Content decoded(Content content, Head head, boolean root) throws Broken, IOException {
        try (Taken out = taken(root);
                InputStream plain = Base64.getMimeDecoder().wrap(content.open())) {
            plain.transferTo(out);
            return out.content();
        } catch (Multipart.RootTooLarge e) {
            throw e;
        } catch (IOException e) {
            throw new Broken("the part " + head.id + " says it is base64 and is not");
        }
    }

    /** Where the bytes of a part go. */
    abstract static class Taken extends OutputStream {
        /** Returns the bytes when all are written. */
        abstract Content content() throws IOException;

        @Override
        public void write(int b) throws IOException {
            write(new byte[] {(byte) b}, 0, 1);
        }
    }

    private Taken taken(boolean root) {
        return attachments == null || root ? new InMemory(mostRoot) : attachments.taken();
    }

    private static final class InMemory extends Taken {
        private final ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        private final long most;

        InMemory(long most) {
            this.most = most;
        }

        @Override
        public void write(byte[] more, int from, int length) throws IOException {
            if (bytes.size() + (long) length > most) {
                throw new Multipart.RootTooLarge();
            }
            bytes.write(more, from, length);
        }

        @Override
        Content content() {
            return Content.of(bytes.toByteArray());
        }
    }

    private static String bare(String id) {
        return id.strip().replaceAll("^<|>$", "");
    }

    /** Keeps what is unused and reads more behind it; false at the end. */
    private boolean more() throws IOException {
        if (drained) {
            return false;
        }
        if (at > 0) {
            System.arraycopy(buffer, at, buffer, 0, end - at);
            end -= at;
            at = 0;
        }
        int read = in.read(buffer, end, buffer.length - end);
        drained = read < 0;
        end += Math.max(0, read);
        return !drained;
    }

    /** Returns a line without its end, null when nothing is left or it is longer than {@code most}. */
    private String line(int most) throws IOException {
        ByteArrayOutputStream line = new ByteArrayOutputStream();
        while (at < end || more()) {
            while (at < end) {
                byte b = buffer[at++];
                if (b == '\n') {
                    String text = line.toString(StandardCharsets.ISO_8859_1);
                    return text.endsWith("\r") ? text.substring(0, text.length() - 1) : text;
                }
                line.write(b);
                if (line.size() > most) {
                    return null;
                }
            }
        }
        return line.size() == 0 ? null : line.toString(StandardCharsets.ISO_8859_1);
    }

    /**
     * Writes everything before the next boundary, without the line's end that belongs to it, and passes the boundary.
     */
    private boolean upToMark(OutputStream out) throws IOException {
        boolean lineStarts = true;
        while (true) {
            int i = at;
            // one byte more than the boundary tells that it is not a longer one
            for (; i + mark.length < end || drained && i + mark.length <= end; i++) {
                if ((i == at ? lineStarts : buffer[i - 1] == '\n') && marked(i)) {
                    int line = i == at ? 0 : i - at > 1 && buffer[i - 2] == '\r' ? 2 : 1;
                    out.write(buffer, at, i - at - line);
                    at = i + mark.length;
                    return true;
                }
            }
            // the last bytes may be the line's end before a boundary: they wait for what follows
            int safe = Math.max(at, i - 2);
            lineStarts &= safe == at;
            out.write(buffer, at, safe - at);
            at = safe;
            if (drained) {
                return false;
            }
            more();
        }
    }

    private boolean marked(int from) {
        for (int j = 0; j < mark.length; j++) {
            if (buffer[from + j] != mark[j]) {
                return false;
            }
        }
        int next = from + mark.length;
        return next >= end
                || buffer[next] == '-'
                || buffer[next] == '\r'
                || buffer[next] == '\n'
                || buffer[next] == ' '
                || buffer[next] == '\t';
    }
}
