package wirekettle.core.assist;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Help while people write an expression: the functions there are, and hints where it may not do what they mean. */
public final class ExpressionHelp {
    /**
     * A function of XPath 3.1.
     *
     * @param name its name
     * @param signature how it is called
     * @param documentation what it gives
     * @param example an expression that uses it
     */
    public record Function(String name, String signature, String documentation, String example) {}

    /**
     * Something in an expression that may not do what is meant.
     *
     * @param message what, and what to write instead
     * @param from where it begins, from 0
     * @param to where it ends
     * @param instead the text to write in its place, null when there is none
     */
    public record Hint(String message, int from, int to, String instead) {}

    /** The functions offered; all of XPath 3.1 but those that reach outside can be used. */
    public static final List<Function> FUNCTIONS = List.of(
            new Function("concat", "concat(a, b, …)", "all texts one after the other", "concat($loan/a, '/', $loan/b)"),
            new Function(
                    "string-join",
                    "string-join(items, between)",
                    "the items with a text between them",
                    "string-join($loan/*, ', ')"),
            new Function(
                    "substring",
                    "substring(text, start, length)",
                    "part of a text, counted from 1",
                    "substring($loan/a, 1, 4)"),
            new Function(
                    "substring-before",
                    "substring-before(text, mark)",
                    "what stands before a mark",
                    "substring-before($loan/a, '-')"),
            new Function(
                    "substring-after",
                    "substring-after(text, mark)",
                    "what stands after a mark",
                    "substring-after($loan/a, '-')"),
            new Function("upper-case", "upper-case(text)", "in capitals", "upper-case($loan/a)"),
            new Function("lower-case", "lower-case(text)", "in small letters", "lower-case($loan/a)"),
            new Function(
                    "normalize-space",
                    "normalize-space(text)",
                    "without outer spaces, single spaces inside",
                    "normalize-space($loan/a)"),
            new Function(
                    "translate",
                    "translate(text, from, to)",
                    "each character of from replaced by the one of to at its place",
                    "translate($loan/a, ',', '.')"),
            new Function(
                    "replace",
                    "replace(text, pattern, by)",
                    "what a regular expression matches, replaced",
                    "replace($loan/a, '[^0-9]', '')"),
            new Function(
                    "matches",
                    "matches(text, pattern)",
                    "whether a regular expression matches",
                    "matches($loan/a, '^[A-Z]{2}')"),
            new Function(
                    "tokenize",
                    "tokenize(text, pattern)",
                    "the parts between what matches",
                    "tokenize($loan/a, ';')[1]"),
            new Function("contains", "contains(text, part)", "whether a text has a part", "contains($loan/a, 'x')"),
            new Function(
                    "starts-with", "starts-with(text, part)", "whether a text begins so", "starts-with($loan/a, 'HC')"),
            new Function("ends-with", "ends-with(text, part)", "whether a text ends so", "ends-with($loan/a, 'x')"),
            new Function("string-length", "string-length(text)", "how many characters", "string-length($loan/a)"),
            new Function("string", "string(item)", "as text", "string($loan/a)"),
            new Function("number", "number(text)", "as a number, NaN when it is none", "number($loan/n) + 1"),
            new Function(
                    "xs:decimal",
                    "xs:decimal(text)",
                    "as a decimal; a text that is none rejects the record",
                    "xs:decimal($loan/n) * 2"),
            new Function("xs:integer", "xs:integer(text)", "as a whole number", "xs:integer($loan/n) + 1"),
            new Function("xs:boolean", "xs:boolean(text)", "true, false, 1 or 0 as a truth", "xs:boolean($loan/flag)"),
            new Function(
                    "xs:date",
                    "xs:date(text)",
                    "2026-12-04 as a day",
                    "xs:date($loan/day) + xs:dayTimeDuration('P7D')"),
            new Function(
                    "xs:dateTime",
                    "xs:dateTime(text)",
                    "2026-12-04T10:00:00Z as a point in time",
                    "xs:dateTime($loan/at)"),
            new Function(
                    "xs:dayTimeDuration",
                    "xs:dayTimeDuration(text)",
                    "P1D, PT2H: a span of time",
                    "xs:dayTimeDuration('PT2H')"),
            new Function(
                    "current-date",
                    "current-date()",
                    "today; $run/now is the same for a whole record",
                    "current-date()"),
            new Function("year-from-date", "year-from-date(day)", "the year", "year-from-date(xs:date($loan/day))"),
            new Function(
                    "month-from-date",
                    "month-from-date(day)",
                    "the month, 1 to 12",
                    "month-from-date(xs:date($loan/day))"),
            new Function(
                    "day-from-date", "day-from-date(day)", "the day of the month", "day-from-date(xs:date($loan/day))"),
            new Function(
                    "format-date",
                    "format-date(day, picture)",
                    "a day written by a picture",
                    "format-date(xs:date($loan/day), '[D01].[M01].[Y]')"),
            new Function(
                    "format-dateTime",
                    "format-dateTime(time, picture)",
                    "a point in time written by a picture",
                    "format-dateTime(xs:dateTime($loan/at), '[H01]:[m01]')"),
            new Function(
                    "format-number",
                    "format-number(number, picture)",
                    "a number written by a picture",
                    "format-number(xs:decimal($loan/n), '0.00')"),
            new Function("round", "round(number, decimals)", "rounded, half up", "round(xs:decimal($loan/n), 2)"),
            new Function("floor", "floor(number)", "rounded down", "floor(xs:decimal($loan/n))"),
            new Function("ceiling", "ceiling(number)", "rounded up", "ceiling(xs:decimal($loan/n))"),
            new Function("abs", "abs(number)", "without its sign", "abs(xs:decimal($loan/n))"),
            new Function("sum", "sum(items)", "all added up", "sum($loan/n ! xs:decimal(.))"),
            new Function("count", "count(items)", "how many", "count($loan/*)"),
            new Function("avg", "avg(items)", "the mean", "avg($loan/n ! xs:decimal(.))"),
            new Function("min", "min(items)", "the least", "min($loan/n ! xs:decimal(.))"),
            new Function("max", "max(items)", "the greatest", "max($loan/n ! xs:decimal(.))"),
            new Function("distinct-values", "distinct-values(items)", "each value once", "distinct-values($loan/*)"),
            new Function("exists", "exists(items)", "whether there is any", "exists($loan/a)"),
            new Function("empty", "empty(items)", "whether there is none", "empty($loan/a)"),
            new Function("not", "not(test)", "the opposite", "not($loan/a = 'x')"),
            new Function("if", "if (test) then a else b", "one of two", "if ($loan/a = 'x') then 1 else 2"),
            new Function(
                    "for", "for $x in items return …", "something for each", "for $x in $loan/* return string($x)"),
            new Function(
                    "let",
                    "let $x := … return …",
                    "a name for a value",
                    "let $x := string($loan/a) return concat($x, $x)"),
            new Function("encode-for-uri", "encode-for-uri(text)", "as part of an address", "encode-for-uri($loan/a)"),
            new Function("head", "head(items)", "the first", "head($loan/*)"),
            new Function("position", "items[position() = n]", "the place of an item", "$loan/*[position() = 2]"),
            new Function(
                    "wire:hash",
                    "wire:hash(text, algorithm)",
                    "its hash in hex; SHA-224, SHA-256, SHA-384, SHA-512",
                    "wire:hash($loan/a, 'SHA-256')"),
            new Function(
                    "wire:hmac",
                    "wire:hmac(text, secret, algorithm)",
                    "its HMAC in hex, with the secret of that name; in a call's fills",
                    "wire:hmac($loan/a, 'desk key', 'SHA-256')"),
            new Function("wire:base64", "wire:base64(text)", "as base64 of its UTF-8", "wire:base64($loan/a)"),
            new Function(
                    "wire:from-base64",
                    "wire:from-base64(text)",
                    "the text that base64 holds",
                    "wire:from-base64(wire:base64($loan/a))"),
            new Function("wire:hex", "wire:hex(text)", "as hex of its UTF-8", "wire:hex($loan/a)"),
            new Function(
                    "wire:from-hex",
                    "wire:from-hex(text)",
                    "the text that hex holds",
                    "wire:from-hex(wire:hex($loan/a))"),
            new Function(
                    "wire:hex-to-base64",
                    "wire:hex-to-base64(hex)",
                    "the same bytes as base64",
                    "wire:hex-to-base64(wire:hash($loan/a, 'SHA-256'))"),
            new Function(
                    "wire:base64-to-hex",
                    "wire:base64-to-hex(base64)",
                    "the same bytes as hex",
                    "wire:base64-to-hex(wire:base64($loan/a))"),
            new Function("wire:gzip", "wire:gzip(text)", "packed by gzip, as base64", "wire:gzip($loan/a)"),
            new Function(
                    "wire:gunzip",
                    "wire:gunzip(base64)",
                    "the text that was packed by gzip",
                    "wire:gunzip(wire:gzip($loan/a))"),
            new Function(
                    "wire:canonical",
                    "wire:canonical(element)",
                    "its text in exclusive canonical form",
                    "wire:canonical($loan/a)"));

