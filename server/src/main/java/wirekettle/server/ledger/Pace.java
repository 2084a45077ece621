package wirekettle.server.ledger;

import java.sql.Timestamp;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import wirekettle.core.flow.run.End;
import wirekettle.core.flow.run.LedgerLine;
import wirekettle.core.flow.run.Passage;
import wirekettle.server.web.Json;

/** How a run goes over time: counted while its ledger is written, so that nobody has to count the ledger. For one thread. */
final class Pace {
    /** A step, in seconds. */
    static final int STEP_SECONDS = 5;

    private static final int MOST_SLOW = 8;
    private static final String ADD =
            """
            insert into run_pace (run_id, at, ended, failed, calls, answered) values (?, ?, ?, ?, ?, ?)
            on conflict (run_id, at) do update set ended = run_pace.ended + excluded.ended,
                failed = run_pace.failed + excluded.failed, calls = run_pace.calls + excluded.calls,
                answered = add_arrays(run_pace.answered, excluded.answered)
            """;

    private final long run;
    private List<Slow> slowest;
    private List<Slow> then;

    /** A record whose calls took long. */
    record Slow(long ordinal, String key, long millis, int calls) {}

    Pace(long run, List<Slow> before) {
        this.run = run;
        this.slowest = before;
        this.then = before;
    }

    /** Counts records that ended, in the transaction that writes their lines. */
    void to(OneTrip trip, List<LedgerLine> lines) {
        if (lines.isEmpty()) {
            return;
        }
        Long[] answered = AnswerTimes.none();
        long failed = 0;
        long calls = 0;
        List<Slow> slow = new ArrayList<>(slowest);
        for (LedgerLine line : lines) {
            failed += line.end() == End.DONE || line.end() == End.LEFT_OUT ? 0 : 1;
            long millis = 0;
            int its = 0;
            for (Passage passage : line.passages()) {
                for (Passage.Attempt attempt : passage.attempts()) {
                    answered[AnswerTimes.place(attempt.millis())]++;
                    millis += attempt.millis();
                    its++;
                }
            }
            calls += its;
            boolean among = its > 0
                    && (slow.size() < MOST_SLOW
                            || millis > slow.get(slow.size() - 1).millis());
            if (among && line.ordinal() > 0) {
                slow.add(new Slow(line.ordinal(), LedgerTexts.clean(line.key()), millis, its));
                slow.sort(Comparator.comparingLong(Slow::millis).reversed());
                slow = new ArrayList<>(slow.subList(0, Math.min(MOST_SLOW, slow.size())));
            }
        }
        long second = Instant.now().getEpochSecond();
        Instant step = Instant.ofEpochSecond(second - second % STEP_SECONDS);
        OneTrip.Column times = new OneTrip.Column("bigint", answered);
        trip.add(ADD, run, Timestamp.from(step), (long) lines.size(), failed, calls, times);
        if (!slow.equals(slowest)) {
            trip.add("update run set slowest = ?::jsonb where id = ?", Json.write(slow), run);
        }
        then = slow;
    }

    /** What was counted last is durable. */
    void kept() {
        slowest = then;
    }
}
