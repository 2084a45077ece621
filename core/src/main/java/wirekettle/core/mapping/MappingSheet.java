package wirekettle.core.mapping;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.SheetPath;
import wirekettle.core.value.ValueFormat;

/**
 * The mapping as analysts keep it: a line for each field with where it comes from, by what rule, and a remark. Lines become
 * proposed fills; fills become lines again.
 */
public final class MappingSheet {
    /** The names above the columns. */
    public static final List<String> HEAD = List.of("Target field", "Source field", "Rule", "Remark");

    private static final int MOST_FIELDS = 5_000;

    /**
     * One line.
     *
     * @param target the names of the target field from the root down, {@code BookTransport/crate/no}
     * @param source a field, a text in double quotes, or an expression
     * @param rule how the value is made: steps of formats, look-ups and defaults, each after a semicolon
     * @param remark anything else
     */
    public record Line(String target, String source, String rule, String remark) {}

    /**
     * What a line comes to.
     *
     * @param number its place in the sheet, from 1
     * @param line the line
     * @param fill the fill it proposes, null when there is none
     * @param problem what could not be understood, null when all was
     */
    public record Read(int number, Line line, Fill fill, String problem) {}

    private static final Map<Pattern, java.util.function.Function<Matcher, ValueFormat>> STEPS = new LinkedHashMap<>();

    private static void step(String words, java.util.function.Function<Matcher, ValueFormat> format) {
        STEPS.put(Pattern.compile(words, Pattern.CASE_INSENSITIVE), format);
    }

    static {
        step("decimal comma", m -> ValueFormat.number(",", null));
        step("decimal comma, thousands point", m -> ValueFormat.number(",", "."));
        step("decimal point, thousands comma", m -> ValueFormat.number(".", ","));
        step(
                "(?:read )?date ([dMyHmsSuXxVz.,:/ 'T-]+?)(?: (?:->|→|to) ([dMyHmsSuXxVz.,:/ 'T-]+))?",
                m -> ValueFormat.of(
                        "date",
                        m.group(1).strip(),
                        m.group(2) == null ? null : m.group(2).strip()));
        step("trim", m -> ValueFormat.trim());
        step("(?:cut|truncate) to (\\d{1,6})(?: characters)?", m -> ValueFormat.cut(Integer.parseInt(m.group(1))));
        step("(?:cut|truncate) to (\\d{1,6}) bytes", m -> ValueFormat.cutBytes(Integer.parseInt(m.group(1))));
        step("upper ?case|capitals", m -> ValueFormat.of("case", null, "upper"));
        step("lower ?case|small letters", m -> ValueFormat.of("case", null, "lower"));
        step("only ([^;]+)", m -> ValueFormat.keep(m.group(1), null));
        step(
                "fill up to (\\d{1,4})(?: with (.))?",
                m -> ValueFormat.pad(Integer.parseInt(m.group(1)), m.group(2), null));
        step(
                "yes/no",
                m -> ValueFormat.words(
                        List.of("yes", "y", "ja", "j", "1", "true"), List.of("no", "n", "nein", "0", "false")));
    }

    private static final Pattern PATH =
            Pattern.compile("\\$[\\p{L}_][\\p{L}\\p{N}_.-]*(/@?[\\p{L}_][\\p{L}\\p{N}_.-]*)+");
    /** A number, or a text that is said to be fixed: a CSV file loses the quotes around it. */
    private static final Pattern FIXED = Pattern.compile("(?i)(?:constant|fixed|always)[ :]+(.+)|-?\\d+(?:[.,]\\d+)?");

    private static final Pattern FILE = Pattern.compile("(?i)file in (.+?)(?:, called (.+))?");
    private static final Pattern LOOK_UP = Pattern.compile("look ?up in (.+)", Pattern.CASE_INSENSITIVE);
    private static final Pattern DEFAULT = Pattern.compile("default “?\"?([^\"”]*)\"?”?", Pattern.CASE_INSENSITIVE);
    private static final Pattern WHEN = Pattern.compile("(?:only )?when (.+)", Pattern.CASE_INSENSITIVE);
    private static final Map<String, String> EMPTY = Map.of(
            "nil when empty",
            "nil",
            "leave out when empty",
            "leaveOut",
            "send when empty",
            "send",
            "reject when empty",
            "reject");

    private final Map<String, SheetField> byNames = new LinkedHashMap<>();

    private MappingSheet(List<SheetField> roots) {
        roots.forEach(root -> index(root, "", 0));
    }

    private void index(SheetField field, String above, int depth) {
        if (byNames.size() >= MOST_FIELDS || depth > 20 || field.kind() == SheetField.Kind.ANY) {
            return;
        }
        boolean attribute = field.kind() == SheetField.Kind.ATTRIBUTE;
        String names = above
                + (above.isEmpty() ? "" : "/")
                + (attribute ? "@" : "")
                + field.name().local();
        byNames.putIfAbsent(names.toLowerCase(Locale.ROOT), field);
        if (!field.recursive()) {
            field.children().forEach(child -> index(child, names, depth + 1));
        }
    }

