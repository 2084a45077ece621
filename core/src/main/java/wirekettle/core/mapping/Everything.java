package wirekettle.core.mapping;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.schema.BuiltIn;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.value.Column;
import wirekettle.core.value.Layout;
import wirekettle.core.value.ScalarType;

/** "Make a record of everything": the row path, the columns and their wires that hold a whole reply. */
public final class Everything {
    private static final int MOST_COLUMNS = 500;

    /**
     * What was made.
     *
     * @param rowPath the repeating element that becomes a row, empty for one row a reply
     * @param columns the target layout
     * @param fills one wire for each column
     */
    public record Made(String rowPath, List<Column> columns, List<Fill> fills) {}

    private record Leaf(SheetField field, String wire) {}

    private Everything() {}

    /**
     * Builds the record from the reply's sheet.
     *
     * @param variable the name the reply has in the flow, without the dollar sign
     * @param rowPath the wire of the repeating element wanted, null to choose the one with the most fields
     */
    public static Made of(SheetField reply, String variable, String rowPath) {
        String row = rowPath != null ? rowPath : chooseRow(reply, "$" + variable);
        List<Leaf> leaves = new ArrayList<>();
        collect(reply, "$" + variable, row, leaves, 0);
        List<String> labels = new ArrayList<>();
        for (Leaf leaf : leaves) {
            String name = leaf.field().name().local();
            boolean twice = leaves.stream()
                            .filter(other -> other.field().name().local().equals(name))
                            .count()
                    > 1;
            String parent = leaf.field().parent() == null
                    ? ""
                    : leaf.field().parent().name().local();
            labels.add(twice ? snake(parent) + "_" + snake(name) : snake(name));
        }
        List<String> names = Layout.safeNames(labels);
        List<Column> columns = new ArrayList<>();
        List<Fill> fills = new ArrayList<>();
        for (int i = 0; i < leaves.size(); i++) {
            columns.add(new Column(
                    names.get(i), names.get(i), type(leaves.get(i).field().rule()), null, false));
            fills.add(Fill.wire("w" + (i + 1), names.get(i), leaves.get(i).wire()));
        }
        return new Made(row, columns, fills);
    }

    private static String snake(String name) {
        return name.replaceAll("(?<=[a-z0-9])(?=[A-Z])", "_").toLowerCase(java.util.Locale.ROOT);
    }

    /** Returns the column type that fits what a field may hold. */
    public static ScalarType type(ValueRule rule) {
        if (rule == null) {
            return ScalarType.STRING;
        }
        BuiltIn builtIn = rule.builtIn();
        return switch (builtIn.family()) {
            case BOOLEAN -> ScalarType.BOOLEAN;
            case INTEGER -> ScalarType.INTEGER;
            case DECIMAL -> ScalarType.DECIMAL;
            case TEMPORAL -> switch (builtIn.name()) {
                case "date" -> ScalarType.DATE;
                case "dateTime" -> ScalarType.DATETIME;
                case "time" -> ScalarType.TIME;
                default -> ScalarType.STRING;
            };
            default -> ScalarType.STRING;
        };
    }

    private static String chooseRow(SheetField reply, String wire) {
        String[] best = {""};
        int[] most = {0};
        choose(reply, wire, 0, best, most);
        return best[0];
    }

    private static void choose(SheetField field, String wire, int depth, String[] best, int[] most) {
        if (depth > 12 || field.recursive()) {
            return;
        }
        for (SheetField child : field.children()) {
            String path = wire + "/" + child.name().local();
            if (child.kind() == SheetField.Kind.ELEMENT) {
                int leaves = child.max() == 1 ? 0 : Math.max(1, child.children().size());
                if (leaves > most[0]) {
                    best[0] = path;
                    most[0] = leaves;
                }
                choose(child, path, depth + 1, best, most);
            }
        }
    }

    private static void collect(SheetField field, String wire, String row, List<Leaf> leaves, int depth) {
        if (leaves.size() >= MOST_COLUMNS || depth > 12) {
            return;
        }
        if (field.rule() != null && depth > 0) {
            leaves.add(new Leaf(field, wire));
        }
        for (SheetField child : field.children()) {
            String path = wire
                    + (child.kind() == SheetField.Kind.ATTRIBUTE ? "/@" : "/")
                    + child.name().local();
            boolean onTheWay = row.equals(path) || row.startsWith(path + "/");
            boolean single = child.max() == 1;
            if (child.kind() != SheetField.Kind.ANY && (single || onTheWay) && !child.recursive()) {
                collect(child, path, row, leaves, depth + 1);
            }
        }
    }
}
