package wirekettle.core.expression;

import java.util.ArrayList;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.value.Node;

/**
 * A plain path from a variable down by names: {@code $loan/crate/@no}. Names match in any namespace. Never needs the
 * expression engine.
 */
public final class WirePath {
    private static final Pattern SHAPE =
            Pattern.compile("\\$([\\p{L}_][\\p{L}\\p{N}_.-]*)((?:/@?[\\p{L}_][\\p{L}\\p{N}_.-]*)*)");

    private final String variable;
    private final String[] steps;
    private final int[] hashes;

    private WirePath(String variable, String[] steps) {
        this.variable = variable;
        this.steps = steps;
        this.hashes = new int[steps.length];
        for (int i = 0; i < steps.length; i++) {
            hashes[i] = steps[i].hashCode();
        }
    }

    /** Reads a path; an {@link IllegalArgumentException} says what a path looks like. */
    public static WirePath parse(String text) {
        Matcher matcher = SHAPE.matcher(text.strip());
        if (!matcher.matches()) {
            throw new IllegalArgumentException("“" + text + "” is no path like $loan/borrower");
        }
        String rest = matcher.group(2);
        return new WirePath(
                matcher.group(1),
                rest.isEmpty() ? new String[0] : rest.substring(1).split("/"));
    }

    /** Tells whether a text is a plain path. */
    public static boolean isPath(String text) {
        return SHAPE.matcher(text.strip()).matches();
    }

    /** Returns the variable it starts from, without the dollar sign. */
    public String variable() {
        return variable;
    }

    /** Returns the names below the variable; an attribute starts with {@code @}. */
    public List<String> steps() {
        return List.of(steps);
    }

    /** Returns the first node the path leads to, or null. */
    public Node first(Scope scope) {
        Node from = scope.get(variable);
        return from == null ? null : first(from, 0);
    }

    /** Returns the first node below {@code from} reached by the steps after {@code skip}, or null. */
    public Node first(Node from, int skip) {
        if (skip == steps.length) {
            return from;
        }
        String step = steps[skip];
        if (step.charAt(0) == '@') {
            return from.attribute(step.substring(1));
        }
        List<Node> children = from.children();
        int hash = hashes[skip];
        for (int i = 0; i < children.size(); i++) {
            Node child = children.get(i);
            // a text remembers its hash: most names are passed over without being compared
            if (child.name().local().hashCode() == hash && child.name().local().equals(step)) {
                Node found = first(child, skip + 1);
                if (found != null) {
                    return found;
                }
            }
        }
        return null;
    }

    /** Returns the node the path leads to when there is exactly one, else null. */
    Node only(Scope scope) {
        Node from = scope.get(variable);
        return from == null ? null : only(from, 0);
    }

    private Node only(Node from, int skip) {
        Node at = from;
        for (int i = skip; i < steps.length; i++) {
            String step = steps[i];
            if (step.charAt(0) == '@') {
                return i == steps.length - 1 ? at.attribute(step.substring(1)) : null;
            }
            Node found = null;
            List<Node> children = at.children();
            for (int c = 0; c < children.size(); c++) {
                Node child = children.get(c);
                if (child.name().local().hashCode() == hashes[i]
                        && child.name().local().equals(step)) {
                    if (found != null) {
                        return null;
                    }
                    found = child;
                }
            }
            if (found == null) {
                return null;
            }
            at = found;
        }
        return at;
    }

    /** Tells whether a path could be read in another way as part of an expression: it ends in a sign. */
    static boolean reservedName(String path) {
        char last = path.charAt(path.length() - 1);
        return last == '.' || last == '-' || path.contains("/-") || path.contains("/.");
    }

    /** Returns the place, from 0, of the node in use among all this path leads to; -1 when none is in use. */
    public int place(Scope scope) {
        Node row = scope.get("row");
        List<List<Node>> all = chains(scope);
        for (int i = 0; i < all.size(); i++) {
            Node node = all.get(i).get(all.get(i).size() - 1);
            if (node == row || row != null && holds(node, row)) {
                return i;
            }
        }
        return row == null && !all.isEmpty() ? 0 : -1;
    }

    private static boolean holds(Node tree, Node wanted) {
        for (Node child : tree.children()) {
            if (child == wanted || holds(child, wanted)) {
                return true;
            }
        }
        return false;
    }

    /** Returns every node the path leads to. */
    public List<Node> all(Scope scope) {
        List<Node> found = new ArrayList<>();
        Node from = scope.get(variable);
        if (from != null) {
            all(from, 0, found);
        }
        return found;
    }

    private void all(Node from, int at, List<Node> found) {
        if (at == steps.length) {
            found.add(from);
            return;
        }
        List<Node> children = from.children();
        for (int i = 0; i < children.size(); i++) {
            Node child = children.get(i);
            if (child.name().local().hashCode() == hashes[at]
                    && child.name().local().equals(steps[at])) {
                all(child, at + 1, found);
            }
        }
    }

    /** Returns every node the path leads to, each with its ancestors from the variable down (the node last). */
    public List<List<Node>> chains(Scope scope) {
        List<List<Node>> found = new ArrayList<>();
        Node from = scope.get(variable);
        if (from != null) {
            collect(List.of(from), 0, found);
        }
        return found;
    }

    private void collect(List<Node> chain, int at, List<List<Node>> found) {
        if (at == steps.length) {
            found.add(chain);
            return;
        }
        for (Node child : chain.get(chain.size() - 1).children()) {
            if (child.name().local().equals(steps[at])) {
                List<Node> longer = new ArrayList<>(chain);
                longer.add(child);
                collect(longer, at + 1, found);
            }
        }
    }

    /** Returns how many leading steps two paths share, or -1 when they start from different variables. */
    public int sharedWith(WirePath other) {
        if (!variable.equals(other.variable)) {
            return -1;
        }
        int n = 0;
        while (n < steps.length && n < other.steps.length && steps[n].equals(other.steps[n])) {
            n++;
        }
        return n;
    }

    @Override
    public String toString() {
        return "$" + variable + (steps.length == 0 ? "" : "/" + String.join("/", steps));
    }
}
