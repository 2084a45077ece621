package wirekettle.core.flow.offer;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Message;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/**
 * How a record without namespaces stands for a message: attributes and elements are fields under their plain names, in
 * the order of the sheet. Offered operations have such records as input and answer.
 */
public final class Mirror {
    /** The text of a field that has fields of its own. */
    static final String TEXT = "text";

    private static final int DEEPEST = 60;

    private Mirror() {}

    /**
     * Returns the fields directly below one by the names they have in the record. An attribute and an element, or
     * elements of two namespaces, may be called the same: later ones get a number. Wildcards, attributes with a fixed
     * value and what would repeat itself without end have none.
     */
    static Map<String, SheetField> fields(SheetField field) {
        Map<String, SheetField> all = new LinkedHashMap<>();
        for (SheetField child : field.children()) {
            boolean leaveOut = child.kind() == SheetField.Kind.ANY
                    || child.recursive()
                    || child.isAbstract()
                    || child.fixed() != null && child.kind() == SheetField.Kind.ATTRIBUTE;
            if (!leaveOut) {
                String local = child.name().local();
                String name = local;
                for (int n = 2; all.containsKey(name); n++) {
                    name = local + "_" + n;
                }
                all.put(name, child);
            }
        }
        return all;
    }

    /** Returns the place of a part of a message in the record: none where it is all there is of the body. */
    static String place(Message message, ElementDecl part) {
        boolean alone = message.body().size() == 1 && message.body().contains(part);
        return alone ? "" : part.name().local();
    }

    /**
     * Returns the record a message stands for.
     *
     * @param as what the record is called
     * @param headers the header elements that came
     * @param body the elements of the body
     */
    public static Node record(Contract contract, Message message, List<Node> headers, List<Node> body, String as) {
        Node.Builder made = Node.build(Name.of(as));
        for (ElementDecl part : message.elements()) {
            List<Node> among = message.headers().contains(part) ? headers : body;
            Node its = among.stream()
                    .filter(each -> each.name().equals(part.name()))
                    .findFirst()
                    .orElse(null);
            if (its == null) {
                continue;
            }
            SheetField root = contract.sheet(part);
            String place = place(message, part);
            if (root.rule() != null && root.children().isEmpty()) {
                made.add(plain(its, place.isEmpty() ? part.name().local() : place));
            } else if (place.isEmpty()) {
                below(root, its, made, 0);
            } else {
                Node.Builder one = Node.build(Name.of(place));
                below(root, its, one, 0);
                made.add(one.done());
            }
        }
        return made.done();
    }

    private static Node plain(Node given, String name) {
        Node.Builder made = Node.build(Name.of(name));
        return given.nil() ? made.nil().done() : made.text(given.text()).done();
    }

    private static void below(SheetField field, Node given, Node.Builder made, int depth) {
        fields(field).forEach((name, child) -> {
            boolean attribute = child.kind() == SheetField.Kind.ATTRIBUTE;
            for (Node its : attribute ? given.attributes() : given.children()) {
                if (!its.name().equals(child.name())) {
                    continue;
                }
                if (its.nil() || child.children().isEmpty() || depth > DEEPEST) {
                    made.add(plain(its, name));
                    continue;
                }
                Node.Builder one = Node.build(Name.of(name));
                if (child.rule() != null) {
                    one.add(TEXT, its.text());
                }
                below(child, its, one, depth + 1);
                made.add(one.done());
            }
        });
    }

    /** Returns the elements of the body of a message a record stands for. */
    public static List<Node> body(Contract contract, Message message, Node record) {
        List<Node> all = new ArrayList<>();
        for (ElementDecl part : message.body()) {
            SheetField root = contract.sheet(part);
            String place = place(message, part);
            boolean text = root.rule() != null && root.children().isEmpty();
            Node its = text || !place.isEmpty()
                    ? record.child(place.isEmpty() ? part.name().local() : place)
                    : record;
            all.add(element(root, its == null ? Node.build(part.name()).done() : its));
        }
        return all;
    }

    /**
     * Returns the element of a message a record stands for. What the record does not have, or has without a value, is
     * left out where it may be.
     */
    public static Node element(SheetField field, Node record) {
        return element(field, record, 0);
    }

    /** Tells whether a part of a record holds any value. */
    public static boolean holds(Node record) {
        return record.children().isEmpty()
                ? !record.nil() && !record.text().isEmpty()
                : record.children().stream().anyMatch(Mirror::holds);
    }

    private static Node element(SheetField field, Node record, int depth) {
        Node.Builder made = Node.build(field.name());
        if (field.nillable() && (record.nil() || field.rule() != null && !holds(record))) {
            return made.nil().done();
        }
        Map<String, SheetField> fields = fields(field);
        if (fields.isEmpty()) {
            Node text = record.child(TEXT);
            return made.text(text == null ? record.text() : text.text()).done();
        }
        if (field.rule() != null) {
            Node text = record.child(TEXT);
            made.text(text == null ? record.text() : text.text());
        }
        // what is fixed is no field of the record
        field.children().stream()
                .filter(each -> each.kind() == SheetField.Kind.ATTRIBUTE && each.fixed() != null && each.required())
                .forEach(each -> made.attribute(each.name(), each.fixed()));
        fields.forEach((name, child) -> {
            List<Node> its = record.children().stream()
                    .filter(each -> each.name().local().equals(name))
                    .toList();
            if (child.kind() == SheetField.Kind.ATTRIBUTE) {
                its.stream().filter(Mirror::holds).limit(1).forEach(each -> made.attribute(child.name(), each.text()));
                return;
            }
            boolean empty = its.isEmpty() && child.required() && child.choice() == null && depth < DEEPEST;
            if (empty && !child.children().isEmpty() && child.rule() == null) {
                made.add(element(child, Node.build(Name.of(name)).done(), depth + 1));
            }
            for (Node each : its) {
                boolean nil = each.nil() && child.nillable();
                if (nil || child.max() != 1 || child.required() && child.choice() == null || holds(each)) {
                    made.add(element(child, each, depth + 1));
                }
            }
        });
        return made.done();
    }
}
