package wirekettle.server.ledger;

import com.fasterxml.jackson.core.type.TypeReference;
import java.io.IOException;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.flow.run.Effect;
import wirekettle.core.flow.run.KeptNode;
import wirekettle.core.flow.run.Passage;
import wirekettle.core.flow.run.Past;
import wirekettle.core.flow.run.Replay;
import wirekettle.core.flow.run.Totals;
import wirekettle.core.value.FieldEdits;
import wirekettle.core.value.Node;
import wirekettle.core.xml.XmlProblem;
import wirekettle.server.web.Json;

/** What the ledger of a run knows from before; read on in the order of the input, a page at a time. */
public final class PostgresPast implements Past {
    /** What records sent again did before stays done. */
    public static final String KEPT = "kept";

    /** It is done once more. */
    public static final String ANEW = "anew";

    /** It is taken back first. */
    public static final String TAKEN_BACK = "taken-back";

    private static final int PAGE = 5_000;

    private final LedgerMapper ledger;
    private final LedgerTexts texts;
    private final long run;
    private final Totals totals;
    private final Map<Long, OpenRecord> open = new HashMap<>();
    private final Map<Long, OpenRecord> once = new HashMap<>();
    private final Map<Long, OpenRecord> back = new HashMap<>();
    private final Set<Long> over = new HashSet<>();
    private final Map<String, Long> held = new LinkedHashMap<>();
    private final List<Long> picked;
    private final Map<Long, String> seen = new HashMap<>();
    private final Map<Long, Map<String, String>> edits = new HashMap<>();
    private final ArrayDeque<LedgerMapper.Ended> page = new ArrayDeque<>();
    private long after;
    private boolean last;

    /** Reads what a run had come to. */
    public PostgresPast(LedgerMapper ledger, LedgerTexts texts, RunMapper.Row run) {
        this.ledger = ledger;
        this.texts = texts;
        this.run = run.id();
        Map<String, Totals.OfStage> stages = Json.read(run.stages(), new TypeReference<>() {});
        this.totals = new Totals(
                run.read(),
                List.of(run.done(), run.rejected(), run.leftOut(), run.inDoubt(), run.heldBack()),
                run.saved(),
                run.rows(),
                run.calls(),
                stages,
                run.sums() == null ? Map.of() : Json.read(run.sums(), new TypeReference<>() {}));
        if (run.originRun() != null) {
            // a record sent again begins with what its origin made and did
            ledger.before(this.run).forEach(each -> takeEarlier(texts, each, open));
            open.values().forEach(each -> each.replay().beginAnew());
            for (LedgerMapper.Numbered each : ledger.numbered(this.run)) {
                OpenRecord known = open.get(each.ordinal());
                List<LedgerMapper.NumberLine> numbers =
                        known == null ? List.of() : Json.read(each.numbers(), new TypeReference<>() {});
                numbers.stream().filter(LedgerMapper.NumberLine::givenBack).forEach(number -> known.replay()
                        .givesBack(number.path(), number.stage()));
            }
            List<LedgerMapper.Picked> again = ledger.picked(this.run);
            again.forEach(each -> seen.put(each.ordinal(), each.fingerprint()));
            for (LedgerMapper.Accepted each : ledger.accepted(this.run)) {
                open.computeIfAbsent(each.ordinal(), ordinal -> OpenRecord.bare(seen.get(ordinal)))
                        .replay()
                        .accepts(Json.read(texts.opened(each.verdicts()), new TypeReference<>() {}));
            }
            picked = again.stream().map(LedgerMapper.Picked::place).toList();
            correct(run.doneBefore());
        } else {
            picked = null;
        }
        Map<Long, OpenRecord> ended = new HashMap<>();
        for (LedgerMapper.Open each : ledger.open(this.run)) {
            Map<Long, OpenRecord> its = each.ordinal() < 1 ? once : each.ended() ? ended : open;
            take(texts, each, new Effect(each.path(), each.stage(), each.number()).undoesEarlier() ? back : its);
        }
        List<OpenRecord> claimed = new ArrayList<>(open.values());
        claimed.addAll(ended.values());
        long last = run.done() + run.rejected() + run.leftOut() + run.inDoubt() + run.heldBack();
        OpenRecord.batches(claimed, open, ordinal -> ordinal <= last);
        over.addAll(ledger.over(this.run));
        ledger.held(this.run).forEach(each -> held.put(each.key(), each.ordinal()));
    }

