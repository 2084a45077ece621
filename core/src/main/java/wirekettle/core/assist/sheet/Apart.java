package wirekettle.core.assist.sheet;

import java.util.ArrayList;
import java.util.List;

/** Takes a line's text apart at a sign that stands outside of quotes and brackets. */
final class Apart {
    private static final String OPEN = "\"'“([{";
    private static final String CLOSE = "\"'”)]}";

    private Apart() {}

    /** Returns the parts without the spaces around them; none is empty. */
    static List<String> at(String text, char sign) {
        List<String> parts = new ArrayList<>();
        int start = 0;
        int at = 0;
        while (at < text.length()) {
            char c = text.charAt(at);
            int kind = OPEN.indexOf(c);
            if (kind >= 0) {
                at = end(text, at, kind);
            } else if (c == sign) {
                add(text.substring(start, at), parts);
                start = at + 1;
            }
            at++;
        }
        add(text.substring(start), parts);
        return parts;
    }

    private static void add(String part, List<String> parts) {
        if (!part.isBlank()) {
            parts.add(part.strip());
        }
    }

    /**
     * Returns the position of the closing sign; a sign that is never closed, as an apostrophe in a remark, opens
     * nothing.
     */
    private static int end(String text, int from, int kind) {
        boolean quotes = kind < 3;
        int at = from + 1;
        while (at < text.length()) {
            char c = text.charAt(at);
            if (c == CLOSE.charAt(kind)) {
                return at;
            }
            int inner = quotes ? -1 : OPEN.indexOf(c);
            at = inner < 0 ? at + 1 : end(text, at, inner) + 1;
        }
        return from;
    }
}
