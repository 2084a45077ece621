package wirekettle.server.flows;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import wirekettle.core.flow.FlowFile;
import wirekettle.core.flow.PreparedFlow;
import wirekettle.core.flow.RecordWork;
import wirekettle.core.mapping.ByteOut;
import wirekettle.core.mapping.Fill;
import wirekettle.core.mapping.FillPlan;
import wirekettle.core.mapping.MappingProblem;
import wirekettle.core.mapping.Scope;
import wirekettle.core.mapping.WirePath;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.MessageText;
import wirekettle.core.soap.Reply;
import wirekettle.core.value.Column;
import wirekettle.core.value.Layout;
import wirekettle.core.value.Node;
import wirekettle.core.value.ValueFormat;
import wirekettle.core.xml.XmlProblem;

/** Computes what the flow page shows: every row's value for the sample, coverage over all samples, the message. */
@ApplicationScoped
public class Previewer {
    /** How many records coverage is computed over. */
    static final int SAMPLES = 50;

    @Inject
    FlowContext context;

    @Inject
    KeptReplyMapper kept;

    private static final class Tally {
        private String value = "";
        private String problem;
        private int fine;
        private int empty;
        private int invalid;
        private final List<Preview.Offender> offenders = new ArrayList<>();

        void count(long record, String text, String wrong, boolean shown) {
            if (shown) {
                value = text;
                problem = wrong;
            }
            if (record > SAMPLES) {
                return; // shown, but not among the samples coverage is about
            }
            if (wrong != null) {
                invalid++;
                if (offenders.size() < 50) {
                    offenders.add(new Preview.Offender(record, text, wrong));
                }
            } else if (text.isEmpty()) {
                empty++;
            } else {
                fine++;
            }
        }
    }

