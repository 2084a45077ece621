package wirekettle.server.flows;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.contract.Operation;
import wirekettle.core.expression.Scope;
import wirekettle.core.flow.compile.Reach;
import wirekettle.core.flow.compile.Shape;
import wirekettle.core.flow.compile.Variable;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.Column;
import wirekettle.core.value.Grouping;
import wirekettle.core.value.Node;

/** Everything in reach at a place of a flow, with the values of the sample record: what the source list shows. */
final class SourceTree {
    private static final int MOST = 600;

    private final Scope scope;

    private SourceTree(Scope scope) {
        this.scope = scope;
    }

    /** Returns what is in reach, the variable made last first; {@code scope} is null where the sample does not come. */
    static List<Preview.SourceGroup> of(Reach reach, Scope scope) {
        SourceTree tree = new SourceTree(scope);
        List<Preview.SourceGroup> groups = new ArrayList<>();
        for (Variable variable : reach.variables()) {
            Preview.SourceGroup group = tree.group(variable);
            if (!group.fields().isEmpty() || !variable.name().equals("env")) {
                groups.add(0, group);
            }
        }
        // the run and the values of its environment are there everywhere: they stand at the end
        groups.sort((a, b) -> Boolean.compare(Reach.GIVEN.contains(a.variable()), Reach.GIVEN.contains(b.variable())));
        return groups;
    }

    private Preview.SourceGroup group(Variable variable) {
        List<Preview.SourceField> fields = new ArrayList<>();
        String wire = "$" + variable.name();
        Node node = scope == null ? null : scope.get(variable.name());
        Shape shape = variable.shape();
        if (shape instanceof Shape.OfSheet its) {
            collect(its.sheet(), wire, node == null ? null : List.of(node), 0, fields);
        } else if (shape instanceof Shape.OfFault its) {
            fault(its, node, fields);
        } else if (shape instanceof Shape.OfNames its) {
            its.names().forEach(name -> fields.add(leaf(wire, name, node, "string")));
        } else if (shape instanceof Shape.OfItems its && node == null) {
            fields.add(new Preview.SourceField(wire + "/item", "item", "", "", 0, true));
            item(its.item(), wire + "/item", 1, fields);
        } else if (shape instanceof Shape.OfItem its && node == null) {
            item(its, wire, 0, fields);
        } else if (shape instanceof Shape.OfColumns its && node == null) {
            columns(its, wire, fields);
        } else if (shape instanceof Shape.OfLayout its && node == null) {
            layout(its, wire, fields);
        } else if (node != null) {
            collect(node, wire, 0, fields, types(shape));
        }
        String title = variable.title() + (variable.mayBeEmpty() && node == null ? ", may be empty" : "");
        return new Preview.SourceGroup(variable.name(), title, fields);
    }

    private static Preview.SourceField leaf(String wire, String name, Node node, String type) {
        return new Preview.SourceField(wire + "/" + name, name, type, node == null ? "" : node.textOf(name), 0, false);
    }

    private static void columns(Shape.OfColumns its, String wire, List<Preview.SourceField> into) {
        String start = its.rows() ? wire + "/row" : wire;
        if (its.rows()) {
            into.add(new Preview.SourceField(start, "row", "", "", 0, true));
        }
        for (Column column : its.columns()) {
            String name = column.name().substring(column.name().lastIndexOf('/') + 1);
            into.add(new Preview.SourceField(
                    start + "/" + column.name(), name, column.type().word(), "", its.rows() ? 1 : 0, false));
        }
    }

    private static void item(Shape.OfItem its, String item, int depth, List<Preview.SourceField> into) {
        for (String said : its.said()) {
            String type = said.equals("position") ? "integer" : "string";
            into.add(new Preview.SourceField(item + "/" + said, said, type, "", depth, false));
        }
        for (Variable made : its.made()) {
            String field = item + "/" + made.name();
            into.add(new Preview.SourceField(field, made.name(), "", "", depth, false));
            if (made.shape() instanceof Shape.OfSheet sheet) {
                collect(sheet.sheet(), field, null, depth + 1, into);
            } else if (made.shape() instanceof Shape.OfLayout row) {
                for (Column column : row.layout().columns()) {
                    into.add(new Preview.SourceField(
                            field + "/" + column.name(),
                            column.name(),
                            column.type().word(),
                            "",
                            depth + 1,
                            false));
                }
            } else if (made.shape() instanceof Shape.OfItem within) {
                item(within, field, depth + 1, into);
            }
        }
    }

