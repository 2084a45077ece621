package wirekettle.core.assist.sheet;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.FilledBy;

/** Where a value comes from as a sheet says it, and read again. */
final class SourceWords {
    private static final Pattern PATH =
            Pattern.compile("\\$[\\p{L}_][\\p{L}\\p{N}_.-]*(/@?[\\p{L}_][\\p{L}\\p{N}_.-]*)*");
    private static final Pattern TEXT = Pattern.compile("(?s)[\"“](.*)[\"”]");
    private static final Pattern EACH = Pattern.compile("(?i)for each\\s+(.+)");
    private static final Pattern SECRET = Pattern.compile("(?i)the secret (.+)");
    private static final Pattern EXPRESSION = Pattern.compile("(?is)expression: (.+)");
    private static final Pattern ALL = Pattern.compile("(?i)all of (.+)");
    private static final Pattern KEY = Pattern.compile("(?i)a key for (.+)");
    /** A number, or a text that is said to be fixed: a CSV file loses the quotes around it. */
    private static final Pattern FIXED = Pattern.compile("(?i)(?:constant|fixed|always)[ :]+(.+)|-?\\d+(?:[.,]\\d+)?");

    private static final Pattern CALL = Pattern.compile("(?s)[\\w:-]+\\(.*\\)");

    private static final String NIL = "explicitly nil";
    private static final String PICKED = "picked";

    private SourceWords() {}

    /** Returns the name a repeated node has unless another is said: that of the last step of its path. */
    static String variable(String path) {
        return path.substring(path.lastIndexOf('/') + 1).replaceFirst("^[$@]", "");
    }

    /** Returns where a fill takes its value from, in words that are read as the same. */
    static String of(Fill fill) {
        return of(fill.by());
    }

    private static String of(FilledBy by) {
        if (by instanceof FilledBy.Repeat repeat) {
            return "for each " + repeat.from();
        }
        if (by instanceof FilledBy.Wire wire) {
            return wire.path();
        }
        if (by instanceof FilledBy.Constant constant) {
            return constant.text().contains("\"") ? "“" + constant.text() + "”" : "\"" + constant.text() + "\"";
        }
        if (by instanceof FilledBy.Expression expression) {
            Fill again = plain("", "", expression.xpath(), List.of());
            return again != null && again.by().equals(by) ? expression.xpath() : "expression: " + expression.xpath();
        }
        if (by instanceof FilledBy.Join join) {
            return String.join(", ", join.parts());
        }
        if (by instanceof FilledBy.Copy copy) {
            return "all of " + copy.from();
        }
        if (by instanceof FilledBy.Key key) {
            return "a key for " + key.of();
        }
        if (by instanceof FilledBy.Number number) {
            return "the next number of " + number.series();
        }
        if (by instanceof FilledBy.Signature signature) {
            return "a signature over " + signature.over();
        }
        if (by instanceof FilledBy.Secret secret) {
            return "the secret " + secret.name();
        }
        return by instanceof FilledBy.Nil ? NIL : by instanceof FilledBy.Pick ? PICKED : "";
    }

    /**
     * Reads where a value comes from.
     *
     * @param sources the paths of fields in reach
     * @return the fill, null when the words name nothing in reach
     */
    static Fill read(Targets.Target target, String id, String source, List<String> sources) {
        String path = target.path();
        Matcher said = EACH.matcher(source);
        if (said.matches()) {
            String from = wire(said.group(1).strip(), sources);
            return from == null ? null : Fill.repeat(id, path, from, variable(from));
        }
        said = SECRET.matcher(source);
        if (said.matches()) {
            return Fill.secret(id, path, said.group(1).strip());
        }
        said = KEY.matcher(source);
        if (said.matches()) {
            return Fill.key(id, path, said.group(1).strip());
        }
        said = ALL.matcher(source);
        String all = said.matches() ? wire(said.group(1).strip(), sources) : null;
        if (all != null) {
            return Fill.copy(id, path, all);
        }
        if (source.equalsIgnoreCase(NIL)) {
            return Fill.nil(id, path);
        }
        if (source.equalsIgnoreCase(PICKED)) {
            return Fill.pick(id, path);
        }
        Fill fill = plain(id, path, source, sources);
        return fill != null && fill.wire() != null && target.branch() ? Fill.copy(id, path, fill.wire()) : fill;
    }

    /** Reads a text, a field, several joined, or an expression. */
    private static Fill plain(String id, String path, String source, List<String> sources) {
        Matcher said = EXPRESSION.matcher(source);
        if (said.matches()) {
            return Fill.expression(id, path, said.group(1));
        }
        List<String> parts = Apart.at(source, source.contains(",") ? ',' : '+');
        said = TEXT.matcher(source);
        if (said.matches() && parts.size() == 1) {
            return Fill.constant(id, path, said.group(1));
        }
        said = FIXED.matcher(source);
        if (said.matches()) {
            return Fill.constant(id, path, said.group(1) == null ? source : said.group(1));
        }
        String wire = wire(source, sources);
        if (wire != null) {
            return Fill.wire(id, path, wire);
        }
        List<String> joined = new ArrayList<>();
        for (String part : parts) {
            boolean text = part.startsWith("\"") && part.endsWith("\"") && part.length() > 1;
            String known = text ? part : wire(part, sources);
            if (known != null) {
                joined.add(known);
            }
        }
        if (parts.size() > 1 && joined.size() == parts.size()) {
            return Fill.join(id, path, null, joined.toArray(String[]::new));
        }
        return source.contains("$") || CALL.matcher(source).matches() ? Fill.expression(id, path, source) : null;
    }

    /** Returns the path of a field in reach: written in full, or by its name where that is one of its kind. */
    private static String wire(String source, List<String> sources) {
        for (String known : sources) {
            if (known.equalsIgnoreCase(source)) {
                return known;
            }
        }
        if (PATH.matcher(source).matches()) {
            return source; // a field inside a repeat is reached by a variable that is not known yet
        }
        String only = null;
        String wanted = "/" + source.replaceAll("^\\$?/?", "").toLowerCase(Locale.ROOT);
        for (String known : sources) {
            if (known.toLowerCase(Locale.ROOT).endsWith(wanted)) {
                if (only != null) {
                    return null;
                }
                only = known;
            }
        }
        return only;
    }
}
