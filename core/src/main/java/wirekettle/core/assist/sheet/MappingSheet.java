package wirekettle.core.assist.sheet;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.fill.Fill;
import wirekettle.core.schema.Picks;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.Column;

/**
 * The mapping as analysts keep it: a line for each field with where it comes from, by what rule, and a remark. Lines
 * become proposed fills; fills become lines again, which are read as the same fills.
 */
public final class MappingSheet {
    /** The names above the columns. */
    public static final List<String> HEAD = List.of("Target field", "Source field", "Rule", "Remark");

    /**
     * One line.
     *
     * @param target the names of the target field from the root down, {@code BookTransport/crate/no}
     * @param source a field, a text in double quotes, or an expression
     * @param rule how the value is made: steps of formats, look-ups and defaults, with semicolons between
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

    private MappingSheet() {}

    /**
     * Reads lines into proposed fills of a message.
     *
     * @param roots the sheets of the message
     * @param sources the paths of fields in reach, {@code $loan/crate_no}
     */
    public static List<Read> read(List<Line> lines, List<SheetField> roots, List<String> sources) {
        return read(lines, new SheetTargets(roots), sources);
    }

    /**
     * Reads lines into proposed fills of a record's columns.
     *
     * @param sources the paths of fields in reach, {@code $loan/crate_no}
     */
    public static List<Read> ofRecord(List<Line> lines, List<Column> columns, List<String> sources) {
        return read(lines, Targets.of(columns), sources);
    }

    private static List<Read> read(List<Line> lines, Targets targets, List<String> sources) {
        List<Read> all = new ArrayList<>();
        for (int i = 0; i < lines.size(); i++) {
            all.add(read(i + 1, lines.get(i), targets, sources));
        }
        return all;
    }

    private static Read read(int number, Line line, Targets targets, List<String> sources) {
        String target = clean(line.target());
        if (target.isEmpty()) {
            return new Read(number, line, null, "there is no target field");
        }
        Targets.Target found = targets.find(target);
        if (found == null) {
            return new Read(number, line, null, targets.unknown(target));
        }
        String source = clean(line.source());
        Fill fill = source.isEmpty() ? null : SourceWords.read(found, "m" + number, source, sources);
        if (fill == null) {
            return source.isEmpty()
                    ? new Read(number, line, null, "nothing fills it")
                    : new Read(number, line, null, "“" + source + "” is no field in reach");
        }
        String misplaced = targets.misplaced(fill);
        if (misplaced != null) {
            return new Read(number, line, null, misplaced);
        }
        List<String> unread = new ArrayList<>();
        for (String rule : Apart.at(clean(line.rule()), ';')) {
            Fill ruled = RuleWords.read(fill, rule);
            if (ruled == null) {
                unread.add(rule);
            } else {
                fill = ruled;
            }
        }
        if (!clean(line.remark()).isEmpty()) {
            fill = fill.remarked(line.remark().strip());
        }
        String problem = unread.isEmpty() ? null : "the rule “" + String.join("; ", unread) + "” is not understood";
        return new Read(number, line, fill, problem);
    }

    private static String clean(String text) {
        return text == null ? "" : text.strip();
    }

    /** Writes fills as lines, in the order of the message; required fields without a fill have a line of their own. */
    public static List<Line> lines(List<Fill> fills, List<SheetField> roots) {
        Map<String, Fill> byTarget = new LinkedHashMap<>();
        fills.forEach(f -> byTarget.put(f.target(), f));
        Picks picks = Picks.of(List.copyOf(byTarget.keySet()));
        List<Line> lines = new ArrayList<>();
        for (SheetField root : roots) {
            collect(root, byTarget, picks, lines, 0, true);
        }
        byTarget.values().forEach(fill -> lines.add(line(fill)));
        return lines;
    }

    /** Writes fills of a record as lines, in the order of its columns; required ones without a fill too. */
    public static List<Line> ofRecord(List<Fill> fills, List<Column> columns) {
        Map<String, Fill> byTarget = new LinkedHashMap<>();
        fills.forEach(f -> byTarget.put(f.target(), f));
        List<Line> lines = new ArrayList<>();
        for (Column column : columns) {
            Fill fill = byTarget.remove(column.name());
            if (fill != null || column.required()) {
                lines.add(fill == null ? new Line(column.name(), "", "", "required") : line(fill));
            }
        }
        byTarget.values().forEach(fill -> lines.add(line(fill)));
        return lines;
    }

    private static void collect(
            SheetField field, Map<String, Fill> byTarget, Picks picks, List<Line> lines, int depth, boolean certain) {
        if (lines.size() > SheetTargets.MOST_FIELDS
                || depth > SheetTargets.DEEPEST
                || field.kind() == SheetField.Kind.ANY) {
            return;
        }
        Fill fill = byTarget.remove(field.path());
        boolean needed = certain && (field.parent() == null || field.required());
        if (fill != null) {
            lines.add(line(fill));
        } else if (needed && field.holdsText() && field.fixed() == null) {
            lines.add(new Line(SheetTargets.names(field.path()), "", "", "required"));
        }
        boolean inside = fill == null || !fill.copies();
        if (!field.recursive()) {
            field.children().stream()
                    .flatMap(child -> picks.inPlaceOf(child).stream())
                    .forEach(child -> collect(child, byTarget, picks, lines, depth + 1, needed && inside));
        }
    }

    private static Line line(Fill fill) {
        return new Line(
                SheetTargets.names(fill.target()),
                SourceWords.of(fill),
                String.join("; ", RuleWords.of(fill)),
                fill.remark() == null ? "" : fill.remark());
    }
}
