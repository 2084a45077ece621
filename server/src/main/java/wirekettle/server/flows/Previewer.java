package wirekettle.server.flows;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.io.InterruptedIOException;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.assist.FieldCoverage;
import wirekettle.core.assist.Fixes;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.Compiled;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.CompiledMap;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.run.SampleSet;
import wirekettle.core.flow.run.SampleWalk;
import wirekettle.core.request.ByteOut;
import wirekettle.core.request.FillPlan.Computed;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.soap.MessageText;
import wirekettle.core.soap.security.Masking;
import wirekettle.core.value.Column;
import wirekettle.core.value.Layout;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.value.ValueFormat;
import wirekettle.server.web.Problem;

/** Computes what the flow page shows: every row's value for the sample, coverage over all samples, the message. */
@ApplicationScoped
public class Previewer {
    /** What a preview takes besides its replies: fifty records, their messages and what the plans of a flow are. */
    private static final long ROOM = 4 << 20;

    /** A reply is read into a tree: so many times its characters. */
    private static final int TIMES = 8;

    private static final long ROOM_SECONDS = 20;

    @Inject
    FlowContext context;

    @Inject
    FlowRecords flowRecords;

    @Inject
    KeptReplyMapper kept;

    @Inject
    MemoryBudget memory;

    @Inject
    Samples samples;

    /** The flow with everything known of its samples. */
    private record Known(
            CompiledFlow flow,
            KeptReplies replies,
            FlowRecords.Numbered chosen,
            SampleWalk walk,
            Samples.Walks walks,
            Map<String, Samples.Proof> proofs) {}

    /** Returns the preview of a stage for the sample record without anything supposed. */
    Preview preview(
            long flowId,
            wirekettle.core.flow.file.FlowFile file,
            String stage,
            long record,
            String environment,
            String which)
            throws IOException {
        return preview(
                flowId, new SampleResource.SampleRequest(file, stage, record, environment, null, which, null, null));
    }

    /**
     * Returns the preview of a stage by its id, for one record. It waits for room among all that is in memory, and is
     * refused when there is none in time.
     */
    Preview preview(long flowId, SampleResource.SampleRequest asked) throws IOException {
        CompiledFlow flow = context.compile(asked.file());
        long characters = 0;
        for (CompiledCall call : flow.all(CompiledCall.class)) {
            characters += kept.size(flowId, call.id(), asked.environment());
        }
        try (MemoryBudget.Share share = memory.share()) {
            share.grow(ROOM + characters * TIMES, System.nanoTime() + ROOM_SECONDS * 1_000_000_000L);
            return computed(flowId, flow, asked);
        } catch (MemoryBudget.Full e) {
            throw new Problem(503, "no-memory", e.getMessage());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new InterruptedIOException("nobody waits for the preview any more");
        }
    }

    private Known known(long flowId, CompiledFlow flow, SampleResource.SampleRequest asked) throws IOException {
        KeptReplies replies = new KeptReplies(kept, flowId, flow, asked.environment(), asked.suppose());
        if (flow.source() == null) {
            return new Known(flow, replies, null, null, null, Map.of());
        }
        FlowRecords.Source source = flowRecords.of(flow, flowId, asked.environment());
        FlowRecords.Numbered chosen = flowRecords.record(source, asked.record());
        SampleSet set = samples.set(source, asked.samples());
        Samples.Walks walks = samples.walks(flowId, flow, replies, set, asked.samples());
        Map<String, Samples.Proof> proofs = new HashMap<>();
        for (CompiledCall call : flow.all(CompiledCall.class)) {
            Samples.Proof proof = samples.proof(flowId, call, walks, asked.samples());
            if (proof != null) {
                proofs.put(call.id(), proof);
            }
        }
        SampleWalk walk = chosen == null ? null : samples.walk(flow, replies, chosen, asked.items());
        return new Known(flow, replies, chosen, walk, walks, proofs);
    }

