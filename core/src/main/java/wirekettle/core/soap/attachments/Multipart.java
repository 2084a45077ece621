package wirekettle.core.soap.attachments;

import java.io.ByteArrayOutputStream;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Base64;
import java.util.List;
import java.util.Locale;
import java.util.UUID;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Reads and writes multipart/related content (RFC 2046, 5.1; RFC 2387). */
public final class Multipart {
    private static final byte[] LINE = {'\r', '\n'};

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
        Matcher found = Pattern.compile("(?i);\\s*" + Pattern.quote(name) + "\\s*=\\s*(?:\"([^\"]*)\"|([^;\\s]+))")
                .matcher(header == null ? "" : header);
        return !found.find() ? null : found.group(1) != null ? found.group(1) : found.group(2);
    }

    /** Returns the parts, the root first (RFC 2387, 3.2). */
    public static List<Part> read(String contentType, byte[] content) throws Broken {
        String boundary = parameter(contentType, "boundary");
        if (boundary == null) {
            throw new Broken("the answer is multipart, but its content type names no boundary");
        }
        byte[] mark = ("--" + boundary).getBytes(StandardCharsets.ISO_8859_1);
        List<Part> parts = new ArrayList<>();
        int at = find(content, mark, 0);
        if (at < 0) {
            throw new Broken("the answer is multipart, but its boundary “" + boundary + "” does not occur in it");
        }
        while (true) {
            int from = at + mark.length;
            if (from + 1 < content.length && content[from] == '-' && content[from + 1] == '-') {
                break;
            }
            int next = find(content, mark, from);
            if (next < 0) {
                throw new Broken("the answer is multipart and was cut off in its part " + (parts.size() + 1));
            }
            parts.add(part(content, from, next));
            at = next;
        }
        if (parts.isEmpty()) {
            throw new Broken("the answer is multipart, but has no part");
        }
        String start = parameter(contentType, "start");
        if (start != null) {
            String wanted = bare(start);
            for (Part part : List.copyOf(parts)) {
                if (part.id().equals(wanted)) {
                    parts.remove(part);
                    parts.add(0, part);
                    return parts;
                }
            }
            throw new Broken("the answer's root part " + start + " is missing");
        }
        return parts;
    }

    private static Part part(byte[] content, int from, int to) throws Broken {
        int head = from;
        while (head < to && content[head] != '\n') {
            head++;
        }
        int body = find(content, new byte[] {'\r', '\n', '\r', '\n'}, head - 1);
        int gap = 4;
        if (body < 0 || body > to) {
            body = find(content, new byte[] {'\n', '\n'}, head);
            gap = 2;
        }
        if (body < 0 || body > to) {
            throw new Broken("a part of the multipart answer has no end of its headers");
        }
        String id = "";
        String type = "application/octet-stream";
        String encoding = "";
        String headers = new String(content, head, body - head, StandardCharsets.ISO_8859_1);
        for (String line : headers.replaceAll("\\r?\\n[ \\t]+", " ").split("\\r?\\n")) {
            int colon = line.indexOf(':');
            String value = line.substring(colon + 1).strip();
            switch (line.substring(0, Math.max(0, colon)).strip().toLowerCase(Locale.ROOT)) {
                case "content-id" -> id = bare(value);
                case "content-type" -> type = value;
                case "content-transfer-encoding" -> encoding = value.toLowerCase(Locale.ROOT);
                default -> {}
            }
        }
        int end = to;
        if (end > body + gap && content[end - 1] == '\n') {
            end -= content[end - 2] == '\r' ? 2 : 1;
        }
        byte[] bytes = Arrays.copyOfRange(content, Math.min(body + gap, end), end);
        if (encoding.equals("base64")) {
            try {
                bytes = Base64.getMimeDecoder().decode(bytes);
            } catch (IllegalArgumentException e) {
                throw new Broken("the part " + id + " says it is base64 and is not");
            }
        }
        return new Part(id, type, bytes);
    }

    private static String bare(String id) {
        return id.strip().replaceAll("^<|>$", "");
    }

    private static int find(byte[] in, byte[] wanted, int from) {
        for (int i = Math.max(0, from); i <= in.length - wanted.length; i++) {
            int j = 0;
            while (j < wanted.length && in[i + j] == wanted[j]) {
                j++;
            }
            if (j == wanted.length) {
                return i;
            }
        }
        return -1;
    }

    /** Content with the content type that tells its boundary. */
    public record Written(String contentType, byte[] content) {}

    /** Returns parts as multipart/related; parameters, each beginning with a semicolon, are added to its type. */
    public static Written write(List<Part> parts, String parameters) {
        String boundary = "part-" + UUID.randomUUID();
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        for (Part part : parts) {
            out.writeBytes(("--" + boundary + "\r\nContent-Type: " + part.type()
                            + "\r\nContent-Transfer-Encoding: binary\r\nContent-ID: <" + part.id() + ">\r\n\r\n")
                    .getBytes(StandardCharsets.ISO_8859_1));
            out.writeBytes(part.bytes());
            out.writeBytes(LINE);
        }
        out.writeBytes(("--" + boundary + "--\r\n").getBytes(StandardCharsets.ISO_8859_1));
        String type = "multipart/related; boundary=\"" + boundary + "\"; start=\"<"
                + parts.get(0).id() + ">\"" + parameters;
        return new Written(type, out.toByteArray());
    }
}
