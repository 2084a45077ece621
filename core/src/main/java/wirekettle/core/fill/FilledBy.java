package wirekettle.core.fill;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.List;

/** What fills a field. */
public sealed interface FilledBy {
    /**
     * One value.
     *
     * @param path leads to it: {@code $loan/crate_no}
     */
    record Wire(String path) implements FilledBy {}

    /** A fixed text. */
    record Constant(String text) implements FilledBy {}

    /** What an expression, XPath 3.1, makes of what is in reach. */
    record Expression(String xpath) implements FilledBy {}

    /**
     * Values put together; those that are empty are passed over with their separator.
     *
     * @param parts paths, or texts in double quotes
     * @param by what stands between two values; a space when null
     */
    record Join(List<String> parts, String by) implements FilledBy {
        /** Keeps its own copy. */
        public Join {
            parts = parts == null ? List.of() : List.copyOf(parts);
        }
    }

    /**
     * A whole subtree: its fields go to the target's fields of the same names, all the way down.
     *
     * @param from the path of the node
     */
    record Copy(String from) implements FilledBy {}

    /** A secret's value, which is sent, and shown and kept nowhere. */
    record Secret(String name) implements FilledBy {}

    /**
     * An XML signature over an element of the message, made when it is sent.
     *
     * @param over the path of the element
     * @param key names the secret with the key; null for the key the endpoint signs messages with
     * @param inclusive whether the canonical form is the inclusive one; exclusive when null
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    record Signature(String over, String key, Boolean inclusive) implements FilledBy {}

    /** The field is always sent as explicitly nil. */
    record Nil() implements FilledBy {}

    /**
     * A key made for each node, the same in every table.
     *
     * @param of a path to a repeated node, or a variable
     */
    record Key(String of) implements FilledBy {}

    /**
     * A number drawn from a series for the item, the same at all places of one stage.
     *
     * @param series the series' name
     */
    record Number(String series) implements FilledBy {
        /** The variable that holds the numbers a stage has drawn; nobody can name it. */
        public static final String DRAWN = "#numbers";
    }

    /**
     * The target repeats once for each of several nodes.
     *
     * @param from a path to repeated nodes
     * @param as the variable each is bound to, without the dollar sign; {@code item} when null
     * @param each which of the nodes, in what order, or grouped by what; null for all of them as they come
     * @param value what a field of text holds each time; the text of the node when null
     */
    record Repeat(String from, String as, Fill.Each each, FilledBy value) implements FilledBy {}

    /**
     * Only the target itself is chosen: a derived type, a substitute, a branch, a further occurrence. It is written
     * whenever its parent is.
     */
    record Pick() implements FilledBy {}

    /** Nothing yet. */
    record Nothing() implements FilledBy {}

    /** Tells whether it gives one value: it neither picks, nor repeats, nor copies a subtree. */
    default boolean givesValue() {
        return !(this instanceof Pick || this instanceof Signature || this instanceof Repeat || this instanceof Copy);
    }
}
