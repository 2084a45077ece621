package wirekettle.server.runs;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import jakarta.transaction.Transactional;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.flow.run.LedgerLine;
import wirekettle.core.value.NodeWriter;
import wirekettle.server.web.Json;

/** Writes ledger lines, attempts, exchanges and the output's offset in one transaction. */
@ApplicationScoped
public class PostgresLedger {
    private static final int MOST_TEXT = 1 << 20;

    @Inject
    LedgerMapper ledger;

    @Inject
    RunMapper runs;

    /** Says that records up to an ordinal may have been sent. */
    @Transactional
    public void claim(long run, long ordinal) {
        runs.claim(run, ordinal);
    }

    /** Keeps a batch; durable when it returns. */
    @Transactional
    public void append(long run, List<LedgerLine> batch, long offset, long claimed) {
        List<Map<String, Object>> lines = new ArrayList<>(batch.size());
        List<Map<String, Object>> attempts = new ArrayList<>(batch.size());
        List<Map<String, Object>> exchanges = new ArrayList<>();
        for (LedgerLine line : batch) {
            lines.add(line(line));
            for (LedgerLine.Attempt attempt : line.attempts()) {
                Map<String, Object> row = new LinkedHashMap<>();
                row.put("ordinal", line.ordinal());
                row.put("number", attempt.number());
                row.put("startedAt", attempt.started().toString());
                row.put("millis", attempt.millis());
                row.put("status", attempt.status());
                row.put("sent", attempt.sent());
                row.put("failure", clean(attempt.failure()));
                attempts.add(row);
            }
            if (line.exchange() != null) {
                Map<String, Object> row = new LinkedHashMap<>();
                row.put("ordinal", line.ordinal());
                row.put("address", line.exchange().address());
                row.put("request", text(line.exchange().request()));
                row.put("status", line.exchange().status());
                row.put("reply", text(line.exchange().reply()));
                exchanges.add(row);
            }
        }
        ledger.addLines(run, Json.write(lines));
        if (!attempts.isEmpty()) {
            ledger.addAttempts(run, Json.write(attempts));
        }
        if (!exchanges.isEmpty()) {
            ledger.addExchanges(run, Json.write(exchanges));
        }
        runs.progress(run, offset, claimed);
    }

    private static Map<String, Object> line(LedgerLine line) {
        Map<String, Object> row = new LinkedHashMap<>();
        row.put("ordinal", line.ordinal());
        row.put("key", clean(line.key()));
        row.put("fingerprint", line.fingerprint());
        row.put("outcome", line.outcome().word());
        row.put("rows", line.rows());
        row.put(
                "failureClass",
                line.failureClass() == null ? null : line.failureClass().word());
        row.put("cause", clean(line.cause()));
        row.put("message", clean(line.message()));
        row.put("stage", line.stage());
        row.put("blame", line.blame());
        row.put("note", clean(line.note()));
        row.put("input", line.input() == null ? null : clean(NodeWriter.write(line.input(), false)));
        row.put("calls", line.attempts().size());
        return row;
    }

    private static String text(byte[] bytes) {
        if (bytes == null) {
            return null;
        }
        int length = Math.min(bytes.length, MOST_TEXT);
        return clean(new String(bytes, 0, length, StandardCharsets.UTF_8));
    }

    /** The database cannot hold the character U+0000. */
    private static String clean(String text) {
        return text == null ? null : text.replace('\u0000', '\uFFFD');
    }
}
