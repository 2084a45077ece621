package wirekettle.core.assist;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import wirekettle.core.fill.Fill;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.schema.BuiltIn;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.value.Column;
import wirekettle.core.value.Layout;
import wirekettle.core.value.Node;
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

    /**
     * One of several related tables.
     *
     * @param name a short name for it: that of the repeated element
     * @param made its rows
     */
    public record Table(String name, Made made) {}

    /**
     * A nested document.
     *
     * @param columns its fields by their places
     * @param fills what fills them
     * @param groups the levels that repeat
     */
    public record Nested(List<Column> columns, List<Fill> fills, List<DocumentPlan.Group> groups) {}

    /**
     * Builds related tables: one for the reply, one for each repeated element, each row with a key made for it and the
     * key of the row above.
     */
    public static List<Table> tables(SheetField reply, String variable) {
        List<Table> tables = new ArrayList<>();
        table(reply, reply.name().local(), "$" + variable, "", null, tables, 0);
        return tables;
    }

    private static void table(
            SheetField field, String name, String wire, String row, String above, List<Table> into, int depth) {
        List<Column> columns = new ArrayList<>();
        List<Fill> fills = new ArrayList<>();
        columns.add(new Column("id", "id", ScalarType.STRING, null, true));
        fills.add(Fill.key("k1", "id", wire));
        if (above != null) {
            String parent = above.substring(above.lastIndexOf('/') + 1).replaceFirst("^\\$", "") + "_id";
            columns.add(new Column(snake(parent), snake(parent), ScalarType.STRING, null, true));
            fills.add(Fill.key("k2", snake(parent), above));
        }
        List<Leaf> leaves = new ArrayList<>();
        if (field.rule() != null) {
            leaves.add(new Leaf(field, wire));
        }
        List<Leaf> repeated = new ArrayList<>();
        own(field, wire, leaves, repeated, 0);
        List<String> taken = new ArrayList<>(columns.stream().map(Column::name).toList());
        leaves.forEach(leaf -> taken.add(snake(leaf.field().name().local())));
        List<String> names = Layout.safeNames(taken);
        int first = columns.size();
        for (int i = 0; i < leaves.size(); i++) {
            Leaf leaf = leaves.get(i);
            String column = names.get(first + i);
            columns.add(new Column(column, column, type(leaf.field().rule()), null, false));
            fills.add(Fill.wire("w" + (i + 1), column, leaf.wire()));
        }
        into.add(new Table(snake(name), new Made(row, columns, fills)));
        if (depth < 6 && into.size() < 12) {
            for (Leaf each : repeated) {
                table(each.field(), each.field().name().local(), each.wire(), each.wire(), wire, into, depth + 1);
            }
        }
    }

    /** Sorts what is below a field into what stands once and what repeats. */
    private static void own(SheetField field, String wire, List<Leaf> leaves, List<Leaf> repeated, int depth) {
        for (SheetField child : field.children()) {
            if (child.kind() == SheetField.Kind.ANY
                    || child.recursive()
                    || depth > 12
                    || leaves.size() > MOST_COLUMNS) {
                continue;
            }
            String path = wire
                    + (child.kind() == SheetField.Kind.ATTRIBUTE ? "/@" : "/")
                    + child.name().local();
            if (child.max() != 1) {
                repeated.add(new Leaf(child, path));
                continue;
            }
            if (child.rule() != null && child.document() == null) {
                leaves.add(new Leaf(child, path));
            }
            own(child, path, leaves, repeated, depth + 1);
        }
    }

    /** Builds one nested document of the whole reply. */
    public static Nested nested(SheetField reply, String variable) {
        Nested made = new Nested(new ArrayList<>(), new ArrayList<>(), new ArrayList<>());
        nest(reply, "$" + variable, "", made, 0);
        return made;
    }

    private static void nest(SheetField field, String wire, String place, Nested into, int depth) {
        for (SheetField child : field.children()) {
            if (child.kind() == SheetField.Kind.ANY
                    || child.recursive()
                    || depth > 12
                    || into.columns().size() > MOST_COLUMNS) {
                continue;
            }
            String local = child.name().local();
            String path = wire + (child.kind() == SheetField.Kind.ATTRIBUTE ? "/@" : "/") + local;
            String here = (place.isEmpty() ? "" : place + "/") + local;
            boolean taken = into.columns().stream().anyMatch(c -> c.name().equals(here));
            boolean repeats = child.max() != 1;
            String as = Layout.safeNames(List.of(here.replace('/', '_'))).get(0);
            if (repeats) {
                into.groups().add(new DocumentPlan.Group(here, path, as));
            }
            String from = repeats ? "$" + as : path;
            boolean text = child.rule() != null && child.document() == null;
            boolean alone = child.children().isEmpty();
            if (text && !taken && (alone || !repeats)) {
                String name = alone ? here : here + "/text";
                into.columns().add(new Column(name, name, type(child.rule()), null, false));
                into.fills().add(Fill.wire("w" + (into.fills().size() + 1), name, from));
            }
            nest(child, from, here, into, depth + 1);
        }
    }

    private record Leaf(SheetField field, String wire) {}

    private Everything() {}

    /**
     * Builds the record from the reply's sheet.
     *
     * @param variable the name the reply has in the flow, without the dollar sign
     * @param rowPath the wire of the repeating element wanted, null to choose one
     * @param kept a reply that was kept, null for none: a list it holds is chosen before one it does not
     */
    public static Made of(SheetField reply, String variable, String rowPath, Node kept) {
        String row = rowPath != null ? rowPath : chooseRow(reply, "$" + variable, kept);
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

    /** A list that may become the rows: the least deep it stands, the better; of equals the one with more fields. */
    private record Choice(String path, int depth, int fields, int held) {}

    /**
     * Chooses the list whose items become rows: one that the kept reply holds where there is one, the least deep
     * first.
     */
    private static String chooseRow(SheetField reply, String wire, Node kept) {
        List<Choice> lists = new ArrayList<>();
        lists(reply, wire, kept == null ? List.of() : List.of(kept), 0, lists);
        boolean held = lists.stream().anyMatch(list -> list.held() > 0);
        return lists.stream()
                .filter(list -> !held || list.held() > 0)
                .min(Comparator.comparingInt(Choice::depth)
                        .thenComparing(Choice::held, Comparator.reverseOrder())
                        .thenComparing(Choice::fields, Comparator.reverseOrder()))
                .map(Choice::path)
                .orElse("");
    }

    private static void lists(SheetField field, String wire, List<Node> held, int depth, List<Choice> into) {
        if (depth > 12 || field.recursive()) {
            return;
        }
        for (SheetField child : field.children()) {
            if (child.kind() == SheetField.Kind.ELEMENT) {
                String path = wire + "/" + child.name().local();
                List<Node> here = held.stream()
                        .flatMap(node -> node.children().stream())
                        .filter(node -> node.name().local().equals(child.name().local()))
                        .toList();
                if (child.max() != 1) {
                    into.add(new Choice(path, depth, child.children().size(), here.size()));
                }
                lists(child, path, here, depth + 1, into);
            }
        }
    }

    private static void collect(SheetField field, String wire, String row, List<Leaf> leaves, int depth) {
        if (leaves.size() >= MOST_COLUMNS || depth > 12) {
            return;
        }
        if (field.rule() != null && field.document() == null && depth > 0) {
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
