package wirekettle.server.flows;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.soap.FailureClass;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.settings.Endpoints;

/** The first stages of a new flow, from a dataset and an operation. */
final class NewFlows {
    /** Every call has a failure policy from the start: what passes by itself is tried again. */
    private static final Lane AGAIN = Lane.of(Lane.Rule.again(
            "call-again", List.of(FailureClass.CONNECTION, FailureClass.TIMEOUT, FailureClass.HTTP_STATUS), 2, 200));

    private NewFlows() {}

    static FlowFile of(
            String name, FlowResource.NewFlow given, Endpoints endpoints, ContractStore contracts, String first) {
        List<Stage> stages = new ArrayList<>();
        String as = given.dataset() == null ? "record" : variable(given.dataset());
        stages.add(new ReadStage("read", given.dataset(), as, null));
        Contract contract = given.contract() == null ? null : contracts.byName(given.contract());
        Offered offered = contract == null
                ? null
                : contract.operation(given.service(), given.port(), given.operation())
                        .orElse(null);
        boolean reads = offered != null
                && contracts.effect(given.contract(), offered.operation()).equals("reads");
        Delivery delivery = Delivery.of(reads ? Delivery.Effect.READS : Delivery.Effect.CHANGES, 4);
        if (offered != null && !offered.port().address().isBlank()) {
            endpoints.addressUnlessSet(given.contract(), first, offered.port().address());
        }
        stages.add(new CallStage(
                        "call",
                        given.contract(),
                        offered == null ? null : offered.service().name(),
                        offered == null ? null : offered.port().name(),
                        offered == null ? null : offered.operation().key(),
                        given.contract(),
                        "reply",
                        List.of(),
                        delivery)
                .failing(AGAIN));
        stages.add(new WriteStage("write", null, null, null, "", List.of(), List.of()));
        return new FlowFile(FlowFile.FORMAT, name, stages, null);
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
