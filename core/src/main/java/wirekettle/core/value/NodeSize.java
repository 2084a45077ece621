package wirekettle.core.value;

/** How much memory a tree takes, roughly. */
public final class NodeSize {
    private static final int NODE = 96;

    private NodeSize() {}

    /** Returns about how many bytes a tree takes; content that is in a file takes none. */
    public static long of(Node node) {
        Content content = node.content();
        long bytes = NODE;
        if (content != null) {
            bytes += content.inMemory() ? content.length() : 0;
        } else if (node.children().isEmpty()) {
            bytes += node.text().length();
        }
        for (Node attribute : node.attributes()) {
            bytes += NODE + attribute.text().length();
        }
        for (Node child : node.children()) {
            bytes += of(child);
        }
        return bytes;
    }
}
