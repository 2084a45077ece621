package wirekettle.server.flows;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.io.InterruptedIOException;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Clock;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import wirekettle.core.assist.FieldCoverage;
import wirekettle.core.assist.Fixes;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.compile.PreparedFlow;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.flow.run.RecordWork;
import wirekettle.core.flow.run.SampleSet;
import wirekettle.core.record.ScalarCheck;
import wirekettle.core.request.ByteOut;
import wirekettle.core.request.FillPlan.Computed;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.soap.MessageText;
import wirekettle.core.soap.Reach;
import wirekettle.core.soap.Reply;
import wirekettle.core.soap.security.Masking;
import wirekettle.core.value.Column;
import wirekettle.core.value.Layout;
import wirekettle.core.value.Node;
import wirekettle.core.value.ValueFormat;
import wirekettle.core.xml.XmlProblem;
import wirekettle.server.web.Problem;

/** Computes what the flow page shows: every row's value for the sample, coverage over all samples, the message. */
@ApplicationScoped
public class Previewer {
    @Inject
    FlowContext context;

    @Inject
    KeptReplyMapper kept;

    @Inject
    MemoryBudget memory;

    /** What a preview takes besides its replies: fifty records, their messages and what the plans of a flow are. */
    private static final long ROOM = 4 << 20;

    /** A reply is read into a tree: so many times its characters. */
    private static final int TIMES = 8;

    private static final long ROOM_SECONDS = 20;

    private final Map<String, SampleSet> sets = RequestProofs.latest(16);

    @Inject
    RequestProofs proofs;

    /**
     * Returns the preview of a stage by its id, for one record; samples is first or random. It waits for room among all
     * that is in memory, and is refused when there is none in time.
     */
    public Preview preview(long flowId, FlowFile file, String stage, long record, String environment, String samples)
            throws IOException {
        PreparedFlow flow = context.prepare(file);
        long replies = flow.call() == null ? 0 : kept.size(flowId, flow.call().id(), environment);
        try (MemoryBudget.Share share = memory.share()) {
            share.grow(ROOM + replies * TIMES, System.nanoTime() + ROOM_SECONDS * 1_000_000_000L);
            return computed(flowId, flow, stage, record, environment, samples);
        } catch (MemoryBudget.Full e) {
            throw new Problem(503, "no-memory", e.getMessage());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new InterruptedIOException("nobody waits for the preview any more");
        }
    }

    private Preview computed(
            long flowId, PreparedFlow flow, String stage, long record, String environment, String samples)
            throws IOException {
        List<Node> known = context.samples(flow.read());
        FlowContext.Numbered chosen = context.record(flow.read(), record);
        long shown = chosen == null ? 1 : chosen.number();
        Map<Long, KeptReplyMapper.Row> replies = new TreeMap<>();
        if (flow.call() != null) {
            kept.all(flowId, flow.call().id(), environment).forEach(r -> replies.put(r.record(), r));
        }
        RecordWork work = flow.read() == null ? null : unseen(flow);
        SampleSet set = known.isEmpty() ? new SampleSet(List.of(), List.of()) : set(flow, known, samples);
        RequestProofs.Proof proof = work == null ? null : proofs.of(flowId, flow, work, set, samples);
        SampleRecord sample = new SampleRecord(flow, work, chosen, body(replies.get(shown), flow));

        Map<String, FieldCoverage> request = proof == null ? Map.of() : proof.tallies();
        Map<String, Map<String, FieldCoverage>> written = new HashMap<>();
        for (PreparedFlow.Written write : flow.writes()) {
            written.put(write.stage().id(), rows(flow, write, work, known, set, replies));
        }
        boolean isCall = flow.call() != null && flow.call().id().equals(stage);
        PreparedFlow.Written target = flow.write(stage);
        Map<String, Preview.FieldValue> fields = isCall
                ? fields(flow, request, proof, sample)
                : target == null ? Map.of() : columns(target, written.getOrDefault(stage, Map.of()), sample);
        return new Preview(
                flow.problems(),
                context.records(flow.read()),
                shown,
                set.records().size(),
                new SourceTree(flow, context.layout(flow.read()), sample.scope).at(stage),
                fields,
                isCall ? sample.message() : sample.made(stage),
                target == null ? List.of() : sample.rows(target),
                keptReply(replies.get(shown), sample),
                replies.size(),
                environment,
                attention(flow, request, written, proof));
    }

    /** Returns the scope of a record at a stage as far as it comes, null when there is no record. */
    Scope scope(long flowId, PreparedFlow flow, String stage, long record, String environment) throws IOException {
        FlowContext.Numbered chosen = context.record(flow.read(), record);
        if (chosen == null) {
            return null;
        }
        KeptReplyMapper.Row reply = flow.call() == null || flow.call().id().equals(stage)
                ? null
                : kept.all(flowId, flow.call().id(), environment).stream()
                        .filter(r -> r.record() == chosen.number())
                        .findFirst()
                        .orElse(null);
        return new SampleRecord(flow, unseen(flow), chosen, body(reply, flow)).scope;
    }