    private Preview computed(long flowId, CompiledFlow flow, SampleResource.SampleRequest asked) throws IOException {
        Known known = known(flowId, flow, asked);
        Compiled stage = flow.stage(asked.stage());
        ReadStage read = flow.source() == null ? null : flow.source().stage();
        Scope scope = known.walk() == null ? null : known.walk().at(asked.stage());
        long shown = known.chosen() == null ? 1 : known.chosen().number();

        Map<String, Map<String, FieldCoverage>> tallies = new LinkedHashMap<>();
        known.proofs().forEach((call, proof) -> tallies.put(call, proof.tallies()));
        List<String> makers = new ArrayList<>(flow.rules());
        flow.file().all().forEach(each -> {
            makers.add(each.id());
            makers.add(SplitStage.gathering(each.id()));
        });
        for (String id : known.walks() == null ? List.<String>of() : makers) {
            MadeRecord maker = MadeRecord.of(flow, id);
            if (maker != null) {
                tallies.put(id, maker.tally(id, known.walks()));
            }
        }
        Map<String, FieldCoverage> its = tallies.getOrDefault(asked.stage(), Map.of());
        Map<String, Preview.FieldValue> fields = Map.of();
        String sends = "";
        List<List<String>> rows = List.of();
        MadeRecord maker = MadeRecord.of(flow, asked.stage());
        byte[] message = new byte[0];
        if (stage instanceof CompiledCall call && call.request() != null) {
            ByteOut out = new ByteOut();
            Map<String, Computed> values =
                    scope == null ? Map.of() : call.request().values(scope, out);
            message = scope == null ? message : out.bytes();
            fields = fields(known, call, its, values);
            sends = message.length == 0 ? "" : MessageText.tidy(Caller.shown(call.contract(), call.offered(), message));
        } else if (maker != null) {
            fields = maker.columns(its, scope);
            rows = maker.rows(scope, new ArrayList<>());
            sends = stage instanceof CompiledMap map ? made(known, map, scope) : "";
        } else if (stage instanceof CompiledMap map) {
            sends = made(known, map, scope);
        }
        CompiledCall lately = lastCall(known, stage);
        KeptReplyMapper.Row row = lately == null || known.walk() == null
                ? null
                : known.replies().of(lately.id(), shown, known.walk().path(lately.id()));
        return new Preview(
                flow.problems(),
                flowRecords.records(flowRecords.of(flow, flowId, asked.environment())),
                shown,
                known.walks() == null ? 0 : known.walks().set().records().size(),
                read == null || known.chosen() == null
                        ? List.of()
                        : SourceTree.of(
                                flow.at(asked.stage()),
                                scope == null && known.walk() != null
                                        ? known.walk().last()
                                        : scope),
                fields,
                sends,
                rows,
                keptReply(row, lately, known),
                lately == null ? 0 : known.replies().records(lately.id()),
                asked.environment(),
                way(known, flow, asked.stage()),
                attention(known, tallies));
    }

    /** Returns the call of a stage, or the one the sample came through last before it. */
    private static CompiledCall lastCall(Known known, Compiled stage) {
        if (stage instanceof CompiledCall call) {
            return call;
        }
        CompiledCall last = null;
        CompiledCall before = null;
        boolean passed = false;
        for (Stage each : known.flow().file().all()) {
            passed |= stage != null && each.id().equals(stage.id());
            if (known.flow().stage(each.id()) instanceof CompiledCall call) {
                boolean reached = stage == null
                        || known.flow()
                                        .at(stage.id())
                                        .get(String.valueOf(call.stage().as()))
                                != null;
                last = reached ? call : last;
                before = passed ? before : call;
            }
        }
        // what a Split's items were answered is out of reach behind it, and counts all the same
        return last == null ? before : last;
    }

