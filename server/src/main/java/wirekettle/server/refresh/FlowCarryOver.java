package wirekettle.server.refresh;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.assist.CarryOver;
import wirekettle.core.assist.CarryOver.Outcome;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractComparison.Change;
import wirekettle.core.contract.ContractComparison.Kind;
import wirekettle.core.expression.WirePath;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.FilledBy;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.schema.SheetField;
import wirekettle.server.flows.FlowMapper;

/** Finds the flows a changed contract touches, and takes their fills over to it. */
@ApplicationScoped
public class FlowCarryOver {
    @Inject
    FlowMapper flows;

    /**
     * One fill a change touches.
     *
     * @param stage the stage it belongs to
     * @param fill its id
     * @param target the field it fills
     * @param what it is filled from
     * @param outcome kept though its field changed, moved, or lost
     * @param why what changed
     */
    @Schema(
            name = "TouchedFill",
            requiredProperties = {"stage", "fill", "target", "what", "outcome", "why"})
    public record TouchedFill(String stage, String fill, String target, String what, String outcome, String why) {}

    /**
     * One flow that calls the contract.
     *
     * @param flow its id
     * @param name its name
     * @param operation the operation called
     * @param fits how many fills fit as they are
     * @param fills those that do not, or whose field changed
     * @param problem why it can no longer be called, or null
     */
    @Schema(
            name = "TouchedFlow",
            requiredProperties = {"flow", "name", "operation", "fits", "fills"})
    public record TouchedFlow(
            long flow, String name, String operation, int fits, List<TouchedFill> fills, String problem) {}

    /** Returns every flow that calls a contract, with what a new revision does to its fills. */
    public List<TouchedFlow> touched(String name, Contract after, List<Change> changes) {
        List<TouchedFlow> all = new ArrayList<>();
        for (FlowMapper.FileRow row : flows.files()) {
            FlowFile file = FlowFile.parse(row.file());
            file.all(CallStage.class).stream()
                    .filter(call -> name.equals(call.contract()))
                    .forEach(call -> all.add(touched(row, file, call, after, changes)));
        }
        return all;
    }

    private static TouchedFlow touched(
            FlowMapper.FileRow row, FlowFile file, CallStage call, Contract after, List<Change> changes) {
        Optional<Contract.Offered> offered = after.operation(call.service(), call.port(), call.operation());
        if (offered.isEmpty()) {
            String problem = "the operation " + call.operation() + " at port " + call.port() + " is gone";
            return new TouchedFlow(row.id(), row.name(), call.operation(), 0, List.of(), problem);
        }
        Map<String, String> changed = new HashMap<>();
        for (Change change : changes) {
            boolean its = change.operation().equals(call.operation())
                    && change.message().equals("request")
                    && change.kind() == Kind.CHANGED
                    && !change.what().equals("documentation")
                    && !change.what().equals("namespace");
            if (its) {
                String what = change.what() + " " + change.before() + " → " + change.after();
                changed.merge(change.field(), what, (a, b) -> a + "; " + b);
            }
        }
        List<TouchedFill> fills = new ArrayList<>();
        List<CarryOver.Carried> carried =
                CarryOver.of(call.fills(), after, offered.get().operation().input());
        int fits = 0;
        for (CarryOver.Carried each : carried) {
            String why = changed.get(each.fill().target());
            if (each.outcome() == Outcome.KEPT && why == null) {
                fits++;
            } else {
                String reason = each.outcome() == Outcome.LOST
                        ? "the field is gone"
                        : each.outcome() == Outcome.MOVED
                                ? "to the same field of the new revision" + (why == null ? "" : "; " + why)
                                : why;
                fills.add(new TouchedFill(
                        call.id(),
                        each.fill().id(),
                        each.before(),
                        text(each.fill()),
                        each.outcome().name().toLowerCase(java.util.Locale.ROOT),
                        reason));
            }
        }
        fits += reply(file, call, offered.get(), after, fills);
        return new TouchedFlow(row.id(), row.name(), call.operation(), fits, fills, null);
    }