    /** Returns the scopes at the call of the first samples, those a Map stage before it fails for left out. */
    List<Scope> scopes(long flowId, PreparedFlow flow) throws IOException {
        List<Node> known = context.samples(flow.read());
        return flow.request() == null || known.isEmpty()
                ? List.of()
                : proofs.of(flowId, flow, unseen(flow), SampleSet.first(known), "first")
                        .scopes();
    }

    /** Returns the work of a flow that sees no secret and calls nobody. */
    RecordWork unseen(PreparedFlow flow) {
        Reach unseen = new Reach(
                "",
                EndpointSettings.PLAIN,
                name -> Masking.MASK,
                new Masking(),
                Clock.systemUTC(),
                context.foldersForLooking());
        return new RecordWork(flow, null, unseen, "sample", flow.read().dataset(), context.clock());
    }

    /** Returns the records everything is held against. */
    SampleSet set(PreparedFlow flow, List<Node> known, String samples) throws IOException {
        if (!"random".equals(samples)) {
            return SampleSet.first(known);
        }
        String key = context.version(flow.read());
        SampleSet set = sets.get(key);
        if (set == null) {
            try (RecordSource source = context.open(flow.read())) {
                set = SampleSet.random(source);
            }
            sets.put(key, set);
        }
        return set;
    }

    private Map<String, FieldCoverage> rows(
            PreparedFlow flow,
            PreparedFlow.Written write,
            RecordWork work,
            List<Node> known,
            SampleSet set,
            Map<Long, KeptReplyMapper.Row> replies) {
        Map<String, FieldCoverage> tallies = new LinkedHashMap<>();
        if (work == null || write.rows() == null) {
            return tallies;
        }
        for (int i = 0; i < set.records().size(); i++) {
            long number = set.numbers().get(i);
            Node reply = body(replies.get(number), flow);
            if (reply == null) {
                continue;
            }
            List<MappingProblem> problems = new ArrayList<>();
            List<String[]> made;
            try {
                Scope scope = RecordWork.mapped(work.scope(number, set.records().get(i)), flow.before());
                scope = RecordWork.mapped(scope.with(flow.call().as(), reply), flow.after());
                made = write.rows().rows(scope, problems);
            } catch (RecordWork.MapFailed e) {
                continue; // told of the stage that failed
            }
            Map<String, MappingProblem> byColumn = new HashMap<>();
            problems.forEach(p -> byColumn.putIfAbsent(p.field(), p));
            List<String> names = write.rows().names();
            boolean document = write.stage().document() != null;
            for (int c = 0; c < names.size(); c++) {
                MappingProblem problem = byColumn.get(names.get(c));
                String value = problem != null
                        ? problem.value()
                        : document ? "in the document" : made.isEmpty() || made.get(0)[c] == null ? "" : made.get(0)[c];
                tallies.computeIfAbsent(names.get(c), n -> new FieldCoverage())
                        .count(number, value, problem == null ? null : problem.message());
            }
        }
        return tallies;
    }

    private Map<String, Preview.FieldValue> fields(
            PreparedFlow flow, Map<String, FieldCoverage> tallies, RequestProofs.Proof proof, SampleRecord sample) {
        Map<String, Preview.FieldValue> fields = new LinkedHashMap<>();
        Map<String, Computed> values = sample.values();
        Map<String, Fill> byTarget = new HashMap<>();
        flow.call().fills().forEach(f -> byTarget.put(f.target(), f));
        tallies.forEach((path, tally) -> {
            Computed value = values.getOrDefault(path, new Computed("", null));
            Preview.Fix fix = tally.invalid() == 0 ? null : fix(flow, byTarget.get(path), proof);
            String problem = value.problem() == null ? null : value.problem().message();
            fields.put(path, Preview.FieldValue.of(tally, value.value(), problem, fix));
        });
        return fields;
    }

    private Preview.Fix fix(PreparedFlow flow, Fill fill, RequestProofs.Proof proof) {
        ValueRule rule = fill == null || !fill.givesValue() && fill.repeat() == null ? null : rule(flow, fill.target());
        if (rule == null || fill.constant() != null || fill.secret() != null || fill.file() != null) {
            return null;
        }
        List<String> misfits =
                Fixes.misfits(fill, flow.call().fills(), rule, proof.scopes(), context.mapping(flow.file()));
        return Preview.Fix.of(Fixes.best(misfits, rule, fill.format(), inferred(flow, fill)));
    }

