package wirekettle.server.flows;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.contract.Operation;
import wirekettle.core.expression.Scope;
import wirekettle.core.flow.compile.PreparedFlow;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.Column;
import wirekettle.core.value.Layout;
import wirekettle.core.value.Node;

/** Everything in reach at a stage, with the values of the sample record: what the source list shows. */
final class SourceTree {
    private static final int MOST = 600;

    private final PreparedFlow flow;
    private final Layout layout;
    private final Scope scope;
    private final List<Preview.SourceGroup> groups = new ArrayList<>();

    /** Makes the tree; the scope holds what is known of the sample, as far as it has come. */
    SourceTree(PreparedFlow flow, Layout layout, Scope scope) {
        this.flow = flow;
        this.layout = layout;
        this.scope = scope;
    }

    /** Returns what is in reach at a stage. */
    List<Preview.SourceGroup> at(String stage) {
        if (flow.read() == null || scope == null) {
            return groups;
        }
        boolean rejects = flow.rejects() != null && flow.rejects().stage().id().equals(stage);
        boolean later = flow.writes().stream().anyMatch(w -> w.stage().id().equals(stage))
                || flow.after().stream().anyMatch(m -> m.stage().id().equals(stage));
        if (rejects) {
            failure();
        }
        if (later) {
            maps(flow.after(), stage);
        }
        if ((later || rejects) && flow.call() != null) {
            reply();
        }
        maps(flow.before(), stage);
        record();
        leaves("run", "the run");
        return groups;
    }

    private void record() {
        String as = flow.read().as();
        Map<String, String> types = new HashMap<>();
        for (Column column : layout == null ? List.<Column>of() : layout.columns()) {
            types.put(column.name(), column.type().word());
        }
        List<Preview.SourceField> fields = new ArrayList<>();
        Node record = scope.get(as);
        if (record != null) {
            collect(record, "$" + as, 0, fields, types);
        }
        groups.add(new Preview.SourceGroup(as, "from " + flow.read().dataset(), fields));
    }

    private void maps(List<PreparedFlow.Mapped> maps, String until) {
        for (PreparedFlow.Mapped map : maps) {
            if (map.stage().id().equals(until)) {
                return;
            }
            List<Preview.SourceField> fields = new ArrayList<>();
            Node made = scope.get(map.stage().as());
            if (made != null) {
                collect(made, "$" + map.stage().as(), 0, fields, Map.of());
            }
            groups.add(new Preview.SourceGroup(map.stage().as(), "made by a script", fields));
        }
    }

    private void reply() {
        Stage.Call call = flow.call();
        List<Preview.SourceField> fields = new ArrayList<>();
        Node reply = scope.get(call.as());
        if (flow.replySheet() != null) {
            collect(flow.replySheet(), "$" + call.as(), reply == null ? null : List.of(reply), 0, fields);
        }
        groups.add(new Preview.SourceGroup(call.as(), "the reply", fields));
    }

    private void failure() {
        List<Preview.SourceField> fields = new ArrayList<>();
        for (String name : List.of("class", "cause", "message", "field", "value", "stage", "status", "attempts")) {
            fields.add(new Preview.SourceField("$failure/" + name, name, "string", "", 0, false));
        }
        groups.add(new Preview.SourceGroup("failure", "why it failed", fields));
        List<Preview.SourceField> fault = new ArrayList<>();
        fault.add(new Preview.SourceField("$fault/code", "code", "string", "", 0, false));
        fault.add(new Preview.SourceField("$fault/reason", "reason", "string", "", 0, false));
        for (Operation.Fault declared : flow.offered() == null
                ? List.<Operation.Fault>of()
                : flow.offered().operation().faults()) {
            for (ElementDecl element : declared.message().body()) {
                SheetField sheet = flow.contract().sheet(element);
                String wire = "$fault/detail/" + sheet.name().local();
                fault.add(new Preview.SourceField(wire, sheet.name().local(), "", "", 0, false));
                collect(sheet, wire, null, 1, fault);
            }
        }
        groups.add(new Preview.SourceGroup("fault", "what the service said", fault));
    }

    private void leaves(String variable, String title) {
        List<Preview.SourceField> fields = new ArrayList<>();
        Node node = scope.get(variable);
        if (node != null) {
            collect(node, "$" + variable, 0, fields, Map.of());
        }
        groups.add(new Preview.SourceGroup(variable, title, fields));
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
