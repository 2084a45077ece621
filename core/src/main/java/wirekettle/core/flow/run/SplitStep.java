package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.FillFailure;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.CompiledSplit;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/**
 * Runs a block for each item of a repeated field, and gathers what they made.
 */
final class SplitStep implements Step {
    private final CompiledSplit split;
    private final SplitStage stage;
    private final Steps steps;
    private final Step block;
    private final Set<String> kept;

    SplitStep(CompiledSplit split, Steps steps) {
        this.split = split;
        this.stage = split.stage();
        this.steps = steps;
        this.block = steps.block(split.block());
        this.kept = steps.gathered(split);
    }

    @Override
    public StepResult run(Item item) throws Failed, Stopped {
        SplitItems items = new SplitItems(split, steps, block, kept, item, nodes(item));
        Failure undoing = item.known() ? item.replay().undoing(item.path(), stage.id()) : null;
        Node already = item.known() ? item.replay().gathered(item.path(), stage.id()) : null;
        if (undoing != null) {
            items.knownOnly(new Item.Halt(undoing, true));
            throw undone(item, items.parts(), new Failed(undoing, false));
        }
        if (item.halt() != null && item.halt().reads()) {
            items.knownOnly(item.halt());
        } else if (already != null) {
            // what was gathered stays: nothing more is changed for its items
            items.haltsLater();
            items.run();
        } else {
            items.run();
        }
        StepResult go = gathered(item, items, already);
        items.gathered();
        return go;
    }

    /** Takes back what the items did, and returns what the record fails with. */
    private Failed undone(Item record, SplitItems.Part[] parts, Failed why) throws Stopped {
        List<Item.Reversal> lastFirst = new ArrayList<>();
        for (int i = parts.length - 1; i >= 0; i--) {
            if (parts[i] != null) {
                lastFirst.addAll(parts[i].reversals());
            }
        }
        take(record, parts);
        return steps.looking() ? why : steps.reversals().takeBack(record, lastFirst, why);
    }

    private List<Node> nodes(Item item) throws Failed {
        if (split.over() == null) { // a sample of a flow that is being built
            throw new Failed(Failure.of(
                    FailureClass.MAPPING,
                    "its items cannot be found",
                    "it says nothing of its items yet: name a repeated field",
                    stage.id()));
        }
        try {
            return split.over().nodes(item.scope());
        } catch (FillFailure e) {
            throw new Failed(Failure.of(FailureClass.MAPPING, "its items cannot be found", e.getMessage(), stage.id()));
        }
    }

    /** Adds what the items did to the record, and how they ended. */
    private static void take(Item record, SplitItems.Part[] parts) {
        for (SplitItems.Part part : parts) {
            if (part == null) {
                continue; // it did not begin: another one ended the record
            }
            Item item = part.item();
            if (item == null) {
                continue; // the record knows all of it
            }
            record.takes(item);
            if (part.end() != End.DONE) {
                Failure why = part.why() == null ? null : part.why().failure();
                record.ends(new ItemEnd(
                        item.path(),
                        part.end(),
                        why == null ? item.leftAt() : why.stage(),
                        why == null ? null : why.message()));
            }
        }
    }

    private StepResult gathered(Item record, SplitItems items, Node kept) throws Failed, Stopped {
        SplitItems.Part[] parts = items.parts();
        Failed first = null;
        int at = 0;
        int done = 0;
        for (int i = 0; i < parts.length; i++) {
            SplitItems.Part part = parts[i];
            if (part == null) {
                continue; // it did not begin: another one ended the record
            }
            done += part.end() == End.DONE ? 1 : 0;
            boolean worse = first == null
                    || part.end() == End.IN_DOUBT && !first.failure().doubtful();
            if (part.why() != null && worse) {
                first = part.why();
                at = i + 1;
            }
        }
        if (items.tooLarge() != null && (first == null || !first.failure().doubtful())) {
            take(record, parts);
            throw items.tooLarge();
        }
        boolean ends = kept == null
                && first != null
                && (!stage.goesOn() || first.failure().doubtful() || first.stopping());
        boolean undoes = ends && stage.undoes() && !first.failure().doubtful();
        if (!undoes) {
            take(record, parts);
        }
        if (ends) {
            Failure why = first.failure()
                    .telling("$" + stage.item() + " " + at + " of " + parts.length + ": "
                            + first.failure().message()
                            + (done == 0 || undoes
                                    ? ""
                                    : "; " + done + (done == 1 ? " item was" : " items were") + " done"));
            Failed end = new Failed(why, false);
            if (undoes) {
                record.replay().undoes(record.path(), stage.id(), why);
                end = undone(record, parts, end);
            } else if (stage.gather() != null) {
                end = end.leaving();
            }
            throw first.stopping() ? end.asEnd(true) : end;
        }
        if (stage.gather() != null) {
            Node node = kept == null ? shaped(record, node(parts)) : kept;
            if (steps.changes()) {
                record.replay().gathers(record.path(), stage.id(), node);
            }
            record.bind(stage.gather().as(), node);
        }
        return StepResult.ON;
    }

    /** Makes of the items what is gathered: the shape of its own where there is one. */
    private Node shaped(Item record, Node items) throws Failed {
        String as = stage.gather().as();
        Scope scope = record.scope().with(as, items);
        steps.watch().takes(SplitStage.gathering(stage.id()), record.path(), scope);
        if (split.shape() == null) {
            return items;
        }
        List<MappingProblem> problems = new ArrayList<>();
        Node made = split.shape().node(scope, problems);
        if (!problems.isEmpty()) {
            throw new Failed(Failure.of(problems, stage.id()), false);
        }
        return made.named(Name.of(as));
    }

    private Node node(SplitItems.Part[] parts) {
        List<Node> items = new ArrayList<>(parts.length);
        for (SplitItems.Part part : parts) {
            if (part != null) { // else nothing was known of it when its record was being taken back
                items.add(part.gathered());
            }
        }
        return Node.branch(Name.of(stage.gather().as()), items);
    }
}
