package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/**
 * Compares replies with their sheet, tolerantly and fast: the first thing that differs, as a note. What is known of the
 * sheet's fields is computed once for all replies. Safe for several threads.
 */
final class ReplyCheck {
    private static final int DEEPEST = 60;

    private final Name name;
    private final Field root;

    /** What is known of one field; its children are looked at when a reply has some. */
    private static final class Field {
        private final SheetField sheet;
        private final String local;
        private final ValueRule rule;
        private volatile Children children;

        Field(SheetField sheet) {
            this.sheet = sheet;
            this.local = sheet.name().local();
            this.rule = sheet.rule();
        }

        Children children() {
            Children known = children;
            if (known == null) {
                known = new Children(sheet.children());
                children = known;
            }
            return known;
        }
    }

    /** The children of a field by name. */
    private static final class Children {
        private final Map<Name, Field> byName = new HashMap<>();
        private final List<String> required = new ArrayList<>();
        private final boolean open;
        private final boolean none;

        Children(List<SheetField> all) {
            boolean any = false;
            for (SheetField each : all) {
                any |= each.kind() == SheetField.Kind.ANY;
                if (each.kind() == SheetField.Kind.ELEMENT) {
                    byName.putIfAbsent(each.name(), new Field(each));
                    if (each.required()) {
                        required.add(each.name().local());
                    }
                }
            }
            open = any;
            none = all.isEmpty();
        }
    }

    /** Takes the sheet of replies. */
    ReplyCheck(SheetField sheet) {
        this.name = sheet.name();
        this.root = new Field(sheet);
    }

    /** Returns what is unusual about one reply, or null when it is as its sheet says. */
    static String note(Node reply, SheetField sheet) {
        return new ReplyCheck(sheet).note(reply);
    }

    /** Returns what is unusual, or null when the reply is as described. */
    String note(Node reply) {
        if (!reply.name().equals(name)) {
            return "the reply is " + reply.name().local() + ", the contract says " + name.local();
        }
        return compare(reply, root, 0);
    }

    private static String compare(Node node, Field field, int depth) {
        if (depth > DEEPEST || node.type() != null || node.nil()) {
            return null;
        }
        if (field.rule != null && node.content() == null) {
            String wrong = field.rule.problem(node.text());
            if (wrong != null) {
                return field.local + ": “" + node.text() + "” " + wrong;
            }
        }
        Children children = field.children();
        if (children.none && field.rule == null) {
            return null;
        }
        for (Node child : node.children()) {
            Field its = children.byName.get(child.name());
            if (its == null) {
                if (!children.open) {
                    return child.name().local() + " is not in the contract";
                }
                continue;
            }
            String note = compare(child, its, depth + 1);
            if (note != null) {
                return note;
            }
        }
        for (String local : children.required) {
            if (node.child(local) == null) {
                return local + " is required and missing";
            }
        }
        return null;
    }
}
