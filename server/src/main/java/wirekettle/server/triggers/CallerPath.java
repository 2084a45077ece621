package wirekettle.server.triggers;

import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.server.web.Problem;

/**
 * Where a flow answers callers: segments of small letters, and such as stand for a field of what is sent.
 *
 * @param segments as they are written; a field is in braces
 */
public record CallerPath(List<String> segments) {
    private static final int MOST = 200;
    private static final int MOST_SEGMENTS = 8;
    private static final String LITERAL = "[a-z0-9][a-z0-9._-]*";
    private static final String FIELD = "\\{[\\p{L}_][\\p{L}\\p{Nd}._-]*\\}";

    /** What is asked below a path, and is no part of one. */
    private static final List<String> OWN = List.of("answers", "openapi.json", "page");

    /**
     * Reads a path.
     *
     * @throws Problem 400 when it is none
     */
    public static CallerPath of(String text) {
        List<String> all = Arrays.asList(String.valueOf(text).split("/", -1));
        boolean fits = all.size() <= MOST_SEGMENTS
                && text != null
                && text.length() <= MOST
                && all.get(0).matches(LITERAL)
                && all.stream().allMatch(each -> each.matches(LITERAL) || each.matches(FIELD))
                && all.stream().noneMatch(OWN::contains)
                && all.stream().filter(CallerPath::field).distinct().count()
                        == all.stream().filter(CallerPath::field).count();
        if (!fits) {
            throw new Problem(
                    400,
                    "bad-path",
                    "A path has small letters, digits, dots, dashes and underscores between its slashes, or a field in"
                            + " braces, as in test/loans/{loan_no}; no segment is called answers, page or openapi.json.");
        }
        return new CallerPath(all);
    }

    private static boolean field(String segment) {
        return segment.startsWith("{");
    }

    private static String name(String segment) {
        return segment.substring(1, segment.length() - 1);
    }

    /** Tells whether both answer at the same addresses and neither is nearer. */
    boolean same(CallerPath other) {
        if (segments.size() != other.segments.size()) {
            return false;
        }
        for (int i = 0; i < segments.size(); i++) {
            String mine = segments.get(i);
            String its = other.segments.get(i);
            if (field(mine) != field(its) || !field(mine) && !mine.equals(its)) {
                return false;
            }
        }
        return true;
    }

    /** Returns the names of the fields in it. */
    public List<String> fields() {
        return segments.stream().filter(CallerPath::field).map(CallerPath::name).toList();
    }

    /** Returns how many segments are as they are written: the more, the nearer a path is. */
    public long literals() {
        return segments.stream().filter(each -> !field(each)).count();
    }

    /** Returns the fields that segments of an address give, null where it is another path. */
    public Map<String, List<String>> values(List<String> asked) {
        if (asked.size() != segments.size()) {
            return null;
        }
        Map<String, List<String>> values = new LinkedHashMap<>();
        for (int i = 0; i < segments.size(); i++) {
            String mine = segments.get(i);
            if (field(mine)) {
                if (asked.get(i).isEmpty()) {
                    return null;
                }
                values.put(name(mine), List.of(asked.get(i)));
            } else if (!mine.equals(asked.get(i))) {
                return null;
            }
        }
        return values;
    }
}
