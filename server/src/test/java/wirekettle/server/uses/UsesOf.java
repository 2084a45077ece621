package wirekettle.server.uses;

/** What runs use, for tests. */
public final class UsesOf {
    private UsesOf() {}

    /** Returns what is read and written by a mapper. */
    public static Uses a(UseMapper mapper) {
        Uses uses = new Uses();
        uses.mapper = mapper;
        return uses;
    }
}
