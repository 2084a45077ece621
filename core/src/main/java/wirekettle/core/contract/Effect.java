package wirekettle.core.contract;

import java.util.Locale;
import java.util.Set;

/** Whether calling an operation only reads, or changes data on the other side. */
public enum Effect {
    /** May be called again at will. */
    READS,
    /** Must never be blindly sent again. */
    CHANGES;

    private static final Set<String> READING = Set.of(
            "get",
            "look",
            "lookup",
            "find",
            "list",
            "search",
            "track",
            "query",
            "read",
            "check",
            "fetch",
            "validate",
            "is",
            "has",
            "ping",
            "status",
            "retrieve",
            "describe",
            "count",
            "calculate",
            "convert",
            "verify",
            "show",
            "view",
            "quote",
            "estimate");

    /** Proposes an effect from the first word of an operation's name; in doubt it changes data. */
    public static Effect propose(String operation) {
        String first = operation.replaceAll("^[^A-Za-z]+", "").split("(?<=[a-z])(?=[A-Z])|[_\\-.]")[0];
        return READING.contains(first.toLowerCase(Locale.ROOT)) ? READS : CHANGES;
    }
}
