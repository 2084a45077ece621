package wirekettle.core.flow.run;

import java.math.BigDecimal;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Scope;
import wirekettle.core.flow.compile.CompiledRead;
import wirekettle.core.value.Node;

/**
 * How far a source was read by the records that have an end. It moves with them as long as they come in its order; when
 * one comes that is behind it, it waits for the end of the run.
 */
final class Watermark {
    private final CompiledRead read;
    private final Map<Long, String> waiting = new ConcurrentHashMap<>();
    private String greatest;
    private volatile boolean outOfOrder;
    private String moved;

    Watermark(CompiledRead read) {
        this.read = read;
    }

    /**
     * Notes a record as it is read.
     *
     * @param ended whether it ended in an earlier part of the run
     */
    void reads(long ordinal, Node record, boolean ended) {
        if (record == null) {
            return;
        }
        String its;
        try {
            its = read.watermark()
                    .text(Scope.empty().with(read.stage().as(), record))
                    .strip();
        } catch (ExpressionProblem e) {
            return; // it says nothing of how far one has come
        }
        if (its.isEmpty()) {
            return;
        }
        outOfOrder |= greatest != null && compared(its, greatest) < 0;
        greatest = greatest == null || compared(its, greatest) > 0 ? its : greatest;
        if (!ended) {
            waiting.put(ordinal, its);
        }
    }

    /** Returns how far it was read with records that ended, in their order; null when that is nothing new. */
    String ended(List<LedgerLine> lines) {
        String now = null;
        for (LedgerLine line : lines) {
            String its = waiting.remove(line.ordinal());
            now = its == null ? now : its;
        }
        if (now == null || outOfOrder || now.equals(moved)) {
            return null;
        }
        moved = now;
        return now;
    }

    /**
     * Returns how far it was read once everything that was read has an end; null when that is nothing new.
     *
     * @param all whether there was nothing more to read
     */
    String over(boolean all) {
        return outOfOrder && !all || greatest == null || greatest.equals(moved) ? null : greatest;
    }

    /** Numbers are compared as numbers, everything else as texts. */
    static int compared(String a, String b) {
        try {
            return new BigDecimal(a).compareTo(new BigDecimal(b));
        } catch (NumberFormatException e) {
            return a.compareTo(b);
        }
    }
}
