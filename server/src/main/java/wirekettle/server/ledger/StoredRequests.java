package wirekettle.server.ledger;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.List;
import java.util.Map;
import wirekettle.core.flow.run.Answer;
import wirekettle.core.flow.run.Answered;
import wirekettle.core.flow.run.LedgerLine;
import wirekettle.core.flow.run.Past;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.value.NodeReader;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/**
 * What callers had sent to a run that was interrupted. Who waited is gone: what changed nothing yet ends rejected, what
 * did is gone on with, and so is what is asked for later.
 */
public final class StoredRequests implements RecordSource, Answered {
    private static final int PAGE = 500;

    private final RequestMapper requests;
    private final LedgerTexts texts;
    private final KeptAnswers answers;
    private final long run;
    private final Past past;
    private final Map<Long, KeptAnswerMapper.Row> kept;
    private final Deque<RequestMapper.Row> page = new ArrayDeque<>();
    private long ordinal;

    /** Takes what was sent to a run, and what its ledger knows of it. */
    public StoredRequests(RequestMapper requests, LedgerTexts texts, KeptAnswers answers, long run, Past past) {
        this.requests = requests;
        this.texts = texts;
        this.answers = answers;
        this.run = run;
        this.past = past;
        this.kept = answers.open(run);
    }

    @Override
    public Item next() throws IOException {
        if (page.isEmpty()) {
            List<RequestMapper.Row> more = requests.after(run, ordinal, PAGE);
            if (more.isEmpty()) {
                return null;
            }
            page.addAll(more);
        }
        RequestMapper.Row row = page.removeFirst();
        ordinal = row.ordinal();
        try {
            byte[] xml = texts.opened(row.input()).getBytes(StandardCharsets.UTF_8);
            return new Item(
                    NodeReader.read(new ByteArrayInputStream(xml), "request " + ordinal, XmlLimits.MESSAGES),
                    row.problem() == null ? gone() : row.problem());
        } catch (XmlProblem e) {
            throw new IOException("request " + ordinal + " cannot be read: " + e.sentence(), e);
        }
    }

    private String gone() throws IOException {
        KeptAnswerMapper.Row its = kept.get(ordinal);
        boolean asked = its != null && its.later();
        if (past.open(ordinal) != null || asked) {
            return null;
        }
        if (its != null) {
            // nothing was done: its caller may send it again under the same name
            answers.forget(its);
        }
        return "the server stopped before anything was changed, and the caller is gone";
    }

    @Override
    public void ending(List<Ending> endings) throws IOException {
        List<Ending> its = endings.stream()
                .filter(each -> kept.containsKey(each.line().ordinal()))
                .toList();
        if (!its.isEmpty()) {
            answers.of(run).keep(its);
        }
    }

    @Override
    public void ended(LedgerLine line, Answer answer) {
        // nobody waits
    }

    @Override
    public long size() {
        return -1;
    }

    @Override
    public String name() {
        return "requests";
    }

    @Override
    public void close() {}
}
