package wirekettle.core.schema;

import java.math.BigInteger;
import java.util.HashMap;
import java.util.Map;
import java.util.regex.Pattern;

/**
 * A built-in simple type (XML Schema 1.0 part 2, 3): its lexical space, an example, and the family that decides how
 * lengths and bounds are compared.
 *
 * @param name the local name
 * @param family how values compare
 * @param lexical the lexical space, or null when any text is fine
 * @param example a valid value
 * @param min least value of a bounded integer, or null
 * @param max greatest value of a bounded integer, or null
 */
public record BuiltIn(String name, Family family, Pattern lexical, String example, BigInteger min, BigInteger max) {
    /** The namespace of XML Schema. */
    public static final String XSD = "http://www.w3.org/2001/XMLSchema";

    /** How values of a type compare and what their length counts. */
    public enum Family {
        /** Text, kept as it is. */
        STRING,
        /** Text with white space collapsed. */
        TOKEN,
        /** true, false, 1, 0. */
        BOOLEAN,
        /** Numbers with a decimal point. */
        DECIMAL,
        /** Whole numbers. */
        INTEGER,
        /** Floating point, INF and NaN included. */
        FLOAT,
        /** Dates, times and their parts. */
        TEMPORAL,
        /** Durations. */
        DURATION,
        /** Hexadecimal octets. */
        HEX,
        /** Base64 octets. */
        BASE64,
        /** Qualified names. */
        QNAME
    }

    private static final Map<String, BuiltIn> ALL = new HashMap<>();
    private static final String ZONE = "(Z|[+-]((0\\d|1[0-3]):[0-5]\\d|14:00))?";
    private static final String DAY = "-?\\d{4,}-(0[1-9]|1[0-2])-(0[1-9]|[12]\\d|3[01])";
    private static final String CLOCK = "(([01]\\d|2[0-3]):[0-5]\\d:[0-5]\\d(\\.\\d+)?|24:00:00(\\.0+)?)";
    private static final String NCNAME = "[\\p{L}_][\\p{L}\\p{N}\\p{M}\u00B7._-]*";

    static {
        add("anySimpleType", Family.STRING, null, "text");
        add("string", Family.STRING, null, "text");
        add("normalizedString", Family.STRING, null, "text");
        add("token", Family.TOKEN, null, "text");
        add("anyURI", Family.TOKEN, null, "urn:example:1");
        add("language", Family.TOKEN, "[a-zA-Z]{1,8}(?:-[a-zA-Z0-9]{1,8})*+", "en");
        add("Name", Family.TOKEN, "[\\p{L}_:][\\p{L}\\p{N}\\p{M}\u00B7._:-]*", "name");
        add("NMTOKEN", Family.TOKEN, "[\\p{L}\\p{N}\\p{M}\u00B7._:-]+", "token");
        add(
                "NMTOKENS",
                Family.TOKEN,
                "[\\p{L}\\p{N}\\p{M}\u00B7._:-]+(?:\\s+[\\p{L}\\p{N}\\p{M}\u00B7._:-]+)*+",
                "token");
        for (String name : new String[] {"NCName", "ID", "IDREF", "ENTITY"}) {
            add(name, Family.TOKEN, NCNAME, "id1");
        }
        for (String name : new String[] {"IDREFS", "ENTITIES"}) {
            add(name, Family.TOKEN, NCNAME + "(\\s+" + NCNAME + ")*", "id1");
        }
        add("QName", Family.QNAME, "(" + NCNAME + ":)?" + NCNAME, "name");
        add("NOTATION", Family.QNAME, "(" + NCNAME + ":)?" + NCNAME, "name");
        add("boolean", Family.BOOLEAN, "true|false|1|0", "true");
        add("decimal", Family.DECIMAL, "[+-]?(\\d+(\\.\\d*)?|\\.\\d+)", "1.5");
        for (String name : new String[] {"float", "double"}) {
            add(name, Family.FLOAT, "[+-]?(\\d+(\\.\\d*)?|\\.\\d+)([eE][+-]?\\d+)?|-?INF|NaN", "1.5");
        }
        integer("integer", null, null);
        integer("nonPositiveInteger", null, "0");
        integer("negativeInteger", null, "-1");
        integer("nonNegativeInteger", "0", null);
        integer("positiveInteger", "1", null);
        integer("long", "-9223372036854775808", "9223372036854775807");
        integer("int", "-2147483648", "2147483647");
        integer("short", "-32768", "32767");
        integer("byte", "-128", "127");
        integer("unsignedLong", "0", "18446744073709551615");
        integer("unsignedInt", "0", "4294967295");
        integer("unsignedShort", "0", "65535");
        integer("unsignedByte", "0", "255");
        add("date", Family.TEMPORAL, DAY + ZONE, "2026-12-04");
        add("dateTime", Family.TEMPORAL, DAY + "T" + CLOCK + ZONE, "2026-12-04T09:30:00Z");
        add("time", Family.TEMPORAL, CLOCK + ZONE, "09:30:00");
        add("gYear", Family.TEMPORAL, "-?\\d{4,}" + ZONE, "2026");
        add("gYearMonth", Family.TEMPORAL, "-?\\d{4,}-(0[1-9]|1[0-2])" + ZONE, "2026-12");
        add("gMonth", Family.TEMPORAL, "--(0[1-9]|1[0-2])" + ZONE, "--12");
        add(
                "gMonthDay",
                Family.TEMPORAL,
                "--(02-(0[1-9]|[12]\\d)|(0[469]|11)-(0[1-9]|[12]\\d|30)|(0[13578]|1[02])-(0[1-9]|[12]\\d|3[01]))"
                        + ZONE,
                "--12-04");
        add("gDay", Family.TEMPORAL, "---(0[1-9]|[12]\\d|3[01])" + ZONE, "---04");
        add(
                "duration",
                Family.DURATION,
                "-?P(?=.)(\\d+Y)?(\\d+M)?(\\d+D)?(T(?=.)(\\d+H)?(\\d+M)?(\\d+(\\.\\d+)?S)?)?",
                "P1D");
        add("hexBinary", Family.HEX, "(?:[0-9a-fA-F]{2})*+", "0A");
        add("base64Binary", Family.BASE64, "(?:[A-Za-z0-9+/][A-Za-z0-9+/\\s]*+)?(?:=\\s*){0,2}", "QUJD");
    }

    private static void add(String name, Family family, String lexical, String example) {
        Pattern pattern = lexical == null ? null : Pattern.compile(lexical);
        ALL.put(name, new BuiltIn(name, family, pattern, example, null, null));
    }

    private static void integer(String name, String min, String max) {
        BigInteger least = min == null ? null : new BigInteger(min);
        BigInteger most = max == null ? null : new BigInteger(max);
        String example = "0".equals(max) ? "0" : max != null && max.startsWith("-") ? max : "1";
        ALL.put(name, new BuiltIn(name, Family.INTEGER, Pattern.compile("[+-]?\\d+"), example, least, most));
    }

    /** Returns the local names of all built-in simple types. */
    static java.util.Set<String> names() {
        return new java.util.TreeSet<>(ALL.keySet());
    }

    /** Returns the built-in of that local name, or null. */
    public static BuiltIn of(String local) {
        return ALL.get(local);
    }
}
