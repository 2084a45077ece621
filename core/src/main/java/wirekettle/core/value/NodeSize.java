package wirekettle.core.value;

/** How much memory a tree takes, roughly. */
public final class NodeSize {
    private static final int NODE = 96;

    private NodeSize() {}

    /** Returns about how many bytes a tree takes. */
    public static long of(Node node) {
        long bytes = NODE + (node.children().isEmpty() ? node.text().length() : 0);
        for (Node attribute : node.attributes()) {
            bytes += NODE + attribute.text().length();
        }
        for (Node child : node.children()) {
            bytes += of(child);
        }
        return bytes;
    }
}
