package wirekettle.server.runs;

import io.quarkus.narayana.jta.QuarkusTransaction;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.StandIns;
import wirekettle.core.flow.run.FlowRun;
import wirekettle.core.flow.run.Past;
import wirekettle.server.flows.FlowContext;
import wirekettle.server.flows.FlowMapper;
import wirekettle.server.ledger.CorrectionMapper;
import wirekettle.server.ledger.LedgerMapper;
import wirekettle.server.ledger.LedgerTexts;
import wirekettle.server.ledger.PostgresPast;
import wirekettle.server.ledger.RunMapper;
import wirekettle.server.web.Problem;

/** Sends records of a run again in a run of their own, or asks what became of those in doubt. */
@ApplicationScoped
public class Resends {
    @Inject
    Runner runner;

    @Inject
    RunMapper runs;

    @Inject
    LedgerMapper lines;

    @Inject
    LedgerTexts texts;

    @Inject
    FlowMapper flows;

    @Inject
    CorrectionMapper corrections;

    @Inject
    FlowContext context;

    @Inject
    Leases leases;

    /**
     * Which records of a run are sent again, and how.
     *
     * @param cause only records that failed for this, null for all
     * @param ordinals only these, with what is held back behind them; empty for all
     * @param doubtful whether those in doubt are meant, to be asked about; else those rejected or held back
     * @param doneBefore what becomes of what they did before: {@link PostgresPast#KEPT} and its neighbours
     * @param revision another revision than the run's own, with its contracts; null for its own
     */
    public record Resend(
            String cause,
            List<Long> ordinals,
            boolean doubtful,
            String doneBefore,
            Integer revision,
            Map<String, Integer> contracts) {
        private String names() {
            return ordinals.stream().map(String::valueOf).collect(Collectors.joining(","));
        }

        private String causes() {
            return cause == null ? "%" : cause;
        }
    }

    /**
     * Sends records of a run again that are not done, in a run of its own, each from what it made and did; its rows are
     * added to the targets.
     */
    public long send(RunMapper.Row origin, Resend wanted, String by) throws IOException {
        int revision = wanted.revision() == null ? origin.flowRevision() : wanted.revision();
        Map<String, String> standIns = runner.standInsOf(origin.id());
        FlowFile file = StandIns.in(FlowFile.parse(flows.file(origin.flowId(), revision)), standIns);
        Map<String, Integer> contracts =
                wanted.revision() == null ? runner.contractsOf(origin.id()) : wanted.contracts();
        if (PostgresPast.TAKEN_BACK.equals(wanted.doneBefore())) {
            mustTakeBack(file);
        }
        CompiledFlow flow = runner.compiled(file, contracts);
        if (flow.source().stage().input() != null) {
            throw new Problem(
                    422,
                    "answers-callers",
                    "These records are what callers sent, and nobody waits for their answers any more: they have to be"
                            + " asked again. What is in doubt is resolved by hand.");
        }
        if (wanted.revision() == null) {
            runner.mustBeAsThen(flow, origin.id());
        }
        runner.mustReach(flow, origin.environment());
        long id = QuarkusTransaction.requiringNew().call(() -> picked(origin, revision, flow, wanted, by));
        Runner.Begun begun = new Runner.Begun("hand", null, origin.file() == null ? null : Path.of(origin.file()));
        runner.begun(id, flow, origin.environment(), begun, contracts, standIns);
        Past past = new PostgresPast(lines, texts, runs.byId(id));
        runner.go(id, flow, origin.environment(), past, Map.of(), FlowRun.Extent.ALL);
        return id;
    }

    private static void mustTakeBack(FlowFile file) {
        List<CallStage> left = file.irreversible();
        if (!left.isEmpty()) {
            throw new Problem(
                    422,
                    "no-undo",
                    "What " + left.get(0).operation() + " did cannot be taken back: the flow says nothing that reverses"
                            + " it alone. Keep what is done, or do it once more.");
        }
    }

    /** Picks the records for a new run, all or none: two people who ask at once do not both get them. */
    private long picked(RunMapper.Row origin, int revision, CompiledFlow flow, Resend wanted, String by) {
        runs.lock(origin.id());
        long id = runs.add(
                origin.flowId(),
                revision,
                runner.hashes(flow),
                origin.environment(),
                by,
                context.clock().instant(),
                0,
                0,
                false);
        runs.take(id, leases.holder());
        int picked = wanted.doubtful()
                ? lines.pickAskable(origin.id(), id, calls(flow.file()), wanted.causes(), wanted.names())
                : lines.pick(origin.id(), id, wanted.causes(), wanted.names());
        if (picked == 0) {
            throw new Problem(
                    409,
                    "nothing-open",
                    wanted.doubtful()
                            ? "Run " + origin.id() + " has no record in doubt left that a rule of its flow could ask"
                                    + " about: say by hand what became of them."
                            : "Run " + origin.id()
                                    + " has no rejected or held-back record left that was not sent again.");
        }
        runs.origin(id, origin.id(), picked, wanted.doneBefore());
        if (wanted.doubtful()) {
            corrections.countSettled(origin.id(), 0, picked);
        } else {
            runs.resent(origin.id(), lines.pickedOpen(id));
        }
        return id;
    }

    /** Returns how many records in doubt a rule of the run's flow can ask about. */
    public long askable(RunMapper.Row row, String cause) {
        FlowFile file = FlowFile.parse(flows.file(row.flowId(), row.flowRevision()));
        return file.asking().isEmpty() ? 0 : lines.askable(row.id(), calls(file), cause, "");
    }

    /** Tells whether everything a record of the run does can be taken back by a revision of its flow. */
    public boolean reversible(RunMapper.Row row, int revision) {
        return FlowFile.parse(flows.file(row.flowId(), revision)).irreversible().isEmpty();
    }

    private static String calls(FlowFile file) {
        return String.join(",", file.asking());
    }
}
