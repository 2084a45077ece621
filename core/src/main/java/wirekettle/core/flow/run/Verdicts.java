package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.FillFailure;
import wirekettle.core.flow.compile.CompiledBatch;
import wirekettle.core.flow.file.BatchStage;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/** Reads from the reply to a batch what became of each of its records. */
final class Verdicts {
    private static final int MOST_NAMED = 5;

    private final CompiledBatch.Verdict verdict;
    private final BatchStage.Verdict said;
    private final List<OfLine> lines = new ArrayList<>();
    private final List<String> notes = new ArrayList<>();

    /**
     * What became of a record.
     *
     * @param end whether it was accepted
     * @param reason why not, or why nobody knows; may be empty
     * @param node what the record goes on with
     */
    record OfRecord(BatchStage.Said end, String reason, Node node) {}

    private record OfLine(Node node, String key, BatchStage.Said end, String reason) {}

    private Verdicts(CompiledBatch.Verdict verdict, BatchStage.Verdict said) {
        this.verdict = verdict;
        this.said = said;
    }

    /**
     * Reads the verdicts.
     *
     * @param scope everything in reach at the end of the batch's stages
     * @param items the records as they stood in the batch
     * @param run the variable of the run
     * @param note takes what is odd about the reply
     * @return one for each item, in their order
     * @throws FillFailure when there are no lines to be read
     */
    static List<OfRecord> of(
            CompiledBatch batch, Scope scope, List<Node> items, Scope run, java.util.function.Consumer<String> note)
            throws FillFailure {
        Verdicts read = new Verdicts(batch.verdict(), batch.stage().verdict());
        for (Node line : batch.verdict().lines().nodes(scope)) {
            read.lines.add(read.line(line, scope));
        }
        List<OfRecord> all = read.said.byKey() ? read.byKey(items, run) : read.byPosition(items);
        if (!read.notes.isEmpty()) {
            note.accept(String.join("; ", read.notes));
        }
        return all;
    }

    private OfLine line(Node line, Scope scope) {
        Scope its = scope.with(BatchStage.LINE, line);
        try {
            String key = verdict.lineKey() == null
                    ? null
                    : verdict.lineKey().text(its).strip();
            boolean accepted = verdict.accepted().test(its);
            boolean refused =
                    verdict.refused() == null ? !accepted : verdict.refused().test(its);
            String reason = verdict.reason() == null || accepted && !refused
                    ? ""
                    : verdict.reason().text(its).strip();
            if (accepted == refused) {
                String odd = accepted ? "its line says both accepted and refused" : "its line says neither";
                return new OfLine(line, key, BatchStage.Said.IN_DOUBT, reason.isEmpty() ? odd : odd + ": " + reason);
            }
            return new OfLine(line, key, accepted ? BatchStage.Said.ACCEPTED : BatchStage.Said.REFUSED, reason);
        } catch (ExpressionProblem e) {
            return new OfLine(line, null, BatchStage.Said.IN_DOUBT, "its line cannot be understood: " + e.getMessage());
        }
    }

    private List<OfRecord> byPosition(List<Node> items) {
        List<OfRecord> all = new ArrayList<>();
        for (int i = 0; i < items.size(); i++) {
            all.add(of(i, i < lines.size() ? lines.get(i) : null));
        }
        if (lines.size() > items.size()) {
            notes.add("the reply has " + lines.size() + " lines for " + items.size() + " records");
        }
        return all;
    }

    private List<OfRecord> byKey(List<Node> items, Scope run) {
        Map<String, OfLine> byKey = new HashMap<>();
        for (OfLine line : lines) {
            if (line.key() != null) {
                byKey.merge(line.key(), line, Verdicts::both);
            }
        }
        Set<String> sent = new HashSet<>();
        List<OfRecord> all = new ArrayList<>();
        for (int i = 0; i < items.size(); i++) {
            String key = key(items.get(i), run);
            sent.add(key);
            all.add(of(i, key == null ? null : byKey.get(key)));
        }
        List<String> strange = lines.stream()
                .map(OfLine::key)
                .filter(key -> key != null && !sent.contains(key))
                .distinct()
                .toList();
        if (!strange.isEmpty()) {
            notes.add("the reply answers for what was not sent: "
                    + String.join(", ", strange.subList(0, Math.min(MOST_NAMED, strange.size())))
                    + (strange.size() > MOST_NAMED ? " and " + (strange.size() - MOST_NAMED) + " more" : ""));
        }
        return all;
    }

    private String key(Node item, Scope run) {
        return key(verdict, item, run);
    }

    /** Returns the key of a record by which its line is found, null when it cannot be made. */
    static String key(CompiledBatch.Verdict verdict, Node item, Scope run) {
        try {
            return verdict.itemKey()
                    .text(run.with(BatchStage.ITEM, item.named(Name.of(BatchStage.ITEM))))
                    .strip();
        } catch (ExpressionProblem e) {
            return null;
        }
    }

    /** Two lines for one key that differ are no answer. */
    private static OfLine both(OfLine one, OfLine other) {
        return one.end() == other.end()
                ? one
                : new OfLine(
                        one.node(),
                        one.key(),
                        BatchStage.Said.IN_DOUBT,
                        "the reply has two lines for it that differ: "
                                + one.end().word() + " and " + other.end().word());
    }

    private OfRecord of(int place, OfLine line) {
        BatchStage.Said end = line == null ? said.silent() : line.end();
        String reason = line != null ? line.reason() : "the reply has no line for it";
        Node.Builder node = Node.build(Name.of(said.as()))
                .add("position", Integer.toString(place + 1))
                .add("end", end.word())
                .add("reason", reason);
        if (line != null) {
            node.add(line.node().named(Name.of(BatchStage.LINE)));
        }
        return new OfRecord(end, reason, node.done());
    }
}
