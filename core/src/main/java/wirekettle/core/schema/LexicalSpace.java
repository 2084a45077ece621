package wirekettle.core.schema;

import java.math.BigInteger;
import java.net.URI;
import java.net.URISyntaxException;
import java.nio.charset.StandardCharsets;
import java.time.DateTimeException;
import java.time.LocalDate;
import wirekettle.core.value.FixedDate;

/** Which texts are values of a built-in type (XML Schema 1.0 part 2, 3.2 and 3.3): what its pattern cannot say, too. */
final class LexicalSpace {
    /** Years of more digits are beyond what implementations have to take (part 2, 5.4). */
    private static final int YEAR_DIGITS = 9;

    private static final String BASE64 = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    private static final String ESCAPED_IN_URI = "<>\"{}|\\^`";

    private LexicalSpace() {}

    /** Returns what is wrong with a text whose white space is as the type wants it, null when it is a value. */
    static String problem(BuiltIn type, String value) {
        if (plain(type, value)) {
            return null;
        }
        boolean fits = type.lexical() == null || type.lexical().matcher(value).matches();
        if (!fits || !special(type, value)) {
            return "no " + type.name();
        }
        return type.family() == BuiltIn.Family.TEMPORAL && !calendar(type.name(), value)
                ? "no day of the calendar"
                : null;
    }

    private static boolean special(BuiltIn type, String value) {
        return switch (type.family()) {
            case INTEGER -> bounded(type, value);
            case BASE64 -> base64(value);
                // no entity is declared in a message: it has no DTD (SOAP 1.1, 3; SOAP 1.2 part 1, 5)
            case TOKEN -> type.name().equals("anyURI")
                    ? uri(value)
                    : !type.name().startsWith("ENTIT");
            default -> true;
        };
    }

    /** Tells whether a value is so plainly right that no pattern needs to be asked. */
    private static boolean plain(BuiltIn type, String value) {
        return switch (type.family()) {
            case DECIMAL -> digits(value, true);
            case INTEGER -> value.length() <= 18 && digits(value, false) && bounded(type, Long.parseLong(value));
            case BOOLEAN -> value.equals("true") || value.equals("false");
            case TEMPORAL -> !value.startsWith("0000")
                    && (type.name().equals("date") && day(value) || type.name().equals("dateTime") && moment(value));
            default -> false;
        };
    }

    private static boolean digits(String value, boolean fraction) {
        int points = 0;
        for (int i = 0; i < value.length(); i++) {
            char c = value.charAt(i);
            if (c == '.' && fraction && i > 0) {
                points++;
            } else if (c < '0' || c > '9') {
                return false;
            }
        }
        return !value.isEmpty() && points <= 1;
    }

    private static boolean day(String value) {
        try {
            return FixedDate.ISO.read(value) != null;
        } catch (DateTimeException e) {
            return false;
        }
    }

    /**
     * Tells whether a value is a moment in UTC as it is mostly written: 2026-12-04T09:30:00Z, with or without
     * fractions.
     */
    private static boolean moment(String value) {
        int length = value.length();
        if (length < 20 || value.charAt(10) != 'T' || value.charAt(length - 1) != 'Z') {
            return false;
        }
        boolean fraction = length == 20 || length > 21 && value.charAt(19) == '.' && digits(value, 20, length - 1);
        return fraction
                && digits(value, 11, 13)
                && value.charAt(13) == ':'
                && digits(value, 14, 16)
                && value.charAt(16) == ':'
                && digits(value, 17, 19)
                && value.compareTo(value.substring(0, 11) + "23:59:59~") < 0
                && value.charAt(14) < '6'
                && value.charAt(17) < '6'
                && day(value.substring(0, 10));
    }

    private static boolean digits(String value, int from, int to) {
        for (int i = from; i < to; i++) {
            if (value.charAt(i) < '0' || value.charAt(i) > '9') {
                return false;
            }
        }
        return true;
    }

    private static boolean bounded(BuiltIn type, long value) {
        // a bound beyond the longs is met by every number of 18 digits on its own side
        boolean least =
                type.min() == null || type.min().bitLength() > 63 || type.min().longValue() <= value;
        return least
                && (type.max() == null
                        || type.max().bitLength() > 63
                        || type.max().longValue() >= value);
    }

    private static boolean bounded(BuiltIn type, String value) {
        if (type.min() == null && type.max() == null) {
            return true;
        }
        BigInteger number = new BigInteger(value);
        return (type.min() == null || number.compareTo(type.min()) >= 0)
                && (type.max() == null || number.compareTo(type.max()) <= 0);
    }

    /** Looks at the year and the day of a value that has them; a negative year is one before the common era. */
    private static boolean calendar(String name, String value) {
        if (!name.startsWith("date") && !name.startsWith("gYear")) {
            return true;
        }
        int start = value.startsWith("-") ? 1 : 0;
        int end = start;
        while (end < value.length() && Character.isDigit(value.charAt(end))) {
            end++;
        }
        String digits = value.substring(start, end);
        boolean zeros = digits.length() > 4 && digits.charAt(0) == '0';
        if (zeros || digits.equals("0000") || digits.length() > YEAR_DIGITS) {
            return false;
        }
        if (name.startsWith("gYear")) {
            return true;
        }
        int year = start == 0 ? Integer.parseInt(digits) : 1 - Integer.parseInt(digits);
        try {
            LocalDate.of(
                    year,
                    Integer.parseInt(value.substring(end + 1, end + 3)),
                    Integer.parseInt(value.substring(end + 4, end + 6)));
            return true;
        } catch (DateTimeException e) {
            return false;
        }
    }

    /** Groups of four, filled up at the end, no bit set that belongs to no octet (3.2.16; RFC 2045, 6.8). */
    private static boolean base64(String value) {
        int count = 0;
        int fill = 0;
        int last = 0;
        for (int i = 0; i < value.length(); i++) {
            char c = value.charAt(i);
            if (c == '=') {
                fill++;
            } else if (c > ' ') {
                last = c;
            } else {
                continue;
            }
            count++;
        }
        int bits = BASE64.indexOf(last);
        return count % 4 == 0
                && fill <= 2
                && (fill == 0 || count > fill && (fill == 1 ? bits % 4 == 0 : bits % 16 == 0));
    }

    /**
     * What may not stand in an address is escaped, then it has to be a reference (3.2.17; XLink 1.0, 5.4; RFC 2396).
     */
    private static boolean uri(String value) {
        StringBuilder escaped = new StringBuilder();
        for (byte each : value.getBytes(StandardCharsets.UTF_8)) {
            if (each <= ' ' || each == 0x7F || ESCAPED_IN_URI.indexOf(each) >= 0) {
                escaped.append(String.format("%%%02X", each & 0xFF));
            } else {
                escaped.append((char) each);
            }
        }
        try {
            return new URI(escaped.toString()) != null;
        } catch (URISyntaxException e) {
            return false;
        }
    }
}
