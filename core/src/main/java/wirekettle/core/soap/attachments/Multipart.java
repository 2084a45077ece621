package wirekettle.core.soap.attachments;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.UUID;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.value.Content;

/** Reads and writes multipart/related content (RFC 2046, 5.1; RFC 2387). */
public final class Multipart {
    private static final Content LINE = Content.of(new byte[] {'\r', '\n'});

    private Multipart() {}

    /** Content that is not the multipart it says it is. */
    public static final class Broken extends Exception {
        Broken(String message) {
            super(message, null, false, false);
        }
    }

    /** Tells whether a content type is a multipart one. */
    public static boolean is(String contentType) {
        return contentType != null && contentType.toLowerCase(Locale.ROOT).startsWith("multipart/");
    }

    /** Returns a parameter of a header's value, or null. */
    public static String parameter(String header, String name) {
        if (header == null || header.indexOf(';') < 0) {
            return null;
        }
        Matcher found = Pattern.compile("(?i);\\s*" + Pattern.quote(name) + "\\s*=\\s*(?:\"([^\"]*)\"|([^;\\s]+))")
                .matcher(header);
        return !found.find() ? null : found.group(1) != null ? found.group(1) : found.group(2);
    }

    /** Returns the parts of content in memory, the root first (RFC 2387, 3.2). */
    public static List<Part> read(String contentType, byte[] content) throws Broken {
        try {
            return new MultipartReader(new ByteArrayInputStream(content), contentType, null, content.length).parts();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /**
     * Returns the parts of a stream, the root first.
     *
     * @param attachments where all parts but the root go
     * @param mostRoot the most bytes of the root
     * @throws Broken when it is not the multipart it says it is
     * @throws RootTooLarge when the root is larger
     */
    public static List<Part> read(String contentType, InputStream in, Attachments attachments, long mostRoot)
            throws Broken, IOException {
        return new MultipartReader(in, contentType, attachments, mostRoot).parts();
    }

    /** A root part above its limit. */
    public static final class RootTooLarge extends IOException {
        RootTooLarge() {
            super("the root part of the answer is too large");
        }
    }

    /** Content with the content type that tells its boundary. */
    public record Written(String contentType, Content content) {}

    /** Returns parts as multipart/related; parameters, each beginning with a semicolon, are added to its type. */
    public static Written write(List<Part> parts, String parameters) {
        String boundary = "part-" + UUID.randomUUID();
        List<Content> out = new ArrayList<>();
        for (Part part : parts) {
            out.add(text("--" + boundary + "\r\nContent-Type: " + part.type()
                    + "\r\nContent-Transfer-Encoding: binary\r\nContent-ID: <" + part.id() + ">\r\n\r\n"));
            out.add(part.content());
            out.add(LINE);
        }
        out.add(text("--" + boundary + "--\r\n"));
        String type = "multipart/related; boundary=\"" + boundary + "\"; start=\"<"
                + parts.get(0).id() + ">\"" + parameters;
        return new Written(type, Content.of(out));
    }

    private static Content text(String text) {
        return Content.of(text.getBytes(StandardCharsets.ISO_8859_1));
    }
}
