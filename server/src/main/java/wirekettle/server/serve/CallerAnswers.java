package wirekettle.server.serve;

import io.quarkus.narayana.jta.QuarkusTransaction;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.function.Predicate;
import wirekettle.core.flow.run.End;
import wirekettle.core.soap.FailureClass;
import wirekettle.server.ledger.KeptAnswerMapper;
import wirekettle.server.ledger.KeptAnswers;
import wirekettle.server.ledger.LedgerMapper;
import wirekettle.server.ledger.LedgerTexts;
import wirekettle.server.ledger.RequestMapper;
import wirekettle.server.ledger.RunMapper;

/** Keeps what callers send, and gives the answers they ask for later or once more. */
@ApplicationScoped
class CallerAnswers {
    private static final int NOT_KEPT = 503;
    /** More than are on their way at one time. */
    private static final int MOST_OWED = 2_500;
    /** The states of a run that does not go on. */
    private static final Set<String> OVER = Set.of("done", "cancelled", "stopped");

    @Inject
    RequestMapper requests;

    @Inject
    KeptAnswerMapper kept;

    @Inject
    KeptAnswers answers;

    @Inject
    LedgerMapper lines;

    @Inject
    RunMapper runs;

    @Inject
    LedgerTexts texts;

    /**
     * Keeps what was sent, all of it or nothing; what a caller has sent before under the same name is not taken again.
     *
     * @param first the place in the run of the first that is taken
     * @return for each null where it was taken, else what the caller gets
     */
    List<Reply> keep(long trigger, long run, long first, List<Asked> sent) {
        return QuarkusTransaction.requiringNew().call(() -> kept(trigger, run, first, sent));
    }

    private List<Reply> kept(long trigger, long run, long first, List<Asked> sent) {
        List<Reply> replies = new ArrayList<>();
        List<RequestMapper.Row> rows = new ArrayList<>();
        Map<String, Asked> together = new HashMap<>();
        for (Asked each : sent) {
            Reply known = each.named() == null ? null : known(trigger, each, together);
            replies.add(known);
            if (known == null) {
                long ordinal = first + rows.size();
                rows.add(new RequestMapper.Row(ordinal, texts.sealed(each.written()), each.problem()));
                if (each.kept()) {
                    kept.add(new KeptAnswerMapper.Row(
                            each.place(),
                            trigger,
                            each.caller(),
                            each.named(),
                            each.hash(),
                            each.later(),
                            run,
                            ordinal,
                            null,
                            each.replyTo(),
                            each.correlation()));
                }
            }
        }
        if (!rows.isEmpty()) {
            requests.keep(run, rows);
        }
        return replies;
    }

    private Reply known(long trigger, Asked asked, Map<String, Asked> together) {
        Asked beside = together.putIfAbsent(asked.caller() + "\n" + asked.named(), asked);
        if (beside != null) {
            return !beside.hash().equals(asked.hash())
                    ? another()
                    : beside.later() ? Reply.taken(Asked.answer(beside.address(), beside.place()), "") : going();
        }
        KeptAnswerMapper.Row row = kept.named(trigger, asked.caller(), asked.named());
        if (row == null) {
            return null;
        }
        if (!row.sent().equals(asked.hash())) {
            return another();
        }
        Reply reply = ended(row);
        if (reply == null) {
            return row.later() ? Reply.taken(Asked.answer(asked.address(), row.place()), record(row)) : going();
        }
        if (reply.status() == NOT_KEPT) {
            // nothing was done: it may be tried again
            kept.forget(row.place());
            return null;
        }
        return reply.with("Wire-Kettle-Again", "true");
    }

    private static Reply going() {
        return Reply.problem(409, "still-going", "What was sent under this Idempotency-Key is worked on.")
                .with("Retry-After", "1");
    }

    private static Reply another() {
        return Reply.problem(409, "another-body", "Something else was sent under this Idempotency-Key before.");
    }

    /** Returns the answer at a place of those of a caller. */
    Reply at(long trigger, String caller, String address, String place) {
        KeptAnswerMapper.Row row = kept.at(trigger, place);
        if (row == null || !row.caller().equals(caller)) {
            return Reply.problem(404, "no-answer", "There is no such answer, or it is not kept any more.");
        }
        Reply reply = ended(row);
        return reply == null ? Reply.taken(Asked.answer(address, place), record(row)) : reply;
    }

    /**
     * Returns answers of a trigger's messages that have to be sent; of one whose run was cancelled, that it was.
     *
     * @param most how many at most
     * @param passed tells which places are passed over
     */
    List<QueueAnswers.Owed> owed(long trigger, int most, Predicate<String> passed) {
        List<QueueAnswers.Owed> owed = new ArrayList<>();
        for (KeptAnswerMapper.Row row : kept.owed(trigger, MOST_OWED)) {
            Reply reply = passed.test(row.place()) ? null : ended(row);
            if (reply != null) {
                owed.add(new QueueAnswers.Owed(row.place(), row.replyTo(), row.correlation(), reply));
            }
            if (owed.size() == most) {
                break;
            }
        }
        return owed;
    }

    /** Notes that answers were sent. */
    void sent(List<String> places) {
        kept.replied(places);
    }

    void forget(Asked asked) {
        if (asked.kept()) {
            kept.forget(asked.place());
        }
    }

    private Reply ended(KeptAnswerMapper.Row row) {
        LedgerMapper.Line line = lines.line(row.run(), row.ordinal());
        if (line == null) {
            return OVER.contains(runs.byId(row.run()).state()) ? Reply.stopped() : null;
        }
        End end = End.valueOf(constant(line.ended()));
        Reply.Why why = line.failureClass() == null
                ? null
                : new Reply.Why(FailureClass.valueOf(constant(line.failureClass())), line.cause(), line.message());
        return Reply.of(end, why, answers.answer(row), record(row));
    }

    private static String record(KeptAnswerMapper.Row row) {
        return row.run() + "/" + row.ordinal();
    }

    private static String constant(String word) {
        return word.toUpperCase(Locale.ROOT).replace('-', '_');
    }
}
