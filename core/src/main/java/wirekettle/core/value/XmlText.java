package wirekettle.core.value;

/** Escaping of text for XML 1.0, and the test for characters XML 1.0 cannot hold (XML 1.0, 2.2). */
public final class XmlText {
    private XmlText() {}

    /** Returns text escaped for element content. */
    public static String escape(String text) {
        return escape(text, false);
    }

    /** Returns text escaped for a double-quoted attribute. */
    public static String attribute(String text) {
        return escape(text, true);
    }

    private static String escape(String text, boolean attribute) {
        StringBuilder out = null;
        for (int i = 0; i < text.length(); i++) {
            String with = replacement(text.charAt(i), attribute);
            if (with != null && out == null) {
                out = new StringBuilder(text.length() + 16).append(text, 0, i);
            }
            if (out != null) {
                if (with == null) {
                    out.append(text.charAt(i));
                } else {
                    out.append(with);
                }
            }
        }
        return out == null ? text : out.toString();
    }

    private static String replacement(char c, boolean attribute) {
        return switch (c) {
            case '&' -> "&amp;";
            case '<' -> "&lt;";
            case '>' -> "&gt;";
            case '\r' -> "&#13;";
            case '"' -> attribute ? "&quot;" : null;
            case '\n' -> attribute ? "&#10;" : null;
            case '\t' -> attribute ? "&#9;" : null;
            default -> null;
        };
    }

    /** Returns the index of the first character XML 1.0 cannot hold, or -1. */
    public static int firstInvalid(String text) {
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (c < 0x20 && c != '\t' && c != '\n' && c != '\r' || c == 0xFFFE || c == 0xFFFF) {
                return i;
            }
            if (Character.isSurrogate(c)) {
                if (!Character.isHighSurrogate(c)
                        || i + 1 == text.length()
                        || !Character.isLowSurrogate(text.charAt(i + 1))) {
                    return i;
                }
                i++;
            }
        }
        return -1;
    }
}
