package wirekettle.server.runs;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Event;
import jakarta.inject.Inject;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import wirekettle.connect.SpooledRows;
import wirekettle.core.flow.run.EndpointGate;
import wirekettle.core.flow.run.FlowRun;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.flow.run.Requests;
import wirekettle.server.ledger.PostgresLedger;
import wirekettle.server.ledger.RunMapper;
import wirekettle.server.series.SeriesStore;
import wirekettle.server.web.Problem;

/** The runs going on at this server, and what people ask of them. What goes on at another is asked of that one. */
@ApplicationScoped
public class GoingRuns {
    private static final String CANCEL_TAKE = "cancel-take";
    private static final String FINISH = "finish";

    @Inject
    RunMapper runs;

    @Inject
    SeriesStore series;

    @Inject
    Event<RunEnded> ended;

    private final Map<Long, Going> going = new ConcurrentHashMap<>();

    /** A run going on. */
    private record Going(FlowRun run, PostgresLedger.OfRun books, List<EndpointGate> gates, RecordSource source) {
        /** A source that reads its rows into a file first waits no longer. */
        void stopReading() {
            if (source instanceof SpooledRows rows) {
                rows.stop();
            }
        }
    }

    void add(long id, FlowRun run, PostgresLedger.OfRun books, List<EndpointGate> gates, RecordSource source) {
        going.put(id, new Going(run, books, gates, source));
    }

    void remove(long id) {
        going.remove(id);
    }

    Set<Long> ids() {
        return going.keySet();
    }

    /** Does what was asked of a run at another server. */
    void heed(RunMapper.Wanted asked) {
        Going its = going.get(asked.id());
        if (its == null) {
            return;
        }
        if (asked.wanted().equals("pause")) {
            pause(its);
        } else if (asked.wanted().equals(FINISH)) {
            finish(its);
        } else {
            cancel(its, asked.wanted().equals(CANCEL_TAKE));
        }
    }

    /** What a run holds that does not go on by itself is given back. */
    void over(long id, String state) {
        if (!state.equals("paused") && !state.equals("interrupted")) {
            series.ended(id);
        }
    }

    /** Asks a run to end; what is done is kept, and takes the place of the earlier files only where told so. */
    public void cancel(long id, boolean takeResults) {
        Going its = going.get(id);
        if (its != null) {
            cancel(its, takeResults);
            return;
        }
        RunMapper.Row row = runs.byId(id);
        if (row.state().equals("paused") || row.state().equals("interrupted")) {
            over(id, "cancelled");
            runs.end(id, "cancelled", null);
            ended.fire(new RunEnded(id, "cancelled"));
        } else {
            runs.want(id, takeResults ? CANCEL_TAKE : "cancel");
        }
    }

    private static void cancel(Going its, boolean takeResults) {
        its.books().giveUp();
        its.run().cancel(takeResults);
        its.stopReading();
    }

    /** Asks a run to pause; what is on its way is waited for. */
    public void pause(long id) {
        Going its = going.get(id);
        if (its != null) {
            pause(its);
        } else if (runs.want(id, "pause") == 0) {
            throw new Problem(409, "not-running", "Run " + id + " does not run.");
        }
    }

    /** Lets a run of callers take nothing more: it is done once what came is answered, another begins with the next. */
    public void finish(long id) {
        if (!Runner.Begun.takes(runs.byId(id).begunBy())) {
            throw new Problem(409, "not-of-callers", "Run " + id + " ends with its records: cancel it, or pause it.");
        }
        Going its = going.get(id);
        if (its != null) {
            finish(its);
        } else if (runs.want(id, FINISH) == 0) {
            throw new Problem(409, "not-running", "Run " + id + " does not run.");
        }
    }

    private static void finish(Going its) {
        if (its.source() instanceof Requests callers) {
            callers.finish();
        }
    }

    private static void pause(Going its) {
        its.run().pause();
        its.stopReading();
    }

    /** Returns why a run does nothing at the moment, null when it does. */
    public String onHold(long id) {
        Going its = going.get(id);
        if (its == null) {
            return runs.heldFor(id);
        }
        if (its.books().away() != null) {
            return its.books().away();
        }
        return its.gates().stream()
                .map(EndpointGate::resting)
                .filter(why -> why != null)
                .findFirst()
                .orElse(null);
    }
}
