package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.LinkedHashMap;
import java.util.Map;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Scope;
import wirekettle.core.flow.compile.CompiledRead;
import wirekettle.core.flow.compile.CompiledValue;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/**
 * What records hand on to the next one of their key. The keys seen last are held in memory; of others the ledger is
 * asked. Safe for several threads.
 */
final class CarryOver {
    private static final int MOST = 20_000;

    private final CompiledRead read;
    private final Past past;
    private boolean forgot;
    private final Map<String, Node> known = new LinkedHashMap<>(256, 0.75f, true) {
        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Node> eldest) {
            boolean over = past.carries() && size() > MOST;
            forgot |= over;
            return over;
        }
    };

    CarryOver(CompiledRead read, Past past) {
        this.read = read;
        this.past = past;
        this.forgot = past.carries() && (past.totals().read() > 0 || past.picked() != null);
    }

    /** Returns what the record before one of a key handed on; null when there is none. */
    synchronized Node before(String key, long ordinal) throws IOException {
        if (key == null || key.isBlank()) {
            return null;
        }
        Node carried = known.get(key);
        if (carried == null && forgot) {
            carried = past.carried(key, ordinal);
            if (carried != null) {
                known.put(key, carried);
            }
        }
        return carried;
    }

    /** Takes what a record hands on whose end is durable. */
    synchronized void ended(LedgerLine line) {
        if (line.carried() != null) {
            known.put(line.key(), line.carried());
        }
    }

    /** Returns what a record that is done hands on. */
    static Node of(CompiledRead read, Scope scope) {
        Node.Builder node = Node.build(Name.of(read.stage().carry().as()));
        for (CompiledValue value : read.carried()) {
            try {
                node.add(value.name(), value.of().text(scope));
            } catch (ExpressionProblem e) {
                // what cannot be said is not handed on
            }
        }
        return node.done();
    }
}