    private static Preview.Way way(Known known, CompiledFlow flow, String asked) {
        SampleWalk walk = known.walk();
        if (walk == null) {
            return null;
        }
        List<String> reached = new ArrayList<>();
        flow.file().all().forEach(stage -> {
            if (walk.reaches(stage.id())) {
                reached.add(stage.id());
            }
        });
        Map<String, String> failures = new LinkedHashMap<>();
        walk.failures().forEach((stage, failure) -> failures.put(stage, failure.message()));
        return new Preview.Way(
                walk.end(),
                walk.endedAt(),
                walk.failure() == null ? null : walk.failure().message(),
                reached,
                walk.ways(),
                failures,
                walk.answer(),
                walk.at(asked) == null ? first(known.walks(), asked) : null,
                walk.items(),
                walk.batches());
    }

    private static Long first(Samples.Walks walks, String stage) {
        List<Integer> coming = walks.at(stage);
        return coming.isEmpty() ? null : walks.set().numbers().get(coming.get(0));
    }

    /** What a Map makes of the sample, or why it makes nothing. */
    private static String made(Known known, CompiledMap map, Scope scope) {
        if (scope == null || known.walk() == null) {
            return "";
        }
        var failure = known.walk().failures().get(map.id());
        if (failure != null) {
            return failure.message();
        }
        try {
            if (map.script() != null) {
                return NodeWriter.write(map.script().result(scope), true);
            }
            return map.record() == null ? "" : NodeWriter.write(map.record().node(scope, new ArrayList<>()), true);
        } catch (wirekettle.core.expression.ExpressionProblem e) {
            return (e.line() > 0 ? "line " + e.line() + ": " : "") + e.getMessage();
        }
    }

    /** Returns the variables of the sample at the stage asked for, null when it does not come there. */
    Scope scope(long flowId, CompiledFlow flow, SampleResource.SampleRequest asked) throws IOException {
        if (flow.source() == null) {
            return null;
        }
        FlowRecords.Numbered chosen =
                flowRecords.record(flowRecords.of(flow, flowId, asked.environment()), asked.record());
        return chosen == null
                ? null
                : samples.walk(
                                flow,
                                new KeptReplies(kept, flowId, flow, asked.environment(), asked.suppose()),
                                chosen,
                                asked.items())
                        .at(asked.stage());
    }

    /** Returns the variables at a call of the first samples that come to it. */
    List<Scope> scopes(long flowId, CompiledFlow flow, CompiledCall call, String environment) throws IOException {
        SampleSet set = samples.set(flowRecords.of(flow, flowId, environment), "first");
        KeptReplies replies = new KeptReplies(kept, flowId, flow, environment, null);
        Samples.Walks walks = samples.walks(flowId, flow, replies, set, "first");
        return walks.at(call.id()).stream()
                .map(i -> walks.each().get(i).at(call.id()))
                .toList();
    }

    private Map<String, Preview.FieldValue> fields(
            Known known, CompiledCall call, Map<String, FieldCoverage> tallies, Map<String, Computed> values) {
        Map<String, Preview.FieldValue> fields = new LinkedHashMap<>();
        Map<String, Fill> byTarget = new HashMap<>();
        call.stage().fills().forEach(f -> byTarget.put(f.target(), f));
        // the item that is shown may have a value where no sample comes with its first one
        Map<String, FieldCoverage> all = new LinkedHashMap<>(tallies);
        values.keySet().forEach(path -> all.putIfAbsent(path, new FieldCoverage()));
        all.forEach((path, tally) -> {
            Computed value = values.getOrDefault(path, new Computed("", null));
            Preview.Fix fix = tally.invalid() == 0 ? null : fix(known, call, byTarget.get(path));
            String problem = value.problem() == null ? null : value.problem().message();
            fields.put(path, Preview.FieldValue.of(tally, value.value(), problem, fix));
        });
        return fields;
    }

    private Preview.Fix fix(Known known, CompiledCall call, Fill fill) {
        ValueRule rule = fill == null || !fill.givesValue() && fill.repeat() == null ? null : rule(call, fill.target());
        if (rule == null || fill.constant() != null || fill.secret() || fill.file() != null) {
            return null;
        }
        List<Scope> scopes = known.proofs().get(call.id()).scopes(call.id());
        List<String> misfits = Fixes.misfits(
                fill,
                call.stage().fills(),
                rule,
                scopes,
                context.mapping(known.flow().file()));
        return Preview.Fix.of(Fixes.best(misfits, rule, fill.format(), inferred(known.flow(), fill)));
    }

