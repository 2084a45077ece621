package wirekettle.core.value;

import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Names of JSON members as names of elements and back: what a name cannot hold is written {@code _xHHHH_}. */
public final class JsonName {
    private static final Pattern ESCAPED = Pattern.compile("_x([0-9A-F]{4})_");

    private JsonName() {}

    /** Returns the element name of a member. */
    public static String element(String member) {
        StringBuilder out = new StringBuilder();
        for (int i = 0; i < member.length(); i++) {
            char c = member.charAt(i);
            boolean letter = Character.isLetter(c) || c == '_';
            boolean fits = letter || i > 0 && (Character.isDigit(c) || c == '-' || c == '.');
            boolean looksEscaped = c == '_'
                    && ESCAPED.matcher(member).region(i, member.length()).lookingAt();
            if (fits && !looksEscaped) {
                out.append(c);
            } else {
                out.append(String.format("_x%04X_", (int) c));
            }
        }
        return out.isEmpty() ? "_x0000_" : out.toString();
    }

    /** Returns the member an element name stands for. */
    public static String member(String element) {
        if (element.equals("_x0000_")) {
            return "";
        }
        if (!element.contains("_x")) {
            return element;
        }
        Matcher escaped = ESCAPED.matcher(element);
        return escaped.replaceAll(
                m -> Matcher.quoteReplacement(Character.toString((char) Integer.parseInt(m.group(1), 16))));
    }
}
