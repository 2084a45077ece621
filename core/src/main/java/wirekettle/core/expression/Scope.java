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
    private final boolean inner;
    private final Whole whole;

    /** What all scopes of one record share. */
    private record Whole(Map<Node, ViewedNode> views, Places places, Secrets secrets, RecordFiles files) {}

    private Scope(Scope outer, String name, Node node, boolean inner, Whole whole) {
        this.inner = inner;
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
        Whole whole = new Whole(new IdentityHashMap<>(), null, secrets, new RecordFiles(folders));
        return new Scope(null, "", null, false, whole);
    }

    /** Returns a scope that has one variable more; an inner variable hides an outer one of the same name. */
    public Scope with(String variable, Node value) {
        return new Scope(this, variable, value, false, whole);
    }

    /** Returns a scope that has a node of another variable's tree as a variable: its parents stay in reach. */
    public Scope inside(String variable, Node value) {
        return new Scope(this, variable, value, true, whole);
    }

    /** Returns this scope for another thread, with what is known of where some nodes stand. */
    public Scope apart(Places places) {
        Whole other = new Whole(new IdentityHashMap<>(4), places, whole.secrets(), whole.files());
        return new Scope(this, "", null, false, other);
    }

    /** Returns this scope with the secrets of another place: those one endpoint may be sent. */
    public Scope knowing(Secrets secrets) {
        Whole other = new Whole(whole.views(), whole.places(), secrets, whole.files());
        return new Scope(this, "", null, false, other);
    }

    /** Returns this scope for another thread: what this one made of its trees is not shared. */
    public Scope apart() {
        return apart(whole.places());
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

    /** Forgets how expressions saw its trees: they are seen anew when that is needed. */
    public void forgetViews() {
        whole.views().clear();
    }

    /** Tells whether a variable is a node of another one's tree. */
    boolean isInner(String variable) {
        for (Scope scope = this; scope != null; scope = scope.outer) {
            if (scope.name.equals(variable)) {
                return scope.inner;
            }
        }
        return false;
    }

    /** Returns what is known of where nodes stand, or null. */
    Places places() {
        return whole.places();
    }

    Map<Node, ViewedNode> views() {
        return whole.views();
    }
}
