package wirekettle.server.ledger;

import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import wirekettle.core.flow.run.BatchPlace;
import wirekettle.core.flow.run.DrawnNumber;
import wirekettle.core.flow.run.End;
import wirekettle.core.flow.run.KeptNode;
import wirekettle.core.flow.run.LedgerLine;
import wirekettle.core.flow.run.Passage;
import wirekettle.core.flow.run.Replay;
import wirekettle.core.value.NodeWriter;
import wirekettle.server.web.Json;

/** What is written of records that have ended: their ends, what they did, and what becomes of their numbers. */
final class EndRows {
    private static final String ENDS =
            """
            with new as (
                insert into record_end (month, run_id, ordinal, key, fingerprint, ended, rows, failure_class, cause,
                    message, stage, blame, note, saved, input, calls, entered, items, batches,
                    verdicts, numbers, carried)
                select m.month, ?, e.* from (select month_of(started_at) as month from run where id = ?) m,
                    unnest(?::bigint[], ?::text[], ?::text[], ?::text[], ?::int[], ?::text[], ?::text[], ?::text[],
                        ?::text[], ?::text[], ?::text[], ?::boolean[], ?::text[], ?::int[], ?::text[], ?::text[],
                        ?::text[], ?::bytea[], ?::text[], ?::bytea[]) as e
                on conflict do nothing
                returning run_id, ordinal, failure_class, cause, ended, stage, blame)
            insert into run_cause (run_id, failure_class, cause, ended, stage, blame, count)
            select run_id, coalesce(failure_class, ''), cause, ended, min(stage), min(blame), count(*) from new
            where cause is not null and ordinal > 0 group by run_id, coalesce(failure_class, ''), cause, ended
            on conflict (run_id, failure_class, cause, ended) do update set count = run_cause.count + excluded.count
            """;
    /** What was claimed for a batch is needed by its other records, and stays. */
    private static final String PASSAGES =
            """
            insert into passage (month, run_id, ordinal, path, stage, number, outcome, changes)
            select m.month, ?, p.* from (select month_of(started_at) as month from run where id = ?) m,
                unnest(?::bigint[], ?::text[], ?::text[], ?::int[], ?::text[], ?::boolean[]) as p
            on conflict (month, run_id, ordinal, path, stage, number) do update set outcome = excluded.outcome,
                made = case when passage.last_member is null then null else passage.made end,
                reply = case when passage.last_member is null then null else passage.reply end
            """;
    /** Of a record that was not done what it made and did stays: it may be sent again from there. */
    private static final String PASSAGES_LEFT =
            """
            insert into passage (month, run_id, ordinal, path, stage, number, outcome, changes)
            select m.month, ?, p.* from (select month_of(started_at) as month from run where id = ?) m,
                unnest(?::bigint[], ?::text[], ?::text[], ?::int[], ?::text[], ?::boolean[]) as p
            on conflict (month, run_id, ordinal, path, stage, number) do update set outcome = excluded.outcome
            """;

    private static final String ATTEMPTS =
            """
            insert into passage_attempt (month, run_id, ordinal, path, stage, number, attempt, started_at, millis, status, sent,
                failure)
            select m.month, ?, a.* from (select month_of(started_at) as month from run where id = ?) m,
                unnest(?::bigint[], ?::text[], ?::text[], ?::int[], ?::int[], ?::timestamptz[], ?::bigint[], ?::int[],
                    ?::boolean[], ?::text[]) as a
            on conflict do nothing
            """;
    private static final String EXCHANGES =
            """
            insert into passage_exchange (month, run_id, ordinal, path, stage, number, address, request, status, reply)
            select m.month, ?, x.* from (select month_of(started_at) as month from run where id = ?) m,
                unnest(?::bigint[], ?::text[], ?::text[], ?::int[], ?::text[], ?::text[], ?::int[], ?::text[]) as x
            on conflict do nothing
            """;
    private static final String OF_PLACES =
            """
             (select ?::bigint as run_id, ?::bigint as same) r,
                unnest(?::bigint[], ?::text[], ?::text[], ?::text[]) as d(ordinal, path, stage, series), series s
            where s.name = d.series and n.series_id = s.id and n.run_id = r.run_id and n.ordinal = d.ordinal
                and n.path = d.path and n.stage = d.stage
            """;
    private static final String GIVEN_BACK =
            "update series_number n set run_id = null, ordinal = null, path = null, stage = null from" + OF_PLACES;
    private static final String USED = "delete from series_number n using" + OF_PLACES;

    private final LedgerTexts texts;
    private final ArrayRows ends;
    private final ArrayRows passages;
    private final ArrayRows left;
    private final ArrayRows attempts;
    private final ArrayRows exchanges;
    private final ArrayRows givenBack;
    private final ArrayRows used;

