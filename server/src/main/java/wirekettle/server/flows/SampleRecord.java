package wirekettle.server.flows;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.PreparedFlow;
import wirekettle.core.flow.run.RecordWork;
import wirekettle.core.request.ByteOut;
import wirekettle.core.request.FillPlan.Computed;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.MessageText;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;

/** The sample record shown, as far as it comes through the flow. */
final class SampleRecord {
    private final PreparedFlow flow;
    final Scope scope;
    private final byte[] message;
    private final Map<String, Computed> values;
    private final boolean replied;

    SampleRecord(PreparedFlow flow, RecordWork work, FlowContext.Numbered record, Node reply) {
        this.flow = flow;
        this.replied = reply != null;
        Scope at = work == null || record == null ? null : work.scope(record.number(), record.node());
        Map<String, Computed> computed = Map.of();
        byte[] bytes = new byte[0];
        try {
            at = at == null ? null : RecordWork.mapped(at, flow.before());
            if (at != null && flow.request() != null) {
                ByteOut out = new ByteOut();
                computed = flow.request().values(at, out);
                bytes = out.bytes();
            }
            if (at != null && reply != null) {
                at = RecordWork.mapped(at.with(flow.call().as(), reply), flow.after());
            }
        } catch (RecordWork.MapFailed e) {
            // what comes after a script that fails has no values
            bytes = new byte[0];
        }
        this.scope = at;
        this.message = bytes;
        this.values = computed;
    }

    Map<String, Computed> values() {
        return values;
    }

    String hash() {
        return Previewer.hash(message);
    }

    /** An HTTP operation sends no envelope: what is shown is its request, to the address the contract names. */
    String message() {
        return message.length == 0 ? "" : MessageText.tidy(Caller.shown(flow.contract(), flow.offered(), message));
    }

    /** Returns what a Map stage makes, or why it makes nothing. */
    String made(String stage) {
        List<PreparedFlow.Mapped> all = new ArrayList<>(flow.before());
        all.addAll(flow.after());
        for (PreparedFlow.Mapped map : all) {
            if (map.stage().id().equals(stage) && map.script() != null && scope != null) {
                try {
                    return NodeWriter.write(map.script().result(scope), true);
                } catch (ExpressionProblem e) {
                    return (e.line() > 0 ? "line " + e.line() + ": " : "") + e.getMessage();
                }
            }
        }
        return "";
    }

    List<List<String>> rows(PreparedFlow.Written target) {
        return rows(target, new ArrayList<>());
    }

    List<List<String>> rows(PreparedFlow.Written target, List<MappingProblem> problems) {
        if (!replied || scope == null || target.rows() == null || target == flow.rejects()) {
            return List.of();
        }
        List<List<String>> rows = new ArrayList<>();
        for (String[] row : target.rows().rows(scope, problems)) {
            List<String> values = new ArrayList<>();
            for (String value : row) {
                values.add(value == null ? "" : value);
            }
            rows.add(values);
        }
        return rows;
    }
}
