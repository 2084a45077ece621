package wirekettle.core.fill;

import com.fasterxml.jackson.annotation.JsonProperty;

/**
 * How a real service wants its messages written where the standards leave a choice, or where it keeps to none.
 *
 * @param prefixes how namespaces are written
 * @param sendEmpty write fields whose value is empty instead of leaving them out
 * @param forceTypes write {@code xsi:type} on every element of a named type
 * @param orderAsGiven write fields in the order of their fills instead of the contract's
 */
public record MessageStyle(Prefixes prefixes, boolean sendEmpty, boolean forceTypes, boolean orderAsGiven) {
    /** How namespaces are written. */
    public enum Prefixes {
        /** n1, n2 and so on. */
        @JsonProperty("numbered")
        NUMBERED,
        /** The prefixes the contract's own documents use. */
        @JsonProperty("contract")
        CONTRACT,
        /** No prefixes: each namespace is the default where it begins. */
        @JsonProperty("none")
        NONE
    }

    /** Numbered prefixes, empties left out, no types, the contract's order. */
    public static final MessageStyle PLAIN = new MessageStyle(Prefixes.NUMBERED, false, false, false);

    /** Fills in what may be left out. */
    public MessageStyle {
        prefixes = prefixes == null ? Prefixes.NUMBERED : prefixes;
    }
}
