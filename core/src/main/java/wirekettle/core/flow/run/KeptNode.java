package wirekettle.core.flow.run;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import wirekettle.core.value.Content;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/**
 * A tree as the text the ledger keeps, so that its record can go on from it: with the bytes of the attachments it
 * holds. Of these at most {@link Content#MOST_TEXT} are kept; of others only that they were there.
 */
public final class KeptNode {
    private static final String KEPT = "urn:wirekettle:kept";
    private static final Name TYPE = new Name(KEPT, "type");
    private static final Name BYTES = new Name(KEPT, "bytes");
    private static final Name GONE = new Name(KEPT, "gone");

    private long room = Content.MOST_TEXT;

    private KeptNode() {}

    /** Returns a tree's text. */
    public static String write(Node node) {
        return NodeWriter.write(new KeptNode().out(node), false);
    }

    /**
     * Returns the tree of a text.
     *
     * @throws XmlProblem when the text is damaged
     */
    public static Node read(String text) throws XmlProblem {
        byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
        return in(NodeReader.read(new ByteArrayInputStream(bytes), "what was kept", XmlLimits.MESSAGES));
    }

    /** Returns the length of the first attachment of a tree that was too large to be kept, 0 when there is none. */
    static long gone(Node node) {
        if (node.content() instanceof Gone gone) {
            return gone.length();
        }
        for (Node child : node.children()) {
            long below = gone(child);
            if (below > 0) {
                return below;
            }
        }
        return 0;
    }

    private Node out(Node node) {
        Content content = node.content();
        if (content == null) {
            return node.children().isEmpty() ? node : over(node, this::out);
        }
        Node.Builder leaf = Node.build(node.name());
        node.attributes().forEach(each -> leaf.attribute(each.name(), each.text()));
        if (content.type() != null) {
            leaf.attribute(TYPE, content.type());
        }
        String length = Long.toString(content.length());
        if (content.length() > room) {
            return leaf.attribute(GONE, length).done();
        }
        room -= content.length();
        return leaf.attribute(BYTES, length).text(content.base64()).done();
    }

    private static Node in(Node node) {
        Node kept = attribute(node, BYTES);
        Node gone = attribute(node, GONE);
        if (kept == null && gone == null) {
            return node.children().isEmpty() ? node : over(node, KeptNode::in);
        }
        Node.Builder leaf = Node.build(node.name());
        node.attributes().stream()
                .filter(each -> !each.name().namespace().equals(KEPT))
                .forEach(each -> leaf.attribute(each.name(), each.text()));
        Node type = attribute(node, TYPE);
        String known = type == null ? null : type.text();
        Content content = gone == null
                ? new Kept(Base64.getDecoder().decode(node.text()), known)
                : new Gone(Long.parseLong(gone.text()), known);
        return leaf.done().holding(content);
    }

    private interface Change {
        Node of(Node child);
    }

    private static Node over(Node node, Change change) {
        List<Node> children = new ArrayList<>(node.children().size());
        boolean same = true;
        for (Node child : node.children()) {
            Node now = change.of(child);
            same &= now == child;
            children.add(now);
        }
        return same ? node : node.with(children);
    }

    private static Node attribute(Node node, Name name) {
        for (Node each : node.attributes()) {
            if (each.name().equals(name)) {
                return each;
            }
        }
        return null;
    }

    private record Kept(byte[] bytes, String type) implements Content {
        @Override
        public long length() {
            return bytes.length;
        }

        @Override
        public boolean inMemory() {
            return true;
        }

        @Override
        public InputStream open() {
            return new ByteArrayInputStream(bytes);
        }
    }

    private record Gone(long length, String type) implements Content {
        @Override
        public InputStream open() throws IOException {
            throw new IOException("an attachment of " + (length >> 20) + " MB was too large to be kept");
        }
    }
}