    private static String text(Fill fill) {
        return fill.wire() != null
                ? fill.wire()
                : fill.constant() != null
                        ? "“" + fill.constant() + "”"
                        : fill.repeat() != null
                                ? "for each " + fill.repeat().from()
                                : fill.by() instanceof FilledBy.Expression its ? its.xpath() : null;
    }

    /** Looks at the wires from the reply; adds those whose field is gone and returns how many are fine. */
    private static int reply(
            FlowFile file, CallStage call, Contract.Offered offered, Contract after, List<TouchedFill> fills) {
        if (offered.operation().output() == null
                || offered.operation().output().body().isEmpty()) {
            return 0;
        }
        SheetField sheet = after.sheet(offered.operation().output().body().get(0));
        int fits = 0;
        for (Map.Entry<String, List<Fill>> each : file.fillsById().entrySet()) {
            String place = each.getKey();
            boolean writes = file.stage(place).orElse(null) instanceof WriteStage;
            for (Fill fill : place.equals(call.id()) ? List.<Fill>of() : each.getValue()) {
                if (fill.wire() == null || !WirePath.isPath(fill.wire())) {
                    continue;
                }
                WirePath wire = WirePath.parse(fill.wire());
                boolean its = wire.variable().equals(call.as());
                boolean there = !its || reaches(sheet, wire.steps());
                fits += there && (its || writes) ? 1 : 0;
                if (!there) {
                    fills.add(new TouchedFill(
                            place,
                            fill.id(),
                            fill.target(),
                            fill.wire(),
                            "lost",
                            "the reply has no such field any more"));
                }
            }
        }
        return fits;
    }

    private static boolean reaches(SheetField field, List<String> steps) {
        if (steps.isEmpty() || field.kind() == SheetField.Kind.ANY) {
            return true;
        }
        String step = steps.get(0);
        boolean attribute = step.startsWith("@");
        for (SheetField child : field.children()) {
            boolean its = child.kind() == SheetField.Kind.ANY
                    || attribute == (child.kind() == SheetField.Kind.ATTRIBUTE)
                            && child.name().local().equals(attribute ? step.substring(1) : step);
            if (its && reaches(child, steps.subList(1, steps.size()))) {
                return true;
            }
        }
        // a derived type may bring the field: it is reached when any that can be picked has it
        return field.picked() == null
                && field.typeChoices().stream()
                        .map(type -> field.as(new wirekettle.core.schema.SheetPath.Step(field.name(), false, 1, type)))
                        .anyMatch(derived -> derived != null && derived.picked() != null && reaches(derived, steps));
    }

    /** Saves a new revision of every flow whose fills have to move, and returns how many there were. */
    public int carryOver(String name, Contract after, String by) {
        int moved = 0;
        for (FlowMapper.FileRow row : flows.files()) {
            FlowFile file = FlowFile.parse(row.file());
            FlowFile carried = file;
            for (CallStage call : file.all(CallStage.class)) {
                if (name.equals(call.contract())) {
                    carried = carried(carried, call, after);
                }
            }
            if (carried != file && flows.advance(row.id(), row.revision(), row.name(), by) == 1) {
                flows.keep(row.id(), row.revision() + 1, carried.text(), by);
                moved++;
            }
        }
        return moved;
    }

    /** Takes the fills of one call over; the same file when none has to move. */
    private static FlowFile carried(FlowFile file, CallStage call, Contract after) {
        Contract.Offered offered =
                after.operation(call.service(), call.port(), call.operation()).orElse(null);
        if (offered == null) {
            return file;
        }
        Set<String> targets = new HashSet<>();
        List<Fill> fills = new ArrayList<>();
        boolean any = false;
        for (CarryOver.Carried each :
                CarryOver.of(call.fills(), after, offered.operation().input())) {
            any |= each.outcome() == Outcome.MOVED;
            if (targets.add(each.fill().target())) {
                fills.add(each.fill());
            }
        }
        CallStage now = (CallStage) file.stage(call.id()).orElse(call);
        return any ? file.with(now.filled(fills)) : file;
    }
}
