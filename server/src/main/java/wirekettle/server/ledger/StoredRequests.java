package wirekettle.server.ledger;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.List;
import wirekettle.core.flow.run.Past;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.value.NodeReader;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/**
 * What callers had sent to a run that was interrupted: they are gone. What changed nothing yet ends rejected, what did
 * is gone on with.
 */
public final class StoredRequests implements RecordSource {
    private static final int PAGE = 500;

    private final RequestMapper requests;
    private final LedgerTexts texts;
    private final long run;
    private final Past past;
    private final Deque<RequestMapper.Row> page = new ArrayDeque<>();
    private long ordinal;

    /** Takes what was sent to a run, and what its ledger knows of it. */
    public StoredRequests(RequestMapper requests, LedgerTexts texts, long run, Past past) {
        this.requests = requests;
        this.texts = texts;
        this.run = run;
        this.past = past;
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
        String gone = past.open(ordinal) == null
                ? "the server stopped before anything was changed, and the caller is gone"
                : null;
        try {
            byte[] xml = texts.opened(row.input()).getBytes(StandardCharsets.UTF_8);
            return new Item(
                    NodeReader.read(new ByteArrayInputStream(xml), "request " + ordinal, XmlLimits.MESSAGES), gone);
        } catch (XmlProblem e) {
            throw new IOException("request " + ordinal + " cannot be read: " + e.sentence(), e);
        }
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
