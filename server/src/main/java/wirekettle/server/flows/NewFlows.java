package wirekettle.server.flows;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Stage;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.settings.Endpoints;

/** The first stages of a new flow, from a dataset and an operation. */
final class NewFlows {
    private NewFlows() {}

    static FlowFile of(String name, FlowResource.NewFlow given, Endpoints endpoints, ContractStore contracts) {
        List<Stage> stages = new ArrayList<>();
        String as = given.dataset() == null ? "record" : variable(given.dataset());
        stages.add(new Stage.Read("read", given.dataset(), as, null));
        Contract contract = given.contract() == null ? null : contracts.byName(given.contract());
        Offered offered = contract == null
                ? null
                : contract.operation(given.service(), given.port(), given.operation())
                        .orElse(null);
        String effect = offered == null ? "changes" : contracts.effect(given.contract(), offered.operation());
        Delivery delivery = new Delivery(effect, null, null, null, null, null, null, null, null, null, null);
        if (offered != null && !offered.port().address().isBlank()) {
            endpoints.addressUnlessSet(given.contract(), "Test", offered.port().address());
        }
        stages.add(new Stage.Call(
                "call",
                given.contract(),
                offered == null ? null : offered.service().name(),
                offered == null ? null : offered.port().name(),
                offered == null ? null : offered.operation().key(),
                given.contract(),
                "reply",
                List.of(),
                delivery));
        stages.add(new Stage.Write("write", null, "replace", null, "", List.of(), List.of()));
        return new FlowFile(FlowFile.FORMAT, name, stages);
    }

    /** Returns a short variable for a dataset's records: {@code loans} gives {@code loan}. */
    private static String variable(String dataset) {
        String plain = dataset.toLowerCase(Locale.ROOT)
                .replaceAll("[^\\p{L}\\p{N}]+", "_")
                .replaceAll("^_|_$", "");
        String single = plain.length() > 3 && plain.endsWith("s") ? plain.substring(0, plain.length() - 1) : plain;
        return single.isEmpty() || !Character.isLetter(single.charAt(0)) ? "record" : single;
    }
}
