package wirekettle.core.flow.offer;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.assist.Everything;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.Operation;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.FilledBy;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.record.InputSample;
import wirekettle.core.record.InputShape;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.SheetField;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Column;
import wirekettle.core.value.DocumentForm;
import wirekettle.core.value.Layout;
import wirekettle.core.value.ScalarType;

/**
 * "Offer as JSON": a flow whose input mirrors the request of an operation and whose Answer mirrors its reply; a fault
 * is answered as problem details (RFC 9457).
 */
public final class Offering {
    private static final int MOST_FIELDS = 500;
    private static final int DEEPEST = 12;
    private static final String REPLY = "reply";

    private final List<Column> columns = new ArrayList<>();
    private final List<String> lists = new ArrayList<>();
    private final List<Fill> fills = new ArrayList<>();
    private final Map<String, String> examples = new LinkedHashMap<>();

    private Offering() {}

    /**
     * Builds the flow.
     *
     * @param name the flow's name
     * @param contractName what the contract is called, as its endpoint is
     * @param delivery how the operation is called
     */
    public static FlowFile of(
            String name, String contractName, Contract contract, Contract.Offered offered, Delivery delivery) {
        Offering made = new Offering();
        Message input = offered.operation().input();
        input.elements().forEach(part -> made.part(contract, part, Mirror.place(input, part)));
        CallStage call = new CallStage(
                "call",
                contractName,
                offered.service().name(),
                offered.port().name(),
                offered.operation().key(),
                contractName,
                REPLY,
                made.fills,
                delivery);
        List<Stage> stages = new ArrayList<>();
        InputShape bare = new InputShape(made.columns, made.lists, null);
        InputShape shape = new InputShape(made.columns, made.lists, List.of(InputSample.of(bare, made.examples)));
        stages.add(ReadStage.of("input", shape, null));
        stages.add(call.failing(new Lane(List.of(Lane.Rule.run(
                "fault", List.of(FailureClass.FAULT), Lane.Then.REJECT, problem(contract, offered.operation()))))));
        Message output = offered.operation().output();
        if (output != null && !output.body().isEmpty()) {
            Everything.Nested reply =
                    Everything.nested(contract.sheet(output.body().get(0)), REPLY);
            if (!reply.columns().isEmpty()) {
                stages.add(new AnswerStage(
                        "answer",
                        null,
                        "",
                        reply.columns(),
                        reply.fills(),
                        DocumentForm.JSON,
                        reply.groups(),
                        null,
                        null));
            }
        }
        return FlowFile.of(name, stages.toArray(Stage[]::new));
    }

    /**
     * The answer to a fault: one with a detail, or the caller's by its code, is about what was sent. What is declared of
     * its detail stands under the name of its element.
     */
    private static AnswerStage problem(Contract contract, Operation operation) {
        List<Column> columns = new ArrayList<>();
        List<Fill> fills = new ArrayList<>();
        String[][] all = {
            {"title", "$fault/reason"},
            {"detail", "$failure/message"},
            {"code", "$fault/code"},
            {"cause", "$failure/cause"}
        };
        for (String[] each : all) {
            columns.add(new Column(each[0], each[0], ScalarType.STRING, null, false));
            fills.add(Fill.wire("p" + each[0], each[0], each[1]));
        }
        List<DocumentPlan.Group> groups = new ArrayList<>();
        for (Operation.Fault fault : operation.faults()) {
            for (ElementDecl part : fault.message().body()) {
                detail(contract.sheet(part), columns, fills, groups);
            }
        }
        return new AnswerStage(
                "problem",
                "if ($fault/detail/* or matches($fault/code, '(Client|Sender)$')) then '422' else '502'",
                "",
                columns,
                fills,
                null,
                groups,
                null,
                null);
    }