    /**
     * Reads lines into proposed fills.
     *
     * @param roots the sheets of the message
     * @param sources the paths of fields in reach, {@code $loan/crate_no}
     */
    public static List<Read> read(List<Line> lines, List<SheetField> roots, List<String> sources) {
        MappingSheet sheet = new MappingSheet(roots);
        List<Read> all = new ArrayList<>();
        for (int i = 0; i < lines.size(); i++) {
            all.add(sheet.read(i + 1, lines.get(i), sources));
        }
        return all;
    }

    private Read read(int number, Line line, List<String> sources) {
        String target = clean(line.target());
        if (target.isEmpty()) {
            return new Read(number, line, null, "there is no target field");
        }
        SheetField field = field(target);
        if (field == null) {
            return new Read(number, line, null, "“" + target + "” is no field of this message");
        }
        String source = clean(line.source());
        Fill fill = source(field, "m" + number, source, sources);
        if (fill == null) {
            return source.isEmpty()
                    ? new Read(number, line, null, "nothing fills it")
                    : new Read(number, line, null, "“" + source + "” is no field in reach");
        }
        if (line.remark() != null && !line.remark().isBlank()) {
            fill = fill.remarked(line.remark().strip());
        }
        List<String> unread = new ArrayList<>();
        for (String rule : clean(line.rule()).split(";")) {
            Fill ruled = rule.isBlank() ? fill : ruled(fill, rule.strip());
            if (ruled == null) {
                unread.add(rule.strip());
            } else {
                fill = ruled;
            }
        }
        String problem = unread.isEmpty() ? null : "the rule “" + String.join("; ", unread) + "” is not understood";
        return new Read(number, line, fill, problem);
    }

    private static String clean(String text) {
        return text == null ? "" : text.strip();
    }

    private SheetField field(String target) {
        String names =
                target.replaceAll("\\s*[./>]\\s*", "/").replaceAll("^/", "").toLowerCase(Locale.ROOT);
        SheetField exact = byNames.get(names);
        if (exact != null) {
            return exact;
        }
        SheetField best = null;
        int least = Integer.MAX_VALUE;
        boolean several = false;
        for (Map.Entry<String, SheetField> each : byNames.entrySet()) {
            int depth = each.getKey().split("/").length;
            if (each.getKey().endsWith("/" + names) && depth <= least) {
                several = depth == least;
                least = depth;
                best = each.getValue();
            }
        }
        return several ? null : best;
    }