    private ValueFormat inferred(PreparedFlow flow, Fill fill) {
        Layout layout = context.layout(flow.read());
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

    private static Map<String, Preview.FieldValue> columns(
            PreparedFlow.Written target, Map<String, FieldCoverage> tallies, SampleRecord sample) {
        Map<String, Preview.FieldValue> fields = new LinkedHashMap<>();
        List<MappingProblem> problems = new ArrayList<>();
        List<List<String>> rows = sample.rows(target, problems);
        Map<String, MappingProblem> byColumn = new HashMap<>();
        problems.forEach(p -> byColumn.putIfAbsent(p.field(), p));
        Map<String, Column> columns = new HashMap<>();
        target.stage().columns().forEach(c -> columns.put(c.name(), c));
        Map<String, Fill> fills = new HashMap<>();
        target.stage().fills().forEach(f -> fills.put(f.target(), f));
        List<String> names = target.rows() == null ? List.of() : target.rows().names();
        for (int c = 0; c < names.size(); c++) {
            String name = names.get(c);
            FieldCoverage tally = tallies.getOrDefault(name, new FieldCoverage());
            MappingProblem problem = byColumn.get(name);
            boolean flat = target.stage().document() == null && !rows.isEmpty();
            String value = problem != null && !problem.value().isEmpty()
                    ? problem.value()
                    : flat ? rows.get(0).get(c) : "";
            ValueRule rule = columns.containsKey(name)
                    ? ScalarCheck.rule(columns.get(name).type())
                    : null;
            Fill fill = fills.get(name);
            boolean mendable = tally.invalid() > 0 && rule != null && fill != null && fill.format() == null;
            Preview.Fix fix = mendable ? Preview.Fix.of(Fixes.best(tally.misfits(), rule, null, null)) : null;
            fields.put(name, Preview.FieldValue.of(tally, value, problem == null ? null : problem.message(), fix));
        }
        return fields;
    }

    private static List<Preview.Attention> attention(
            PreparedFlow flow,
            Map<String, FieldCoverage> request,
            Map<String, Map<String, FieldCoverage>> written,
            RequestProofs.Proof proof) {
        Map<String, Preview.Attention> all = new LinkedHashMap<>();
        for (FlowProblem problem : flow.problems()) {
            String key =
                    problem.field() == null ? problem.stage() + problem.message() : problem.stage() + problem.field();
            all.putIfAbsent(key, new Preview.Attention(problem.stage(), problem.field(), problem.message()));
        }
        if (proof != null && proof.usable().size() < proof.set().records().size()) {
            int failed = proof.set().records().size() - proof.usable().size();
            String stage = flow.before().get(0).stage().id();
            all.put(
                    stage + "script",
                    new Preview.Attention(stage, null, "the script fails for " + failed + " of the samples"));
        }
        if (flow.call() != null) {
            add(all, flow.call().id(), request);
        }
        written.forEach((stage, tallies) -> add(all, stage, tallies));
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

    private static Preview.Kept keptReply(KeptReplyMapper.Row its, SampleRecord sample) {
        return its == null
                ? null
                : new Preview.Kept(
                        MessageText.tidy(its.request().getBytes(StandardCharsets.UTF_8)),
                        its.status(),
                        its.reply() == null
                                ? null
                                : MessageText.tidy(its.reply().getBytes(StandardCharsets.UTF_8)),
                        its.failure(),
                        its.millis(),
                        its.calledAt(),
                        !its.requestHash().equals(sample.hash()));
    }

    /** Returns what a field of the request may hold, or null. */
    static ValueRule rule(PreparedFlow flow, String path) {
        for (SheetField root : flow.requestSheets()) {
            SheetField found = root.find(path);
            if (found != null) {
                return found.rule();
            }
        }
        return null;
    }

    /** Returns the kept reply's body with the documents in its fields opened, null when there is none. */
    static Node body(KeptReplyMapper.Row row, PreparedFlow flow) {
        Node body = bare(row, flow);
        return body == null ? null : flow.replyDocuments().opened(body, new ArrayList<>());
    }

    /** Returns the kept reply's body as it came. */
    static Node bare(KeptReplyMapper.Row row, PreparedFlow flow) {
        if (row == null || row.reply() == null || flow.offered() == null) {
            return null;
        }
        try {
            Reply reply = Caller.reread(flow.offered().operation(), row.reply().getBytes(StandardCharsets.UTF_8));
            return reply.body().isEmpty() ? null : reply.body().get(0);
        } catch (XmlProblem e) {
            return null;
        }
    }

    /** Returns the hash of the request for a record as it is shown: with secrets hidden, so that it tells none. */
    String hash(PreparedFlow flow, Scope scope) {
        Scope unseen = Scope.of(name -> Masking.MASK, context.foldersForLooking());
        for (Map.Entry<String, Node> each : scope.variables().entrySet()) {
            unseen = unseen.with(each.getKey(), each.getValue());
        }
        ByteOut out = new ByteOut();
        flow.request().write(unseen, out);
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
