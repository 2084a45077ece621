package wirekettle.core.soap.attachments;

import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Base64;
import java.util.Collection;
import java.util.List;
import java.util.UUID;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

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
    public record Packed(String envelope, List<Part> parts) {
        /** Returns this with a further part for each file the envelope is marked to send. */
        public Packed withFiles(Folders folders) throws Folders.NoSuchFile {
            List<Part> all = new ArrayList<>(parts);
            StringBuilder out = new StringBuilder();
            for (FileMark.Piece piece : FileMark.pieces(envelope)) {
                out.append(piece.text());
                if (piece.mark() != null) {
                    String id = UUID.randomUUID() + "@wire-kettle.invalid";
                    FileMark mark = piece.mark();
                    String type = MediaTypes.of(mark.name());
                    all.add(new Part(id, type, folders.file(mark.folder(), mark.name())));
                    out.append(include(id));
                }
            }
            return new Packed(out.toString(), all);
        }
    }

    private static String include(String id) {
        return "<xop:Include xmlns:xop=\"" + NAMESPACE + "\" href=\"cid:" + id + "\"/>";
    }

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
                        Matcher.quoteReplacement("<" + tag + found.group(2) + ">" + include(id) + "</" + tag + ">"));
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
        Matcher found = INCLUDE.matcher(envelope);
        StringBuilder out = new StringBuilder();
        while (found.find()) {
            Part part = part(found.group(2), parts);
            found.appendReplacement(out, Base64.getEncoder().encodeToString(part.bytes()));
        }
        found.appendTail(out);
        return out.toString();
    }

    /**
     * Returns a tree in which every element that stands for a part holds that part's content.
     *
     * @param parts the parts that came beside it, null when they are no longer there: then each holds nothing
     * @throws Multipart.Broken when a part is missing
     */
    public static Node resolved(Node tree, List<Part> parts) throws Multipart.Broken {
        Node include = tree.children().size() == 1 ? tree.children().get(0) : null;
        if (include != null
                && include.name().namespace().equals(NAMESPACE)
                && include.name().local().equals("Include")) {
            Node href = include.attribute("href");
            return tree.holding(part(href == null ? "" : href.text(), parts));
        }
        List<Node> children = new ArrayList<>(tree.children().size());
        boolean changed = false;
        for (Node child : tree.children()) {
            Node its = resolved(child, parts);
            changed |= its != child;
            children.add(its);
        }
        return changed ? tree.with(children) : tree;
    }

    private static Part part(String reference, List<Part> parts) throws Multipart.Broken {
        if (parts == null) {
            return new Part("", MediaTypes.ANY, new byte[0]);
        }
        String id = URLDecoder.decode(reference.replaceFirst("^cid:", "").replace("+", "%2B"), StandardCharsets.UTF_8);
        for (Part part : parts) {
            if (part.id().equals(id)) {
                return part;
            }
        }
        throw new Multipart.Broken(
                "the answer refers to its part " + id + ", which is missing: only " + parts.size() + " came with it");
    }

    /** Returns a tree whose contents are base64 of zeros of their length, to be held against a schema. */
    public static Node standIns(Node tree) {
        if (tree.content() != null) {
            return Node.leaf(tree.name(), FileMark.standIn(tree.content().length()));
        }
        return tree.children().isEmpty()
                ? tree
                : tree.with(tree.children().stream().map(Xop::standIns).toList());
    }
}