    /**
     * Takes what was changed in records that are sent again; where what they did is done anew or taken back first,
     * nothing of it is known when they go their way.
     */
    private void correct(String doneBefore) {
        for (LedgerMapper.Edited each : ledger.edited(run)) {
            Map<String, String> fields = Json.read(each.fields(), new TypeReference<>() {});
            edits.computeIfAbsent(each.ordinal(), ordinal -> new HashMap<>()).putAll(fields);
        }
        for (Long ordinal : List.copyOf(open.keySet())) {
            if (KEPT.equals(doneBefore)) {
                if (edits.containsKey(ordinal)) {
                    open.get(ordinal).replay().corrected();
                }
                continue;
            }
            OpenRecord before = open.put(ordinal, OpenRecord.bare(seen.get(ordinal)));
            if (TAKEN_BACK.equals(doneBefore) && before.replay().did()) {
                back.put(ordinal, before);
            }
        }
    }

    @Override
    public Replay takesBack(long ordinal) {
        OpenRecord before = back.get(ordinal);
        return before == null ? null : before.replay();
    }

    @Override
    public Node corrected(long ordinal, Node given) {
        Map<String, String> fields = edits.get(ordinal);
        return fields == null ? given : FieldEdits.applied(given, fields);
    }

    /** Takes what an earlier run says of a record: what was in doubt may have been settled since as not done. */
    private static void takeEarlier(LedgerTexts texts, LedgerMapper.Open each, Map<Long, OpenRecord> into) {
        if (each.made() != null) {
            take(texts, each, into);
        }
        OpenRecord known = into.get(each.ordinal());
        boolean asked = each.outcome().equals(Passage.Outcome.IN_DOUBT.word()) && !each.settled();
        boolean nothing = !each.outcome().equals(Passage.Outcome.DONE.word()) && !asked;
        if (known != null && nothing) {
            known.replay().passage(new Effect(each.path(), each.stage(), each.number()), null);
        }
    }

    private static void take(LedgerTexts texts, LedgerMapper.Open each, Map<Long, OpenRecord> into) {
        Effect effect = new Effect(each.path(), each.stage(), each.number());
        OpenRecord known =
                OpenRecord.claimed(into.get(each.ordinal()), each.fingerprint(), effect, texts.opened(each.made()));
        into.put(each.ordinal(), known);
        boolean nothing = each.outcome().equals(Passage.Outcome.NOT_DONE.word())
                || each.outcome().equals(Passage.Outcome.UNDONE.word());
        if (each.outcome().equals(Passage.Outcome.DONE.word())) {
            known.replay().passage(effect, each.reply() == null ? "" : texts.opened(each.reply()));
        } else if (nothing) {
            known.replay().passage(effect, null);
        }
    }

    @Override
    public String ended(long ordinal) {
        while (!last && (page.isEmpty() || page.getLast().ordinal() < ordinal)) {
            page.clear();
            page.addAll(ledger.ended(run, Math.max(after, ordinal - 1), PAGE));
            last = page.isEmpty();
            after = last ? after : page.getLast().ordinal();
        }
        while (!page.isEmpty() && page.getFirst().ordinal() < ordinal) {
            page.removeFirst();
        }
        boolean its = !page.isEmpty() && page.getFirst().ordinal() == ordinal;
        return its ? page.getFirst().fingerprint() : null;
    }

    @Override
    public OpenRecord open(long ordinal) {
        return open.get(ordinal);
    }

    @Override
    public Once once(long ordinal) {
        return new Once(once.get(ordinal), over.contains(ordinal));
    }

    @Override
    public List<Long> picked() {
        return picked;
    }

    @Override
    public String seen(long ordinal) {
        return seen.get(ordinal);
    }

    @Override
    public Totals totals() {
        return totals;
    }

    /** Returns what is known of a run that begins. */
    public static Past beginning(LedgerMapper ledger, LedgerTexts texts, long run) {
        return new Past() {
            @Override
            public String ended(long ordinal) {
                return null;
            }

            @Override
            public OpenRecord open(long ordinal) {
                return null;
            }

            @Override
            public Totals totals() {
                return Totals.NONE;
            }

            @Override
            public boolean carries() {
                return true;
            }

            @Override
            public Node carried(String key, long ordinal) throws IOException {
                return PostgresPast.carried(ledger, texts, run, key, ordinal);
            }
        };
    }

    @Override
    public boolean carries() {
        return true;
    }

    @Override
    public Node carried(String key, long ordinal) throws IOException {
        return carried(ledger, texts, run, key, ordinal);
    }

    private static Node carried(LedgerMapper ledger, LedgerTexts texts, long run, String key, long ordinal)
            throws IOException {
        LedgerMapper.Carried sealed = ledger.carried(run, key, ordinal);
        try {
            return sealed == null ? null : KeptNode.read(texts.opened(sealed.carried()));
        } catch (XmlProblem e) {
            throw new IOException("what a record of the key handed on is damaged: " + e.getMessage(), e);
        }
    }

    @Override
    public Map<String, Long> held() {
        return held;
    }
}
