package wirekettle.core.flow.run;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import wirekettle.core.expression.Scope;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/**
 * {@code $run/key}: a UUID (RFC 9562) made once for an item. It is the same in every try, after a crash, and when its
 * record is sent again, so that a service can tell what it got before.
 */
final class RunKey {
    private static final String RUN = "run";
    private static final String KEY = "key";

    private RunKey() {}

    /**
     * Returns a scope with the key of an item in {@code $run}.
     *
     * @param record the key of the record
     * @param path where in the record the item is, empty for the record itself
     */
    static Scope in(Scope scope, String record, String path) {
        Node run = scope.get(RUN);
        if (run == null) {
            return scope;
        }
        List<Node> children = new ArrayList<>(run.children().size() + 1);
        for (Node child : run.children()) {
            if (!child.name().local().equals(KEY)) {
                children.add(child);
            }
        }
        children.add(Node.leaf(KEY, of(record, path)));
        return scope.with(RUN, Node.branch(Name.of(RUN), children));
    }

    private static String of(String record, String path) {
        byte[] both = (record + "\n" + path).getBytes(StandardCharsets.UTF_8);
        return path.isEmpty() ? record : UUID.nameUUIDFromBytes(both).toString();
    }
}