    /** Collects what is said of records of a run. */
    EndRows(long run, LedgerTexts texts) {
        this.texts = texts;
        ends = new ArrayRows(
                run,
                ENDS,
                "bigint text text text int text text text text text text boolean text int text text text bytea text"
                        + " bytea");
        passages = new ArrayRows(run, PASSAGES, "bigint text text int text boolean");
        left = new ArrayRows(run, PASSAGES_LEFT, "bigint text text int text boolean");
        attempts = new ArrayRows(run, ATTEMPTS, "bigint text text int int timestamptz bigint int boolean text");
        exchanges = new ArrayRows(run, EXCHANGES, "bigint text text int text text int text");
        givenBack = new ArrayRows(run, GIVEN_BACK, "bigint text text text");
        used = new ArrayRows(run, USED, "bigint text text text");
    }

    /** Adds what is said of one record. */
    void add(LedgerLine line) {
        end(line);
        boolean over = line.end() == End.DONE || line.end() == End.LEFT_OUT;
        for (Passage passage : line.passages()) {
            passage(over ? passages : left, line.ordinal(), passage);
        }
        numbers(line, DrawnNumber.Fate.GIVEN_BACK, givenBack);
        numbers(line, DrawnNumber.Fate.USED, used);
    }

    /** Adds all of it to what is written together. */
    void to(OneTrip trip) {
        for (ArrayRows each : List.of(passages, left, attempts, exchanges, ends, givenBack, used)) {
            each.to(trip);
        }
    }

    /** Settles the numbers of gapless series with the ends of their records. */
    private static void numbers(LedgerLine line, DrawnNumber.Fate fate, ArrayRows into) {
        for (DrawnNumber number : line.numbers(fate)) {
            into.row(
                    line.ordinal(),
                    number.path(),
                    number.stage(),
                    number.series().name());
        }
    }

    private void end(LedgerLine line) {
        var failure = line.failure();
        boolean over = line.end() == End.DONE || line.end() == End.LEFT_OUT;
        Map<String, String> verdicts = Replay.verdicts(line);
        ends.row(
                line.ordinal(),
                LedgerTexts.clean(line.key()),
                line.fingerprint(),
                line.end().word(),
                line.rows(),
                failure == null ? null : failure.failureClass().word(),
                failure == null ? null : LedgerTexts.clean(failure.cause()),
                failure == null ? null : LedgerTexts.clean(failure.message()),
                line.stage(),
                failure == null ? null : LedgerTexts.clean(failure.blame()),
                LedgerTexts.clean(line.note()),
                line.saved(),
                line.input() == null ? null : LedgerTexts.clean(NodeWriter.write(line.input(), false)),
                line.calls(),
                stages(line.entered()),
                line.items().isEmpty() ? null : LedgerTexts.clean(Json.write(line.items())),
                line.batches().isEmpty() ? null : Json.write(places(line.batches())),
                over || verdicts.isEmpty() ? null : texts.sealed(Json.write(verdicts)),
                line.numbers().isEmpty() ? null : LedgerTexts.clean(Json.write(drawn(line.numbers()))),
                line.carried() == null ? null : texts.sealed(KeptNode.write(line.carried())));
    }

    private static List<LedgerMapper.NumberLine> drawn(List<DrawnNumber> numbers) {
        return numbers.stream()
                .map(each -> new LedgerMapper.NumberLine(
                        each.series().name(),
                        each.series().text(each.number(), each.year()),
                        each.path(),
                        each.stage(),
                        each.fate() == DrawnNumber.Fate.GIVEN_BACK
                                && each.series().gapless()))
                .toList();
    }

    private static List<LedgerMapper.BatchLine> places(List<BatchPlace> batches) {
        return batches.stream()
                .map(each -> new LedgerMapper.BatchLine(
                        each.stage(), each.first(), each.path(), each.position(), each.of(), each.said()))
                .toList();
    }

    /** The stages a record came to, each once: with its items it may have come to one many times. */
    private static String stages(int[] stages) {
        return IntStream.of(stages).distinct().mapToObj(Integer::toString).collect(Collectors.joining(" "));
    }

    private void passage(ArrayRows into, long ordinal, Passage passage) {
        String path = passage.effect().path();
        String stage = passage.effect().stage();
        int number = passage.effect().number();
        into.row(ordinal, path, stage, number, passage.outcome().word(), passage.changes());
        for (Passage.Attempt attempt : passage.attempts()) {
            attempts.row(
                    ordinal,
                    path,
                    stage,
                    number,
                    attempt.number(),
                    attempt.started().toString(),
                    attempt.millis(),
                    attempt.status(),
                    attempt.sent(),
                    LedgerTexts.clean(attempt.failure()));
        }
        Passage.Exchange exchange = passage.exchange();
        if (exchange != null) {
            exchanges.row(
                    ordinal,
                    path,
                    stage,
                    number,
                    exchange.address(),
                    LedgerTexts.text(exchange.request()),
                    exchange.status(),
                    LedgerTexts.text(exchange.reply()));
        }
    }
}
