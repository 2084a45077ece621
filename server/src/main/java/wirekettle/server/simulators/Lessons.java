package wirekettle.server.simulators;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.server.bench.BenchMapper;
import wirekettle.server.contracts.ContractMapper;
import wirekettle.server.flows.FlowMapper;
import wirekettle.server.ledger.LedgerMapper;
import wirekettle.server.ledger.RunMapper;
import wirekettle.server.web.Problem;

/** Finds what a simulator can learn from: calls of the bench, and what runs kept of their records. */
@ApplicationScoped
public class Lessons {
    @Inject
    BenchMapper benchCalls;

    @Inject
    RunMapper runs;

    @Inject
    LedgerMapper ledger;

    @Inject
    FlowMapper flows;

    @Inject
    ContractMapper contracts;

    /** An exchange with the operation it was of. */
    record Exchange(long contract, String port, String operation, String request, String reply, int status) {}

    /** Returns the exchange of a call, or of a record of a run; a problem says so when nothing was kept. */
    Exchange exchange(Long call, Long run, Long record) {
        if (call != null) {
            BenchMapper.Row row = benchCalls.byId(call);
            if (row == null || row.reply() == null) {
                throw new Problem(422, "nothing-to-learn", "This call has no reply to learn from.");
            }
            return new Exchange(
                    row.contractId(), row.port(), row.operation(), row.request(), row.reply(), row.status());
        }
        RunMapper.Row of = run == null ? null : runs.byId(run);
        LedgerMapper.ExchangeLine line = of == null || record == null
                ? null
                : ledger.exchanges(run, record).stream()
                        .filter(each -> each.reply() != null)
                        .findFirst()
                        .orElse(null);
        if (line == null || line.reply() == null) {
            throw new Problem(422, "nothing-to-learn", "No reply was kept for this record.");
        }
        FlowFile file = FlowFile.parse(flows.file(of.flowId(), of.flowRevision()));
        CallStage stage = file.stage(line.stage())
                .filter(CallStage.class::isInstance)
                .map(CallStage.class::cast)
                .orElseThrow(() -> new Problem(422, "nothing-to-learn", "The flow calls no operation."));
        ContractMapper.Row contract = contracts.byName(stage.contract());
        if (contract == null) {
            throw new Problem(422, "nothing-to-learn", "The contract “" + stage.contract() + "” is gone.");
        }
        // plain HTTP is kept with the whole address; the path behind it is what the operation has
        String request = line.request().replace(line.address(), "");
        return new Exchange(contract.id(), stage.port(), stage.operation(), request, line.reply(), line.status());
    }
}
