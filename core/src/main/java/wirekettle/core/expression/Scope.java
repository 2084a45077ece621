package wirekettle.core.expression;

import java.util.HashMap;
import java.util.IdentityHashMap;
import java.util.Map;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.value.Node;

/** The variables in reach at one point: {@code $loan}, {@code $reply}, {@code $run}. For one thread. */
public final class Scope {
    private final Scope outer;
    private final String name;
    private final Node node;
    private final Whole whole;

    /** What all scopes of one record share. */
    private record Whole(Map<Node, ViewedNode> views, Secrets secrets, RecordFiles files) {}

    private Scope(Scope outer, String name, Node node, Whole whole) {
        this.outer = outer;
        this.name = name;
        this.node = node;
        this.whole = whole;
    }

    /** Returns an empty scope that knows no secret. */
    public static Scope empty() {
        return of(Secrets.NONE);
    }

    /** Returns an empty scope that takes the values of secrets from somewhere. */
    public static Scope of(Secrets secrets) {
        return of(secrets, Folders.NONE);
    }

    /** Returns an empty scope of one record that takes secrets and files from somewhere. */
    public static Scope of(Secrets secrets, Folders folders) {
        return new Scope(null, "", null, new Whole(new IdentityHashMap<>(), secrets, new RecordFiles(folders)));
    }

    /** Returns a scope that has one variable more; an inner variable hides an outer one of the same name. */
    public Scope with(String variable, Node value) {
        return new Scope(this, variable, value, whole);
    }

    /** Returns this scope with the secrets of another place: those one endpoint may be sent. */
    public Scope knowing(Secrets secrets) {
        return new Scope(this, "", null, new Whole(whole.views(), secrets, whole.files()));
    }

    /** Returns this scope for another thread: what this one made of its trees is not shared. */
    public Scope apart() {
        return new Scope(this, "", null, new Whole(new IdentityHashMap<>(), whole.secrets(), whole.files()));
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

    /** Returns the value of a secret. */
    public String secret(String secret) {
        return whole.secrets().text(secret);
    }

    /** Returns the files the record sends and writes. */
    public RecordFiles files() {
        return whole.files();
    }

    Map<Node, ViewedNode> views() {
        return whole.views();
    }
}
