package wirekettle.core.assist;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Message;
import wirekettle.core.fill.Fill;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.SheetPath;
import wirekettle.core.schema.SheetPath.Step;
import wirekettle.core.value.Name;

/**
 * Takes the fills of a message over to another revision of it: unchanged where they fit, moved where only names did.
 */
public final class CarryOver {
    private CarryOver() {}

    /**
     * One fill after the change.
     *
     * @param fill the fill, its target moved where that was needed
     * @param before the target it had
     * @param outcome kept, moved or lost
     */
    public record Carried(Fill fill, String before, Outcome outcome) {}

    /** What became of a fill. */
    public enum Outcome {
        /** Its field is still there. */
        KEPT,
        /** Its field is there under another namespace. */
        MOVED,
        /** Its field is gone. */
        LOST
    }

    /** Returns every fill with what becomes of it in {@code message} of {@code contract}. */
    public static List<Carried> of(List<Fill> fills, Contract contract, Message message) {
        List<SheetField> roots = message.elements().stream()
                .map((ElementDecl e) -> contract.sheet(e))
                .toList();
        List<Carried> all = new ArrayList<>();
        for (Fill fill : fills) {
            all.add(carried(fill, roots));
        }
        return all;
    }

    private static Carried carried(Fill fill, List<SheetField> roots) {
        for (SheetField root : roots) {
            if (root.find(fill.target()) != null) {
                return new Carried(fill, fill.target(), Outcome.KEPT);
            }
        }
        SheetPath path;
        try {
            path = SheetPath.parse(fill.target());
        } catch (IllegalArgumentException e) {
            return new Carried(fill, fill.target(), Outcome.LOST);
        }
        for (SheetField root : roots) {
            SheetField found =
                    path.steps().isEmpty() ? null : sameLocal(root, path.steps().get(0));
            for (int i = 1; found != null && i < path.steps().size(); i++) {
                found = below(found, path.steps().get(i));
            }
            if (found != null) {
                return new Carried(fill.to(found.path()), fill.target(), Outcome.MOVED);
            }
        }
        return new Carried(fill, fill.target(), Outcome.LOST);
    }

    private static SheetField below(SheetField field, Step step) {
        for (SheetField child : field.children()) {
            boolean attribute = child.kind() == SheetField.Kind.ATTRIBUTE;
            if (attribute == step.attribute()) {
                SheetField found = sameLocal(child, step);
                if (found != null) {
                    return found;
                }
            }
        }
        return null;
    }

    private static SheetField sameLocal(SheetField field, Step step) {
        if (step.attribute()) {
            return field.name().local().equals(step.name().local()) ? field : null;
        }
        List<Name> names = new ArrayList<>(List.of(field.name()));
        names.addAll(field.elementChoices());
        for (Name name : names) {
            if (name.local().equals(step.name().local())) {
                return field.as(new Step(name, false, step.occurrence(), type(field, step)));
            }
        }
        return null;
    }

    private static Name type(SheetField field, Step step) {
        return step.type() == null
                ? null
                : field.typeChoices().stream()
                        .filter(t -> t.local().equals(step.type().local()))
                        .findFirst()
                        .orElse(step.type());
    }
}