    private static final String PATH = "\\$[\\p{L}_][\\p{L}\\p{N}_.-]*(?:/@?[\\p{L}_][\\p{L}\\p{N}_.-]*)+";
    private static final Pattern LITERAL = Pattern.compile("\"[^\"]*\"|'[^']*'");
    private static final Pattern COMPARED = Pattern.compile("(" + PATH
            + ")\\s*(!=|<=|>=|=|<|>|\\b(?:eq|ne|lt|le|gt|ge)\\b)\\s*" + "(" + PATH + "|\"[^\"]*\"|'[^']*'|-?[\\d.]+)?");
    private static final Pattern COMPARED_TO = Pattern.compile(
            "(\"[^\"]*\"|'[^']*'|[\\d.]+|\\))\\s*(!=|<=|>=|=|<|>|\\b(?:eq|ne|lt|le|gt|ge)\\b)\\s*(" + PATH + ")");
    private static final Pattern TESTED = Pattern.compile(
            "(?:\\bif\\s*\\(\\s*|\\bnot\\(\\s*|\\b(?:and|or)\\s+)(" + PATH + ")\\s*(?:\\)|\\band\\b|\\bor\\b|$)");
    private static final Map<String, String> CASTS = Map.of(
            "integer", "xs:integer",
            "decimal", "xs:decimal",
            "boolean", "xs:boolean",
            "date", "xs:date",
            "datetime", "xs:dateTime",
            "dateTime", "xs:dateTime",
            "time", "xs:time");
    private static final Set<String> VALUE = Set.of("eq", "ne", "lt", "le", "gt", "ge");

