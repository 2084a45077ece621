package wirekettle.core.flow.run;

import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import wirekettle.core.flow.compile.CompiledBatch;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.CompiledSplit;

/**
 * Takes back what calls changed: each is reversed by the stages it names, what was done last first. Safe for several
 * threads.
 */
final class Reversals {
    private final Map<String, Step> steps = new HashMap<>();
    private final Map<String, String> items = new HashMap<>();
    private final Doors doors;

    Reversals(CompiledFlow flow, Steps steps) {
        this.doors = steps.doors();
        flow.all(CompiledSplit.class)
                .forEach(split -> items.put(split.id(), "$" + split.stage().item()));
        for (CompiledCall call : flow.all(CompiledCall.class)) {
            if (!call.undo().steps().isEmpty()) {
                this.steps.put(call.id(), steps.block(call.undo()));
            }
        }
        for (CompiledBatch batch : flow.all(CompiledBatch.class)) {
            if (!batch.undo().steps().isEmpty()) {
                this.steps.put(batch.id(), steps.block(batch.undo()));
            }
        }
    }

    /**
     * Reverses changes of a record.
     *
     * @param lastFirst what is reversed, in this order
     * @param why what the record fails with
     * @return what it fails with now: the same when all was taken back; else in doubt, naming what is left
     */
    Failed takeBack(Item record, List<Item.Reversal> lastFirst, Failed why) throws Stopped {
        for (int i = 0; i < lastFirst.size(); i++) {
            Item.Reversal reversal = lastFirst.get(i);
            Item item = record.reversing(reversal, why.failure());
            String problem;
            try {
                steps.get(reversal.stage()).run(item);
                record.takes(item);
                record.reversed(reversal);
                continue;
            } catch (Failed failed) {
                problem = failed.failure().message();
            } catch (RuntimeException | StackOverflowError e) {
                doors.trouble().accept(e);
                problem = "something went wrong in this program; it is in its log";
            }
            record.takes(item);
            String left = lastFirst.subList(i + 1, lastFirst.size()).stream()
                    .map(this::name)
                    .collect(Collectors.joining(", "));
            Failure failure = why.failure()
                    .telling(why.failure().message() + "; " + name(reversal) + " could not be taken back: " + problem
                            + (left.isEmpty() ? "" : "; left as well: " + left));
            return new Failed(failure.inDoubt());
        }
        return why;
    }

    /** Returns what was done: the operation, and for which item. */
    private String name(Item.Reversal reversal) {
        String operation = reversal.what();
        if (reversal.path().isEmpty()) {
            return operation;
        }
        return Stream.of(reversal.path().split("/"))
                .map(step -> items.get(step.substring(0, step.lastIndexOf(':'))) + " "
                        + step.substring(step.lastIndexOf(':') + 1))
                .collect(Collectors.joining(", ", operation + " of ", ""));
    }

    /** Shows what reversing a change would do for a sample: nothing is sent, and nothing is kept of it. */
    void show(Item item, Item.Reversal reversal) {
        Failure supposed = Failure.of(
                wirekettle.core.soap.FailureClass.CONDITION,
                "rejected later",
                "the record is rejected later",
                reversal.stage());
        try {
            steps.get(reversal.stage()).run(item.reversing(reversal, supposed).looked());
        } catch (Failed | Stopped | SampleWalk.NoReply e) {
            // it is shown as far as it comes
        }
    }
}
