package wirekettle.core.flow.compile;

import java.util.List;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.Column;
import wirekettle.core.value.Grouping;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/**
 * A tree of a known shape without values, for what can be said before there is a value: each field once and empty, what
 * repeats twice.
 */
public final class Sketch {
    private static final int MOST_FIELDS = 2_000;
    private static final int DEEPEST = 10;

    private int fields;

    private Sketch() {}

    /** Returns a variable's tree; it has nothing below it where nothing is known of the shape. */
    public static Node of(Variable variable) {
        return new Sketch().node(variable.name(), variable.shape());
    }

    private Node node(String name, Shape shape) {
        Node.Builder made = Node.build(Name.of(name));
        if (shape instanceof Shape.OfSheet its) {
            below(its.sheet(), made, 0);
        } else if (shape instanceof Shape.OfLayout its) {
            columns(its.layout().columns(), made);
            if (its.grouped()) {
                twice(made, columns(its.layout().columns(), Node.build(Name.of(Grouping.LINE))));
            }
        } else if (shape instanceof Shape.OfColumns its && its.rows()) {
            twice(made, columns(its.columns(), Node.build(Name.of("row"))));
        } else if (shape instanceof Shape.OfColumns its) {
            columns(its.columns(), made);
        } else if (shape instanceof Shape.OfNames its) {
            its.names().forEach(each -> made.add(each, ""));
        } else if (shape instanceof Shape.OfItems its) {
            twice(made, item(its.item(), Node.build(Name.of("item"))));
        } else if (shape instanceof Shape.OfItem its) {
            item(its, made);
        }
        return made.done();
    }

    private Node.Builder item(Shape.OfItem its, Node.Builder into) {
        its.said().forEach(each -> into.add(each, ""));
        its.made().forEach(each -> into.add(node(each.name(), each.shape())));
        return into;
    }

    private static void twice(Node.Builder into, Node.Builder one) {
        Node node = one.done();
        into.add(node).add(node);
    }

    /** Adds columns; a name with slashes is a place further down. */
    private static Node.Builder columns(List<Column> columns, Node.Builder into) {
        for (Column column : columns) {
            String[] steps = column.name().split("/");
            Node node = Node.leaf(Name.of(steps[steps.length - 1]), "");
            for (int i = steps.length - 2; i >= 0; i--) {
                node = Node.branch(Name.of(steps[i]), List.of(node));
            }
            into.add(node);
        }
        return into;
    }

    private void below(SheetField field, Node.Builder into, int depth) {
        for (SheetField child : field.children()) {
            if (child.kind() == SheetField.Kind.ANY || child.recursive() || depth > DEEPEST || fields > MOST_FIELDS) {
                continue;
            }
            fields++;
            if (child.kind() == SheetField.Kind.ATTRIBUTE) {
                into.attribute(child.name(), "");
                continue;
            }
            Node.Builder made = Node.build(child.name());
            below(child, made, depth + 1);
            if (child.max() == 1) {
                into.add(made.done());
            } else {
                twice(into, made);
            }
        }
    }
}