    private static void layout(Shape.OfLayout its, String wire, List<Preview.SourceField> into) {
        its.layout()
                .columns()
                .forEach(column ->
                        into.add(leaf(wire, column.name(), null, column.type().word())));
        if (its.grouped()) {
            String line = wire + "/" + Grouping.LINE;
            into.add(new Preview.SourceField(line, Grouping.LINE, "", "", 0, true));
            its.layout()
                    .columns()
                    .forEach(column -> into.add(new Preview.SourceField(
                            line + "/" + column.name(),
                            column.name(),
                            column.type().word(),
                            "",
                            1,
                            false)));
        }
    }

    private static Map<String, String> types(Shape shape) {
        Map<String, String> types = new HashMap<>();
        List<Column> columns = shape instanceof Shape.OfLayout layout
                ? layout.layout().columns()
                : shape instanceof Shape.OfColumns made ? made.columns() : List.of();
        columns.forEach(column -> types.put(column.name(), column.type().word()));
        return types;
    }

    private static void fault(Shape.OfFault its, Node node, List<Preview.SourceField> fields) {
        fields.add(leaf("$fault", "code", node, "string"));
        fields.add(leaf("$fault", "reason", node, "string"));
        for (Operation.Fault declared : its.operation() == null
                ? List.<Operation.Fault>of()
                : its.operation().faults()) {
            for (ElementDecl element : declared.message().body()) {
                SheetField sheet = its.contract().sheet(element);
                String wire = "$fault/detail/" + sheet.name().local();
                fields.add(new Preview.SourceField(wire, sheet.name().local(), "", "", 0, false));
                collect(sheet, wire, null, 1, fields);
            }
        }
    }

    /** Shows a tree as it is: children of one name once, with the value of the first. */
    private static void collect(
            Node node, String wire, int depth, List<Preview.SourceField> into, Map<String, String> types) {
        for (Node attribute : node.attributes()) {
            String name = attribute.name().local();
            into.add(new Preview.SourceField(wire + "/@" + name, name, "", attribute.text(), depth, false));
        }
        Map<String, List<Node>> byName = new LinkedHashMap<>();
        for (Node child : node.children()) {
            byName.computeIfAbsent(child.name().local(), n -> new ArrayList<>()).add(child);
        }
        byName.forEach((name, nodes) -> {
            if (into.size() > MOST || depth > 10) {
                return;
            }
            String path = wire + "/" + name;
            Node first = nodes.get(0);
            into.add(new Preview.SourceField(
                    path, name, types.getOrDefault(name, ""), first.text(), depth, nodes.size() > 1));
            collect(first, path, depth + 1, into, types);
        });
    }

    private static void collect(
            SheetField field, String wire, List<Node> nodes, int depth, List<Preview.SourceField> into) {
        if (into.size() > MOST || depth > 10 || field.recursive()) {
            return;
        }
        for (SheetField child : field.children()) {
            if (child.kind() == SheetField.Kind.ANY) {
                continue;
            }
            String local = child.name().local();
            boolean attribute = child.kind() == SheetField.Kind.ATTRIBUTE;
            List<Node> its = new ArrayList<>();
            for (Node node : nodes == null ? List.<Node>of() : nodes) {
                Node found = attribute ? node.attribute(local) : node.child(local);
                if (found != null) {
                    its.add(found);
                }
            }
            String path = wire + (attribute ? "/@" : "/") + local;
            String value = its.isEmpty() ? "" : its.get(0).text();
            into.add(new Preview.SourceField(path, local, child.typeLabel(), value, depth, child.max() != 1));
            collect(child, path, its, depth + 1, into);
        }
    }
}
