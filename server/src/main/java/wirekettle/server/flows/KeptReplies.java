package wirekettle.server.flows;

import java.nio.charset.StandardCharsets;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.flow.compile.CompiledBatch;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.run.Doors;
import wirekettle.core.flow.run.SampleWalk;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.Reply;
import wirekettle.core.value.Node;
import wirekettle.core.xml.XmlProblem;

/** The replies kept of a flow's calls for its samples, and what is supposed in the place of one. */
final class KeptReplies implements Doors.Replies {
    private final Map<String, Map<Place, KeptReplyMapper.Row>> rows = new HashMap<>();
    private final Map<String, FailureClass> supposed;
    private final CompiledFlow flow;
    private final String environment;
    private final long flowId;

    /** A record, or an item of one. */
    private record Place(long record, String path) {}

    /** Takes what is kept in an environment; {@code supposed} says which calls fail, and how. */
    KeptReplies(
            KeptReplyMapper kept,
            long flowId,
            CompiledFlow flow,
            String environment,
            Map<String, FailureClass> supposed) {
        this.flow = flow;
        this.environment = environment;
        this.flowId = flowId;
        this.supposed = supposed == null ? Map.of() : supposed;
        for (CompiledCall call : flow.all(CompiledCall.class)) {
            Map<Place, KeptReplyMapper.Row> its = new LinkedHashMap<>();
            kept.all(flowId, call.id(), environment).forEach(row -> its.put(new Place(row.record(), row.path()), row));
            rows.put(call.id(), its);
        }
    }

    /** Returns what is kept of a call for a record or an item of it, or null. */
    KeptReplyMapper.Row of(String call, long record, String path) {
        return rows.getOrDefault(call, Map.of()).get(new Place(under(flow, record, path), path));
    }

    /** Returns under which record a reply is kept: that to a batch, or to what is run once, under none. */
    static long under(CompiledFlow flow, long record, String path) {
        boolean source = path.equals(ReadStage.FromOperation.PATH);
        if (source
                || path.equals("before")
                || path.equals("after")
                || path.startsWith("before/")
                || path.startsWith("after/")) {
            return 0;
        }
        int end = path.indexOf(':');
        return end > 0 && flow.stage(path.substring(0, end)) instanceof CompiledBatch ? 0 : record;
    }

    /** Returns the flow. */
    long flowId() {
        return flowId;
    }

    /** Returns the environment. */
    String environment() {
        return environment;
    }

    /** Returns for how many records something is kept of a call. */
    int records(String call) {
        return (int) rows.getOrDefault(call, Map.of()).keySet().stream()
                .map(Place::record)
                .distinct()
                .count();
    }

    /** Returns a text that changes whenever another reply is kept. */
    String version() {
        StringBuilder text = new StringBuilder(supposed.toString());
        rows.forEach((call, its) -> its.forEach((place, row) ->
                text.append(call).append(place).append(row.calledAt()).append(';')));
        return text.toString();
    }

    @Override
    public Caller.Result of(CompiledCall call, long ordinal, String path) {
        FailureClass failing = supposed.get(call.id());
        if (failing != null) {
            boolean answered = failing == FailureClass.FAULT;
            String cause = failing == FailureClass.FAULT
                    ? "a supposed fault"
                    : failing == FailureClass.TIMEOUT ? "no answer in time" : "no connection";
            // supposed of a request that certainly had no effect: what is in doubt no lane catches
            CallFailure failure = new CallFailure(failing, cause, "supposed: " + cause, answered, answered, null);
            return new Caller.Result(null, null, List.of(), null, null, failure, null);
        }
        KeptReplyMapper.Row row = of(call.id(), ordinal, path);
        if (row == null || row.reply() == null || call.offered() == null) {
            throw new SampleWalk.NoReply();
        }
        byte[] text = row.reply().getBytes(StandardCharsets.UTF_8);
        try {
            Reply reply = Caller.reread(call.offered().operation(), text);
            CallFailure failure = reply.fault() == null
                    ? null
                    : new CallFailure(
                            FailureClass.FAULT,
                            reply.fault().label(),
                            reply.fault().code() + ": " + reply.fault().reason(),
                            true,
                            true,
                            reply.fault());
            return new Caller.Result(null, text, List.of(), null, failure == null ? reply : null, failure, null);
        } catch (XmlProblem e) {
            throw new SampleWalk.NoReply();
        }
    }

    /** Returns a kept reply's body as it came, null when there is none. */
    static Node bare(KeptReplyMapper.Row row, CompiledCall call) {
        if (row == null || row.reply() == null || call.offered() == null) {
            return null;
        }
        try {
            Reply reply = Caller.reread(call.offered().operation(), row.reply().getBytes(StandardCharsets.UTF_8));
            return reply.body().isEmpty() ? null : reply.body().get(0);
        } catch (XmlProblem e) {
            return null;
        }
    }
}
