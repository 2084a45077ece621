package wirekettle.server.ledger;

import com.fasterxml.jackson.core.type.TypeReference;
import java.util.ArrayDeque;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.flow.run.Passage;
import wirekettle.core.flow.run.Past;
import wirekettle.core.flow.run.Replay;
import wirekettle.core.flow.run.Totals;
import wirekettle.server.web.Json;

/** What the ledger of a run knows from before; read on in the order of the input, a page at a time. */
public final class PostgresPast implements Past {
    private static final int PAGE = 5_000;

    private final LedgerMapper ledger;
    private final long run;
    private final Totals totals;
    private final Map<Long, OpenRecord> open = new HashMap<>();
    private final Map<String, Long> held = new LinkedHashMap<>();
    private final ArrayDeque<LedgerMapper.Ended> page = new ArrayDeque<>();
    private long after;
    private boolean last;

    /** Reads what a run had come to. */
    public PostgresPast(LedgerMapper ledger, PostgresLedger books, RunMapper.Row run) {
        this.ledger = ledger;
        this.run = run.id();
        Map<String, Totals.OfStage> stages = Json.read(run.stages(), new TypeReference<>() {});
        this.totals = new Totals(
                run.read(),
                List.of(run.done(), run.rejected(), run.leftOut(), run.inDoubt(), run.heldBack()),
                run.saved(),
                run.rows(),
                run.calls(),
                stages);
        for (LedgerMapper.Open each : ledger.open(this.run)) {
            OpenRecord known = open.computeIfAbsent(
                    each.ordinal(), o -> new OpenRecord(each.fingerprint(), Replay.of(books.opened(each.made()))));
            known.replay().claim(each.stage(), each.number());
            if (each.outcome().equals(Passage.Outcome.DONE.word())) {
                known.replay()
                        .passage(each.stage(), each.number(), each.reply() == null ? "" : books.opened(each.reply()));
            } else if (each.outcome().equals(Passage.Outcome.NOT_DONE.word())) {
                known.replay().passage(each.stage(), each.number(), null);
            }
        }
        ledger.held(this.run).forEach(each -> held.put(each.key(), each.ordinal()));
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
    public Totals totals() {
        return totals;
    }

    @Override
    public Map<String, Long> held() {
        return held;
    }
}