    private ValueFormat inferred(CompiledFlow flow, Fill fill) {
        Layout layout = flowRecords.layout(flow.source().stage());
        if (layout == null || fill.wire() == null) {
            return null;
        }
        String column = fill.wire().substring(fill.wire().lastIndexOf('/') + 1);
        return layout.columns().stream()
                .filter(c -> c.name().equals(column) && c.format() != null)
                .map(Column::format)
                .findFirst()
                .orElse(null);
    }

    private static List<Preview.Attention> attention(Known known, Map<String, Map<String, FieldCoverage>> tallies) {
        Map<String, Preview.Attention> all = new LinkedHashMap<>();
        for (FlowProblem problem : known.flow().problems()) {
            String key =
                    problem.field() == null ? problem.stage() + problem.message() : problem.stage() + problem.field();
            all.putIfAbsent(key, new Preview.Attention(problem.stage(), problem.field(), problem.message()));
        }
        for (CompiledMap map : known.flow().all(CompiledMap.class)) {
            long failed = known.walks() == null || map.script() == null
                    ? 0
                    : known.walks().each().stream()
                            .filter(walk -> walk.failures().containsKey(map.id()))
                            .count();
            if (failed > 0) {
                String message = "the script fails for " + failed + " of the samples";
                all.put(map.id() + "script", new Preview.Attention(map.id(), null, message));
            }
        }
        tallies.forEach((stage, its) -> add(all, stage, its));
        return List.copyOf(all.values());
    }

    private static void add(Map<String, Preview.Attention> all, String stage, Map<String, FieldCoverage> tallies) {
        tallies.forEach((path, tally) -> {
            if (tally.invalid() > 0) {
                int samples = tally.fine() + tally.empty() + tally.invalid();
                String name = path.substring(Math.max(path.lastIndexOf('/'), path.lastIndexOf('}')) + 1);
                all.putIfAbsent(
                        stage + path,
                        new Preview.Attention(
                                stage,
                                path,
                                name + " does not fit for " + tally.invalid() + " of " + samples + " samples"));
            }
        });
    }

    private Preview.Kept keptReply(KeptReplyMapper.Row its, CompiledCall call, Known known) {
        if (its == null) {
            return null;
        }
        Scope scope = known.walk() == null ? null : known.walk().at(call.id());
        boolean stale =
                scope == null || call.request() == null || !its.requestHash().equals(hash(call, scope));
        return new Preview.Kept(
                MessageText.tidy(its.request().getBytes(StandardCharsets.UTF_8)),
                its.status(),
                its.reply() == null ? null : MessageText.tidy(its.reply().getBytes(StandardCharsets.UTF_8)),
                its.failure(),
                its.millis(),
                its.calledAt(),
                stale);
    }

    /** Returns what a field of a request may hold, or null. */
    static ValueRule rule(CompiledCall call, String path) {
        for (SheetField root : call.requestSheets()) {
            SheetField found = root.find(path);
            if (found != null) {
                return found.rule();
            }
        }
        return null;
    }

    /** Returns a kept reply's body with the documents in its fields opened, null when there is none. */
    static Node body(KeptReplyMapper.Row row, CompiledCall call) {
        Node body = KeptReplies.bare(row, call);
        return body == null ? null : call.documents().opened(body, new ArrayList<>());
    }

    /** Returns the hash of the request for a record as it is shown: with secrets hidden, so that it tells none. */
    String hash(CompiledCall call, Scope scope) {
        ByteOut out = new ByteOut();
        call.request().write(scope.knowing(name -> Masking.MASK), out);
        return hash(out.bytes());
    }

    static String hash(byte[] request) {
        try {
            return HexFormat.of().formatHex(MessageDigest.getInstance("SHA-256").digest(request), 0, 16);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }
}
