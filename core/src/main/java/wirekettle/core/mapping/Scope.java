package wirekettle.core.mapping;

import java.util.HashMap;
import java.util.IdentityHashMap;
import java.util.Map;
import wirekettle.core.value.Node;

/** The variables in reach at one point: {@code $loan}, {@code $reply}, {@code $run}. For one thread. */
public final class Scope {
    private final Scope outer;
    private final String name;
    private final Node node;
    private final Map<Node, ViewedNode> views;

    private Scope(Scope outer, String name, Node node, Map<Node, ViewedNode> views) {
        this.outer = outer;
        this.name = name;
        this.node = node;
        this.views = views;
    }

    /** Returns an empty scope. */
    public static Scope empty() {
        return new Scope(null, "", null, new IdentityHashMap<>());
    }

    /** Returns a scope that has one variable more; an inner variable hides an outer one of the same name. */
    public Scope with(String variable, Node value) {
        return new Scope(this, variable, value, views);
    }

    /** Returns the variable's node, or null. */
    public Node get(String variable) {
        for (Scope scope = this; scope != null; scope = scope.outer) {
            if (scope.name.equals(variable)) {
                return scope.node;
            }
        }
        return null;
    }

    /** Returns all variables, inner ones winning. */
    public Map<String, Node> variables() {
        Map<String, Node> all = new HashMap<>();
        for (Scope scope = this; scope != null; scope = scope.outer) {
            if (scope.node != null) {
                all.putIfAbsent(scope.name, scope.node);
            }
        }
        return all;
    }

    Map<Node, ViewedNode> views() {
        return views;
    }
}
