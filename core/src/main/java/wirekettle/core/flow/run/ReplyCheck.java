package wirekettle.core.flow.run;

import java.util.HashMap;
import java.util.Map;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.Node;

/** Compares a reply with its sheet, tolerantly and fast: the first thing that differs, as a note. */
final class ReplyCheck {
    private ReplyCheck() {}

    /** Returns what is unusual, or null when the reply is as described. */
    static String note(Node reply, SheetField sheet) {
        if (!reply.name().equals(sheet.name())) {
            return "the reply is " + reply.name().local() + ", the contract says "
                    + sheet.name().local();
        }
        return compare(reply, sheet, 0);
    }

    private static String compare(Node node, SheetField field, int depth) {
        if (depth > 60 || node.type() != null || node.nil()) {
            return null;
        }
        if (field.rule() != null && node.content() == null) {
            String wrong = field.rule().problem(node.text());
            if (wrong != null) {
                return field.name().local() + ": “" + node.text() + "” " + wrong;
            }
        }
        Map<String, Integer> seen = new HashMap<>();
        boolean open = false;
        for (SheetField child : field.children()) {
            open |= child.kind() == SheetField.Kind.ANY;
        }
        if (field.children().isEmpty() && field.rule() == null) {
            return null;
        }
        for (Node child : node.children()) {
            SheetField its = null;
            for (SheetField candidate : field.children()) {
                if (candidate.kind() == SheetField.Kind.ELEMENT
                        && candidate.name().equals(child.name())) {
                    its = candidate;
                    break;
                }
            }
            if (its == null) {
                if (!open) {
                    return child.name().local() + " is not in the contract";
                }
                continue;
            }
            seen.merge(child.name().local(), 1, Integer::sum);
            String note = compare(child, its, depth + 1);
            if (note != null) {
                return note;
            }
        }
        for (SheetField child : field.children()) {
            boolean element = child.kind() == SheetField.Kind.ELEMENT;
            if (element && child.required() && !seen.containsKey(child.name().local())) {
                return child.name().local() + " is required and missing";
            }
        }
        return null;
    }
}
