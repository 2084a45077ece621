package wirekettle.server.ledger;

import com.fasterxml.jackson.core.type.TypeReference;
import io.quarkus.narayana.jta.QuarkusTransaction;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import wirekettle.core.flow.run.Answer;
import wirekettle.core.flow.run.Answered;
import wirekettle.server.web.Json;
import wirekettle.server.web.Problems;

/** Keeps answers for callers who ask later. */
@ApplicationScoped
public class KeptAnswers {
    @Inject
    KeptAnswerMapper mapper;

    @Inject
    LedgerTexts texts;

    /** Returns what keeps the answers of a run. */
    public Answered.Keeper of(long run) {
        return endings -> keep(run, endings);
    }

    /** A database that is away is waited for, as the ledger does. */
    private void keep(long run, List<Answered.Ending> endings) throws IOException {
        Patience patience = new Patience();
        while (true) {
            try {
                QuarkusTransaction.requiringNew()
                        .run(() -> endings.forEach(each ->
                                mapper.answered(run, each.line().ordinal(), texts.sealed(Json.write(each.answer())))));
                return;
            } catch (RuntimeException e) {
                if (!Problems.databaseAway(e) || patience.over()) {
                    throw new IOException("answers could not be kept: " + e.getMessage(), e);
                }
                patience.pause();
            }
        }
    }

    /** Returns what the flow answered, null where it said nothing. */
    public Answer answer(KeptAnswerMapper.Row row) {
        return row.answer() == null ? null : Json.read(texts.opened(row.answer()), new TypeReference<>() {});
    }

    /** Returns what of a run has a place for its answer and none yet, by ordinals. */
    Map<Long, KeptAnswerMapper.Row> open(long run) {
        return mapper.open(run).stream().collect(Collectors.toMap(KeptAnswerMapper.Row::ordinal, row -> row));
    }

    void forget(KeptAnswerMapper.Row row) {
        mapper.forget(row.place());
    }
}