    private ExpressionHelp() {}

    /**
     * Returns comparisons and truth tests of typed fields that are not cast: their values are text to the engine.
     *
     * @param types the types of fields by their paths; fields that are not there are text
     */
    public static List<Hint> uncast(String expression, Map<String, String> types) {
        List<Hint> hints = new ArrayList<>();
        Matcher compared = COMPARED.matcher(expression);
        for (int at = 0; compared.find(at); at = compared.end(2)) {
            String other = compared.group(3) == null ? "" : compared.group(3);
            boolean number = other.matches("-?[\\d.]+");
            // = and < with a number take the text as a number; with a text, and eq with anything, they do not
            if (VALUE.contains(compared.group(2)) || !number) {
                hint(compared.group(1), compared.start(1), types, "is compared as text", hints);
            }
            if (other.startsWith("$")) {
                hint(other, compared.start(3), types, "is compared as text", hints);
            }
        }
        Matcher to = COMPARED_TO.matcher(expression);
        for (int at = 0; to.find(at); at = to.end(2)) {
            if (VALUE.contains(to.group(2)) || !to.group(1).matches("[\\d.]+")) {
                hint(to.group(3), to.start(3), types, "is compared as text", hints);
            }
        }
        Matcher tested = TESTED.matcher(blanked(expression));
        while (tested.find()) {
            hint(tested.group(1), tested.start(1), types, "is true whenever it is there, whatever it says", hints);
        }
        return hints.stream().distinct().toList();
    }

    /** Blanks out literals, so that positions stay the same. */
    private static String blanked(String expression) {
        Matcher literal = LITERAL.matcher(expression);
        return literal.replaceAll(m -> "'" + " ".repeat(m.group().length() - 2) + "'");
    }

    private static void hint(String path, int at, Map<String, String> types, String why, List<Hint> into) {
        String cast = CASTS.get(types.getOrDefault(path, ""));
        if (cast != null) {
            String instead = cast + "(" + path + ")";
            into.add(new Hint(path + " " + why + ": write " + instead, at, at + path.length(), instead));
        }
    }
}
