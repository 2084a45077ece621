package wirekettle.core.schema;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.value.Name;

/**
 * The place of a field in a message, the stable target of a fill: {@code /{ns}a/{ns}b#2~{ns}T/@c}. A step is an
 * expanded name; {@code #2} is the second of repeated elements, {@code ~{ns}T} the derived type picked for it. A
 * substitution element stands under its own name.
 */
public record SheetPath(List<Step> steps) {
    /**
     * One step.
     *
     * @param name the element's or attribute's name
     * @param attribute whether it is an attribute
     * @param occurrence which of repeated elements, from 1
     * @param type the derived type picked, or null
     */
    public record Step(Name name, boolean attribute, int occurrence, Name type) {
        /** Returns the step as text, with its slash. */
        @Override
        public String toString() {
            return (attribute ? "/@" : "/")
                    + name
                    + (occurrence > 1 ? "#" + occurrence : "")
                    + (type == null ? "" : "~" + type);
        }
    }

    /** Keeps its own copy. */
    public SheetPath {
        steps = List.copyOf(steps);
    }

    /**
     * Reads a path.
     *
     * @throws IllegalArgumentException when it is none
     */
    public static SheetPath parse(String text) {
        List<Step> steps = new ArrayList<>();
        int at = 0;
        while (at < text.length()) {
            if (text.charAt(at) != '/') {
                throw new IllegalArgumentException("a path's steps start with /: " + text);
            }
            int end = at + 1;
            int depth = 0;
            while (end < text.length() && (depth > 0 || text.charAt(end) != '/')) {
                depth += text.charAt(end) == '{' ? 1 : text.charAt(end) == '}' ? -1 : 0;
                end++;
            }
            steps.add(step(text.substring(at + 1, end)));
            at = end;
        }
        return new SheetPath(steps);
    }

    private static Step step(String text) {
        boolean attribute = text.startsWith("@");
        String rest = attribute ? text.substring(1) : text;
        Name type = null;
        int brace = rest.startsWith("{") ? rest.indexOf('}') + 1 : 0;
        int tilde = rest.indexOf('~', brace);
        if (tilde >= 0) {
            type = Name.parse(rest.substring(tilde + 1));
            rest = rest.substring(0, tilde);
        }
        int hash = rest.indexOf('#', brace);
        int occurrence = 1;
        if (hash >= 0) {
            try {
                occurrence = Integer.parseInt(rest.substring(hash + 1));
            } catch (NumberFormatException e) {
                throw new IllegalArgumentException("“" + rest.substring(hash) + "” is no occurrence");
            }
            rest = rest.substring(0, hash);
        }
        return new Step(Name.parse(rest), attribute, occurrence, type);
    }

    /** Returns the path one step shorter, empty for a root. */
    public SheetPath parent() {
        return new SheetPath(steps.subList(0, Math.max(0, steps.size() - 1)));
    }

    /** Returns the last step. */
    public Step last() {
        return steps.get(steps.size() - 1);
    }

    @Override
    public String toString() {
        StringBuilder out = new StringBuilder();
        steps.forEach(out::append);
        return out.toString();
    }
}
