package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Operation;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.SheetField;
import wirekettle.core.soap.SoapFault;
import wirekettle.core.value.Node;

/**
 * A fault read by the schema of the fault the operation declares.
 *
 * @param name the declared fault's name; null when the detail is none of those declared
 * @param fields the detail's fields as "name value", in the order of its sheet
 * @param note what is not as its schema says, or null
 */
record TypedFault(String name, List<String> fields, String note) {
    private static final int MOST_FIELDS = 6;

    /** Reads the detail of a fault of an operation. */
    static TypedFault of(SoapFault fault, Operation operation, Contract contract) {
        for (Node detail : fault.detail()) {
            for (Operation.Fault declared : operation.faults()) {
                for (ElementDecl element : declared.message().body()) {
                    if (element.name().equals(detail.name())) {
                        SheetField sheet = contract.sheet(element);
                        List<String> fields = new ArrayList<>();
                        collect(detail, sheet, fields);
                        return new TypedFault(declared.name(), List.copyOf(fields), ReplyCheck.note(detail, sheet));
                    }
                }
            }
        }
        for (Node header : fault.headers()) {
            for (ElementDecl element : operation.input().headerFaults()) {
                if (element.name().equals(header.name())) {
                    SheetField sheet = contract.sheet(element);
                    List<String> fields = new ArrayList<>();
                    collect(header, sheet, fields);
                    return new TypedFault(element.name().local(), List.copyOf(fields), ReplyCheck.note(header, sheet));
                }
            }
        }
        return new TypedFault(null, List.of(), null);
    }

    private static void collect(Node node, SheetField sheet, List<String> fields) {
        for (SheetField field : sheet.children()) {
            Node child = node.child(field.name().local());
            if (child != null && fields.size() < MOST_FIELDS) {
                if (field.holdsText() && !child.text().isBlank()) {
                    fields.add(field.name().local() + " “" + child.text().strip() + "”");
                }
                collect(child, field, fields);
            }
        }
    }
}