    /** Returns the preview of a stage, {@code call} or {@code write} by its id, for one record. */
    public Preview preview(long flowId, FlowFile file, String stage, long record, String environment)
            throws IOException {
        PreparedFlow flow = context.prepare(file);
        List<Node> samples = context.samples(flow.read());
        long shown = Math.max(1, Math.min(record, Math.max(1, samples.size())));
        Map<Long, KeptReplyMapper.Row> replies = new TreeMap<>();
        if (flow.call() != null) {
            kept.all(flowId, flow.call().id(), environment).forEach(r -> replies.put(r.record(), r));
        }
        RecordWork work = flow.read() == null
                ? null
                : new RecordWork(flow, null, "", "preview", flow.read().dataset(), context.clock());
        Map<String, Tally> tallies = new LinkedHashMap<>();
        String sends = "";
        List<List<String>> rows = List.of();
        List<String> hashes = new ArrayList<>();
        boolean write = flow.write() != null && flow.write().id().equals(stage);
        for (int i = 0; i < samples.size(); i++) {
            boolean isShown = i + 1 == shown;
            if (i >= SAMPLES && !isShown) {
                continue;
            }
            Scope scope = work.scope(i + 1, samples.get(i));
            if (!write && flow.request() != null) {
                ByteOut out = new ByteOut();
                Map<String, FillPlan.Computed> values = flow.request().values(scope, out);
                long number = i + 1;
                values.forEach((path, computed) -> tallies.computeIfAbsent(path, p -> new Tally())
                        .count(
                                number,
                                computed.value(),
                                computed.problem() == null
                                        ? null
                                        : computed.problem().message(),
                                isShown));
                if (isShown) {
                    sends = MessageText.tidy(shown(flow, out.bytes()));
                    hashes.add(hash(out.bytes()));
                }
            } else if (write && flow.rows() != null) {
                Node reply = body(replies.get((long) i + 1), flow);
                if (reply != null) {
                    Scope after = scope.with(flow.call().as(), reply);
                    List<List<String>> made = tally(flow, after, i + 1, isShown, tallies);
                    rows = isShown ? made : rows;
                }
            }
        }
        KeptReplyMapper.Row its = replies.get(shown);
        if (write && its != null && flow.request() != null && !samples.isEmpty()) {
            ByteOut out = new ByteOut();
            flow.request().write(work.scope(shown, samples.get((int) shown - 1)), out);
            hashes.add(hash(out.bytes()));
        }
        Preview.Kept keptReply = its == null
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
                        !hashes.contains(its.requestHash()));
        return new Preview(
                flow.problems(),
                context.records(flow.read()),
                shown,
                Math.min(SAMPLES, samples.size()),
                sources(flow, samples, shown, write, body(its, flow), work),
                fields(flow, tallies, samples, write),
                sends,
                rows,
                keptReply,
                replies.size(),
                environment);
    }

    /** An HTTP operation sends no envelope: what is shown is its request, to the address the contract names. */
    private static byte[] shown(PreparedFlow flow, byte[] message) {
        return Caller.shown(flow.contract(), flow.offered(), message);
    }

    private static List<List<String>> tally(
            PreparedFlow flow, Scope after, long number, boolean shown, Map<String, Tally> tallies) {
        List<MappingProblem> problems = new ArrayList<>();
        List<String[]> made = flow.rows().rows(after, problems);
        Map<String, MappingProblem> byColumn = new LinkedHashMap<>();
        problems.forEach(p -> byColumn.putIfAbsent(p.field(), p));
        List<String> names = flow.rows().names();
        for (int c = 0; c < names.size(); c++) {
            String first = made.isEmpty() || made.get(0)[c] == null ? "" : made.get(0)[c];
            MappingProblem problem = byColumn.get(names.get(c));
            tallies.computeIfAbsent(names.get(c), n -> new Tally())
                    .count(number, first, problem == null ? null : problem.message(), shown);
        }
        List<List<String>> rows = new ArrayList<>();
        for (String[] row : made) {
            List<String> values = new ArrayList<>();
            for (String value : row) {
                values.add(value == null ? "" : value);
            }
            rows.add(values);
        }
        return rows;
    }

    private Map<String, Preview.FieldValue> fields(
            PreparedFlow flow, Map<String, Tally> tallies, List<Node> samples, boolean write) {
        Map<String, Preview.FieldValue> fields = new LinkedHashMap<>();
        Layout layout = context.layout(flow.read());
        tallies.forEach((path, tally) -> {
            Preview.Fix fix = tally.invalid == 0 || write ? null : fix(flow, path, tally, samples, layout);
            fields.put(
                    path,
                    new Preview.FieldValue(
                            tally.value,
                            tally.problem,
                            tally.fine,
                            tally.empty,
                            tally.invalid,
                            tally.offenders.stream().limit(8).toList(),
                            fix));
        });
        return fields;
    }

    private static Preview.Fix fix(PreparedFlow flow, String path, Tally tally, List<Node> samples, Layout layout) {
        Fill fill = flow.call().fills().stream()
                .filter(f -> f.target().equals(path) && f.wire() != null)
                .findFirst()
                .orElse(null);
        ValueRule rule = fill == null ? null : rule(flow, path);
        if (rule == null) {
            return null;
        }
        List<String> misfits = new ArrayList<>();
        for (Preview.Offender offender : tally.offenders) {
            Node record = samples.get((int) offender.record() - 1);
            Node node = WirePath.parse(fill.wire())
                    .first(Scope.empty().with(flow.read().as(), record));
            if (node != null && !node.text().isEmpty()) {
                misfits.add(node.text());
            }
        }
        String column = fill.wire().substring(fill.wire().lastIndexOf('/') + 1);
        ValueFormat inferred = layout == null
                ? null
                : layout.columns().stream()
                        .filter(c -> c.name().equals(column))
                        .map(Column::format)
                        .filter(f -> f != null)
                        .findFirst()
                        .orElse(null);
        return Fixes.best(misfits, rule, inferred);
    }

    /** Returns what a field of the request may hold, or null. */
    static ValueRule rule(PreparedFlow flow, String path) {
        for (ElementDecl root : flow.offered().operation().input().elements()) {
            SheetField found = flow.contract().sheet(root).find(path);
            if (found != null) {
                return found.rule();
            }
        }
        return null;
    }

    private static List<Preview.SourceGroup> sources(
            PreparedFlow flow, List<Node> samples, long shown, boolean write, Node reply, RecordWork work) {
        List<Preview.SourceGroup> groups = new ArrayList<>();
        if (flow.read() == null || samples.isEmpty()) {
            return groups;
        }
        Scope scope = work.scope(shown, samples.get((int) shown - 1));
        String as = flow.read().as();
        List<Preview.SourceField> fields = new ArrayList<>();
        for (Node child : scope.get(as).children()) {
            String name = child.name().local();
            fields.add(new Preview.SourceField("$" + as + "/" + name, name, "", child.text(), 0, false));
        }
        if (write && flow.replySheet() != null) {
            List<Preview.SourceField> replied = new ArrayList<>();
            String root = "$" + flow.call().as();
            collect(flow.replySheet(), root, reply == null ? null : List.of(reply), 0, replied);
            groups.add(new Preview.SourceGroup(flow.call().as(), "the reply", replied));
        }
        groups.add(new Preview.SourceGroup(as, "from " + flow.read().dataset(), fields));
        List<Preview.SourceField> run = new ArrayList<>();
        for (Node child : scope.get("run").children()) {
            String name = child.name().local();
            run.add(new Preview.SourceField("$run/" + name, name, "", child.text(), 0, false));
        }
        groups.add(new Preview.SourceGroup("run", "the run", run));
        return groups;
    }

    private static void collect(
            SheetField field, String wire, List<Node> nodes, int depth, List<Preview.SourceField> into) {
        if (into.size() > 600 || depth > 10 || field.recursive()) {
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

    static Node body(KeptReplyMapper.Row row, PreparedFlow flow) {
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

    static String hash(byte[] request) {
        try {
            return HexFormat.of().formatHex(MessageDigest.getInstance("SHA-256").digest(request), 0, 16);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }
}
