package wirekettle.core.flow.run;

/** A step with its failure lane. */
final class Guard implements Step {
    private final Step first;
    private final Step again;
    private final LaneRules lane;

    /** Takes the step as it is run first and as it is run again. */
    Guard(Step first, Step again, LaneRules lane) {
        this.first = first;
        this.again = again;
        this.lane = lane;
    }

    @Override
    public StepResult run(Item item) throws Failed, Stopped {
        Item.Mark mark = item.mark();
        LaneRules.Tries tries = lane.tries();
        Step step = first;
        while (true) {
            try {
                return step.run(item);
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
