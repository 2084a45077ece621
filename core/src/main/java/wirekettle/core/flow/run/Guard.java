package wirekettle.core.flow.run;

/** A step with its failure lane. */
final class Guard implements Step {
    private final Step first;
    private final Step again;
    private final LaneRules lane;

    /** Where a record was that left the step to wait, and what it had tried. */
    record Before(Item.Mark mark, LaneRules.Tries tries) {}

    /** Takes the step as it is run first and as it is run again. */
    Guard(Step first, Step again, LaneRules lane) {
        this.first = first;
        this.again = again;
        this.lane = lane;
    }

    @Override
    public StepResult run(Item item) throws Failed, Stopped {
        Before before = item.company().left(this);
        Item.Mark mark = before == null ? item.mark() : before.mark();
        LaneRules.Tries tries = before == null ? lane.tries() : before.tries();
        Step step = first;
        while (true) {
            try {
                StepResult done = step.run(item);
                if (done == StepResult.WAITS) {
                    item.company().leaves(this, new Before(mark, tries));
                }
                return done;
            } catch (Failed failed) {
                StepResult go = lane.take(failed, item, mark, tries);
                if (go != null) {
                    return go;
                }
                step = again;
            }
        }
    }
}
