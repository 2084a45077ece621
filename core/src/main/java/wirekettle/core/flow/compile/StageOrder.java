package wirekettle.core.flow.compile;

import java.util.List;
import java.util.function.Predicate;
import wirekettle.core.flow.file.Stage;

/** One Read, Map stages, one Call, Map stages, one or more Write stages: in this order. */
final class StageOrder {
    /** The rule in words. */
    static final String RULE = "a flow is one Read, then Map, one Call, then Map, then Write, in this order";

    private record Slot(Predicate<Stage> takes, boolean once) {}

    private static final List<Slot> SLOTS = List.of(
            new Slot(Stage.Read.class::isInstance, true),
            new Slot(Stage.Map.class::isInstance, false),
            new Slot(Stage.Call.class::isInstance, true),
            new Slot(Stage.Map.class::isInstance, false),
            new Slot(Stage.Write.class::isInstance, false));

    private StageOrder() {}

    /** Tells whether stages stand in an order that can run; stages that are missing are no matter of order. */
    static boolean holds(List<Stage> stages) {
        int at = 0;
        for (Stage stage : stages) {
            while (at < SLOTS.size() && !SLOTS.get(at).takes().test(stage)) {
                at++;
            }
            if (at == SLOTS.size()) {
                return false;
            }
            at += SLOTS.get(at).once() ? 1 : 0;
        }
        return true;
    }
}
