package wirekettle.core.assist;

import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.Pattern;
import wirekettle.core.schema.ValueRule;

/** What values look like, and which fields such values belong in. */
enum SampleLooks {
    /** An e-mail address. */
    EMAIL("e-mail addresses", "[^@\\s]+@[^@\\s]+\\.[^@\\s]+", Set.of("email")),
    /** A web address. */
    URL("web addresses", "https?://\\S+", Set.of("website", "link")),
    /** A point in time. */
    DATETIME("points in time", "\\d{4}-\\d\\d-\\d\\d[T ]\\d\\d:\\d\\d.*", Set.of("time", "date", "start", "end")),
    /** A day. */
    DATE("dates", "\\d{4}-\\d\\d-\\d\\d|\\d\\d[./]\\d\\d[./]\\d{4}", Set.of("date", "time", "start", "end", "birth")),
    /** True or false. */
    BOOLEAN("yes and no", "(?i)true|false|yes|no|ja|nein", Set.of()),
    /** A country of two letters. */
    COUNTRY("country codes", "[A-Z]{2}", Set.of("country", "nationality", "language")),
    /** A currency of three letters. */
    CURRENCY("currency codes", "[A-Z]{3}", Set.of("currency")),
    /** A phone number. */
    PHONE("phone numbers", "\\+\\d[\\d ]{5,}", Set.of("phone", "mobile", "fax"));

    private final String words;
    private final Pattern shape;
    private final Set<String> belongs;

    SampleLooks(String words, String shape, Set<String> belongs) {
        this.words = words;
        this.shape = Pattern.compile(shape);
        this.belongs = belongs;
    }

    private static final Map<String, Set<SampleLooks>> TYPES = Map.of(
            "date", Set.of(DATE),
            "dateTime", Set.of(DATETIME),
            "boolean", Set.of(BOOLEAN),
            "anyURI", Set.of(URL));

    /** Returns what most of some values look like, null for nothing in particular. */
    static SampleLooks of(List<String> values) {
        List<String> said =
                values.stream().filter(v -> v != null && v.length() > 1).toList();
        for (SampleLooks looks : values()) {
            long fit =
                    said.stream().filter(v -> looks.shape.matcher(v).matches()).count();
            if (!said.isEmpty() && fit * 5 >= said.size() * 4L) {
                return looks;
            }
        }
        return null;
    }

    /** Returns what the values look like, in words. */
    String words() {
        return words;
    }

    /**
     * Tells how such values sit in a field: above 0 when they belong there, below 0 when they look like something else.
     *
     * @param name the words of its name
     */
    double sits(List<String> name, ValueRule rule) {
        String type = rule == null || rule.builtIn() == null
                ? "string"
                : rule.builtIn().name();
        if (TYPES.containsKey(type)) {
            return TYPES.get(type).contains(this) ? 0.12 : 0;
        }
        if (name.stream().anyMatch(belongs::contains)) {
            return 0.12;
        }
        // a text field takes everything, but a day or an address in it is not likely
        return this == COUNTRY || this == CURRENCY || this == BOOLEAN ? 0 : -0.15;
    }
}