    private static void detail(
            SheetField root, List<Column> columns, List<Fill> fills, List<DocumentPlan.Group> groups) {
        String name = root.name().local();
        boolean known =
                columns.stream().anyMatch(each -> each.name().split("/")[0].equals(name));
        if (known || columns.size() >= MOST_FIELDS) {
            return;
        }
        String wire = "$fault/detail/" + name;
        if (root.children().isEmpty()) {
            columns.add(new Column(name, name, Everything.type(root.rule()), null, false));
            fills.add(Fill.wire("d" + fills.size(), name, wire));
            return;
        }
        Everything.Nested nested = Everything.nested(root, "fault");
        for (int i = 0; i < nested.columns().size(); i++) {
            Column column = nested.columns().get(i);
            String place = name + "/" + column.name();
            columns.add(new Column(place, column.label(), column.type(), column.format(), false));
            String from = ((FilledBy.Wire) nested.fills().get(i).by()).path();
            fills.add(Fill.wire("d" + fills.size(), place, from.replaceFirst("^\\$fault(?=/|$)", "\\" + wire)));
        }
        for (DocumentPlan.Group group : nested.groups()) {
            String from = group.repeat().replaceFirst("^\\$fault(?=/|$)", "\\" + wire);
            groups.add(new DocumentPlan.Group(name + "/" + group.name(), from, group.as()));
        }
    }

    private void part(Contract contract, ElementDecl part, String place) {
        SheetField root = contract.sheet(part);
        if (root.rule() != null && root.children().isEmpty()) {
            String name = place.isEmpty() ? root.name().local() : place;
            column(root, name, true, true);
            fills.add(Fill.wire("f" + (fills.size() + 1), root.path(), "$" + ReadStage.INPUT + "/" + name));
            return;
        }
        below(root, place, "$" + ReadStage.INPUT + (place.isEmpty() ? "" : "/" + place), true, true, 0);
    }

    private void below(SheetField field, String place, String wire, boolean required, boolean shown, int depth) {
        for (Map.Entry<String, SheetField> each : Mirror.fields(field).entrySet()) {
            if (depth > DEEPEST || columns.size() >= MOST_FIELDS) {
                return;
            }
            SheetField child = each.getValue();
            String here = place.isEmpty() ? each.getKey() : place + "/" + each.getKey();
            String from = wire + "/" + each.getKey();
            boolean several = child.max() != 1;
            boolean needed = several || required && child.required();
            boolean alone = child.children().isEmpty();
            // a sample takes the first way where there are several
            boolean seen = shown && (child.choice() == null || child.choice().branch() == 1);
            boolean text = child.rule() != null;
            if (several) {
                String as = Layout.safeNames(List.of(here.replace('/', '_'))).get(0);
                lists.add(here);
                FilledBy value = text && !alone ? new FilledBy.Wire("$" + as + "/" + Mirror.TEXT) : null;
                fills.add(Fill.of("r" + (fills.size() + 1), child.path(), new FilledBy.Repeat(from, as, null, value)));
                from = "$" + as;
            }
            if (text) {
                String own = alone ? "" : "/" + Mirror.TEXT;
                column(child, here + own, needed, seen);
                if (!several) {
                    fills.add(Fill.wire("f" + (fills.size() + 1), child.path(), from + own));
                }
            }
            if (!alone) {
                below(child, here, from, needed, seen, depth + 1);
            }
        }
    }

    private void column(SheetField field, String place, boolean required, boolean seen) {
        boolean mayBeEmpty = field.nillable() || text(field);
        String label = place.substring(place.lastIndexOf('/') + 1);
        if (seen) {
            examples.put(place, field.rule().example());
        }
        columns.add(new Column(place, label, Everything.type(field.rule()), null, required && !mayBeEmpty));
    }

    /** Tells whether an empty text is a value of a field as good as any. */
    private static boolean text(SheetField field) {
        return Everything.type(field.rule()) == ScalarType.STRING
                && field.rule().problem("") == null;
    }
}
