package wirekettle.core.value;

/**
 * An expanded name: namespace (empty for none) and local part.
 *
 * @param namespace the namespace URI, empty when there is none
 * @param local the local part
 */
public record Name(String namespace, String local) {
    /** Returns a name in no namespace. */
    public static Name of(String local) {
        return new Name("", local);
    }

    /** Reads {@code {namespace}local}; without braces the name is in no namespace. */
    public static Name parse(String clark) {
        if (!clark.startsWith("{")) {
            return of(clark);
        }
        int end = clark.indexOf('}');
        if (end < 0) {
            throw new IllegalArgumentException("a name that starts with { needs a }: " + clark);
        }
        return new Name(clark.substring(1, end), clark.substring(end + 1));
    }

    /** Returns {@code {namespace}local}, or the local part alone when there is no namespace. */
    @Override
    public String toString() {
        return namespace.isEmpty() ? local : "{" + namespace + "}" + local;
    }
}