    private static Fill source(SheetField field, String id, String source, List<String> sources) {
        String path = field.path();
        Matcher each = Pattern.compile("(?i)for each\\s+(.+)").matcher(source);
        if (each.matches()) {
            String from = wire(each.group(1).strip(), sources);
            return from == null ? null : Fill.repeat(id, path, from, from.substring(from.lastIndexOf('/') + 1));
        }
        if (source.length() > 1
                && "\"“".indexOf(source.charAt(0)) >= 0
                && "\"”".indexOf(source.charAt(source.length() - 1)) >= 0) {
            return Fill.constant(id, path, source.substring(1, source.length() - 1));
        }
        Matcher fixed = FIXED.matcher(source);
        if (fixed.matches()) {
            return Fill.constant(id, path, fixed.group(1) == null ? source : fixed.group(1));
        }
        String wire = wire(source, sources);
        if (wire != null) {
            return field.rule() == null && !field.children().isEmpty() && field.max() == 1
                    ? Fill.copy(id, path, wire)
                    : Fill.wire(id, path, wire);
        }
        String[] parts = source.split("\\s*[,+]\\s*");
        List<String> joined = new ArrayList<>();
        for (String part : parts) {
            boolean text = part.startsWith("\"") && part.endsWith("\"") && part.length() > 1;
            String known = text ? part : wire(part, sources);
            if (known != null) {
                joined.add(known);
            }
        }
        if (parts.length > 1 && joined.size() == parts.length) {
            return Fill.join(id, path, null, joined.toArray(String[]::new));
        }
        return source.contains("$") ? Fill.expression(id, path, source) : null;
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

    private static Fill ruled(Fill fill, String rule) {
        Matcher lookUp = LOOK_UP.matcher(rule);
        if (lookUp.matches()) {
            return fill.with(new Fill.LookUp(lookUp.group(1).strip(), null));
        }
        Matcher file = FILE.matcher(rule);
        if (file.matches()) {
            return fill.with(new Fill.InFolder(file.group(1).strip(), file.group(2)));
        }
        Matcher otherwise = DEFAULT.matcher(rule);
        if (otherwise.matches()) {
            return fill.with(new Fill.WhenEmpty("default", otherwise.group(1)));
        }
        String empty = EMPTY.get(rule.toLowerCase(Locale.ROOT));
        if (empty != null) {
            return fill.with(new Fill.WhenEmpty(empty, null));
        }
        Matcher when = WHEN.matcher(rule);
        if (when.matches()) {
            return fill.onlyWhen(when.group(1));
        }
        for (Map.Entry<Pattern, java.util.function.Function<Matcher, ValueFormat>> step : STEPS.entrySet()) {
            Matcher words = step.getKey().matcher(rule);
            if (words.matches()) {
                return fill.with(
                        ValueFormat.after(fill.format(), step.getValue().apply(words)));
            }
        }
        return null;
    }

    /** Writes fills as lines, in the order of the message; required fields without a fill have a line of their own. */
    public static List<Line> lines(List<Fill> fills, List<SheetField> roots) {
        Map<String, Fill> byTarget = new LinkedHashMap<>();
        fills.stream().filter(f -> !f.picks()).forEach(f -> byTarget.put(f.target(), f));
        List<Line> lines = new ArrayList<>();
        for (SheetField root : roots) {
            collect(root, byTarget, lines, 0, true);
        }
        byTarget.values().forEach(fill -> lines.add(line(fill)));
        return lines;
    }

    private static void collect(
            SheetField field, Map<String, Fill> byTarget, List<Line> lines, int depth, boolean certain) {
        if (lines.size() > MOST_FIELDS || depth > 20 || field.kind() == SheetField.Kind.ANY) {
            return;
        }
        Fill fill = byTarget.remove(field.path());
        boolean needed = certain && (field.parent() == null || field.required());
        if (fill != null) {
            lines.add(line(fill));
        } else if (needed && field.holdsText() && field.fixed() == null) {
            lines.add(new Line(names(field.path()), "", "", "required"));
        }
        if (!field.recursive()) {
            field.children().forEach(child -> collect(child, byTarget, lines, depth + 1, needed));
        }
    }

    private static String names(String path) {
        StringBuilder names = new StringBuilder();
        try {
            for (SheetPath.Step step : SheetPath.parse(path).steps()) {
                names.append(names.length() == 0 ? "" : "/").append(step.attribute() ? "@" : "");
                names.append(step.name().local());
                names.append(step.occurrence() > 1 ? "#" + step.occurrence() : "");
                names.append(step.type() == null ? "" : "~" + step.type().local());
            }
        } catch (IllegalArgumentException e) {
            return path;
        }
        return names.toString();
    }

    private static Line line(Fill fill) {
        String source = "";
        if (fill.repeat() != null) {
            source = "for each " + fill.repeat();
        } else if (fill.wire() != null) {
            source = fill.wire();
        } else if (fill.constant() != null) {
            source = "\"" + fill.constant() + "\"";
        } else if (fill.expression() != null) {
            source = fill.expression();
        } else if (fill.join() != null) {
            source = String.join(", ", fill.join().parts());
        } else if (fill.copy() != null) {
            source = fill.copy();
        } else if (fill.secret() != null) {
            source = "the secret " + fill.secret();
        } else if (Boolean.TRUE.equals(fill.nil())) {
            source = "nil";
        }
        List<String> rules = new ArrayList<>();
        for (ValueFormat step = fill.format(); step != null; step = step.then()) {
            rules.add(words(step));
        }
        if (fill.lookUp() != null) {
            rules.add("look up in " + fill.lookUp().table());
        }
        if (fill.file() != null) {
            String name =
                    fill.file().name() == null ? "" : ", called " + fill.file().name();
            rules.add("file in " + fill.file().folder() + name);
        }
        if (fill.whenEmpty() != null) {
            String use = fill.whenEmpty().use();
            String how = EMPTY.entrySet().stream()
                    .filter(e -> e.getValue().equals(use))
                    .map(Map.Entry::getKey)
                    .findFirst()
                    .orElse("default " + fill.whenEmpty().value());
            rules.add(how);
        }
        if (fill.when() != null) {
            rules.add("when " + fill.when());
        }
        return new Line(
                names(fill.target()), source, String.join("; ", rules), fill.remark() == null ? "" : fill.remark());
    }

    private static String words(ValueFormat step) {
        return switch (step.kind()) {
            case "number" -> ",".equals(step.read())
                    ? ".".equals(step.grouping()) ? "decimal comma, thousands point" : "decimal comma"
                    : ",".equals(step.grouping())
                            ? "decimal point, thousands comma"
                            : step.then() == null ? step.label() : "number";
            case "date" -> "date " + (step.read() == null ? "yyyy-MM-dd" : step.read())
                    + (step.write() == null ? "" : " -> " + step.write());
            case "boolean" -> "yes/no";
            case "case" -> step.write() + " case";
            case "pad" -> "fill up to " + step.length() + (step.with() == null ? "" : " with " + step.with());
            case "cut" -> "cut to " + step.length() + (ValueFormat.BYTES.equals(step.unit()) ? " bytes" : "");
            default -> step.label();
        };
    }
}
