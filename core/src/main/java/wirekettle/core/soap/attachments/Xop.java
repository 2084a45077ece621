package wirekettle.core.soap.attachments;

import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Base64;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import wirekettle.core.value.Name;

/** Puts base64 content of an envelope beside it and back (XOP 1.0, 3). */
public final class Xop {
    /** The namespace of the element that stands where content was taken out. */
    public static final String NAMESPACE = "http://www.w3.org/2004/08/xop/include";

    /** Content shorter than this stays in the envelope: a part of its own would be longer. */
    public static final int SHORTEST = 768;

    private static final Pattern INCLUDE = Pattern.compile(
            "<((?:[\\w.-]+:)?)Include\\b[^>]*?href\\s*=\\s*[\"']cid:([^\"']+)[\"'][^>]*?(?:/>|>\\s*</\\1Include\\s*>)");

    private static final Pattern CONTENT_TYPE = Pattern.compile("contentType\\s*=\\s*[\"']([^\"']+)[\"']");

    private Xop() {}

    /** An envelope and the parts that travel beside it. */
    public record Packed(String envelope, List<Part> parts) {}

    /** Takes the content of the named elements out of an envelope where it is base64 and long enough to be worth it. */
    public static Packed pack(String envelope, Collection<Name> binary) {
        if (binary.isEmpty()) {
            return new Packed(envelope, List.of());
        }
        String names =
                binary.stream().map(Name::local).distinct().map(Pattern::quote).collect(Collectors.joining("|"));
        Matcher found = Pattern.compile(
                        "<((?:[\\w.-]+:)?(?:" + names + "))((?:\\s[^<>]*)?)>([A-Za-z0-9+/=\\s]++)</\\1\\s*>")
                .matcher(envelope);
        List<Part> parts = new ArrayList<>();
        StringBuilder out = new StringBuilder();
        while (found.find()) {
            if (found.group(3).length() < SHORTEST) {
                continue;
            }
            try {
                byte[] bytes = Base64.getMimeDecoder().decode(found.group(3));
                String id = UUID.randomUUID() + "@wire-kettle.invalid";
                Matcher type = CONTENT_TYPE.matcher(found.group(2));
                parts.add(new Part(id, type.find() ? type.group(1) : "application/octet-stream", bytes));
                String tag = found.group(1);
                found.appendReplacement(
                        out,
                        Matcher.quoteReplacement("<" + tag + found.group(2) + "><xop:Include xmlns:xop=\"" + NAMESPACE
                                + "\" href=\"cid:" + id + "\"/></" + tag + ">"));
            } catch (IllegalArgumentException e) {
                // no base64 after all: it stays where it is
            }
        }
        found.appendTail(out);
        return new Packed(out.toString(), parts);
    }

    /** Puts the parts back into the envelope they were taken from; throws when one is missing. */
    public static String unpack(String envelope, List<Part> parts) throws Multipart.Broken {
        if (!envelope.contains(NAMESPACE)) {
            return envelope;
        }
        Map<String, Part> byId = new HashMap<>();
        parts.forEach(part -> byId.put(part.id(), part));
        Matcher found = INCLUDE.matcher(envelope);
        StringBuilder out = new StringBuilder();
        while (found.find()) {
            String id = URLDecoder.decode(found.group(2).replace("+", "%2B"), StandardCharsets.UTF_8);
            Part part = byId.get(id);
            if (part == null) {
                throw new Multipart.Broken("the answer refers to its part " + id + ", which is missing: only "
                        + Math.max(0, parts.size()) + " came with it");
            }
            found.appendReplacement(out, Base64.getEncoder().encodeToString(part.bytes()));
        }
        found.appendTail(out);
        return out.toString();
    }
}
