package wirekettle.core.request;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.request.FillPlan.Writing;
import wirekettle.core.schema.ContentModel;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.Name;

/**
 * What the children of an element have to keep together: one branch of a choice, how often and beside what they
 * stand.
 */
final class ChildRules {
    private final List<SheetField.Choice> choices;
    private final List<PlanElement> children;
    private final boolean counting;
    private final ContentModel model;

    private ChildRules(
            List<SheetField.Choice> choices, List<PlanElement> children, boolean counting, ContentModel model) {
        this.choices = choices;
        this.children = children;
        this.counting = counting;
        this.model = model;
    }

    /**
     * Returns the rules of an element whose children are all there, null when nothing can go wrong.
     *
     * @param model what the children have to be together, null where choices and counts say it
     */
    static ChildRules of(List<SheetField.Choice> choices, List<PlanElement> children, ContentModel model) {
        boolean counting = model != null || children.stream().anyMatch(child -> child.counted() != null);
        return counting || !choices.isEmpty() ? new ChildRules(choices, children, counting, model) : null;
    }

    Tally start(Writing writing) {
        return new Tally(writing.problems.size());
    }

    /** What was written of the children for one record. */
    final class Tally {
        private final int[] written = new int[choices.size()];
        private final int[] counts = counting ? new int[children.size()] : null;
        private final int before;

        Tally(int before) {
            this.before = before;
        }

        void child(Writing writing, int at, int times) {
            PlanElement child = children.get(at);
            if (counts != null) {
                counts[at] = times;
            }
            SheetField.Choice branch = child.field().choice();
            for (int i = 0; branch != null && times > 0 && i < written.length; i++) {
                SheetField.Choice choice = choices.get(i);
                if (choice.group() == branch.group()) {
                    boolean other = written[i] != 0 && written[i] != branch.branch();
                    if (other && !choice.repeats()) {
                        child.problem(
                                writing,
                                "",
                                "choice",
                                "has a value beside another branch of its choice; only one of them may be sent");
                    }
                    written[i] = branch.branch();
                }
            }
        }

        void done(Writing writing, PlanElement parent) {
            for (int i = 0; i < written.length; i++) {
                if (written[i] == 0 && choices.get(i).required()) {
                    parent.problem(
                            writing,
                            "",
                            "choice",
                            "needs one branch of its choice, and the record has a value for none");
                }
            }
            for (int i = 0; counts != null && i < counts.length; i++) {
                SheetField declared = children.get(i).counted();
                if (declared != null && first(i, declared)) {
                    occurrences(writing, children.get(i), declared);
                }
            }
            // what is wrong with a single field is told already
            String wrong = model == null || writing.problems.size() > before ? null : model.problem(names());
            if (wrong != null) {
                parent.problem(writing, "", "choice", wrong);
            }
        }

        private List<Name> names() {
            List<Name> names = new ArrayList<>();
            for (int i = 0; i < counts.length; i++) {
                Name name = children.get(i).field().declaredField().name();
                for (int n = 0; n < counts[i]; n++) {
                    names.add(name);
                }
            }
            return names;
        }

        /** The sources of one list are reported together, at the first of them. */
        private boolean first(int at, SheetField declared) {
            for (int i = 0; i < at; i++) {
                PlanElement before = children.get(i);
                if (before.counted() != null && before.field().declaredField() == declared) {
                    return false;
                }
            }
            return true;
        }

        private void occurrences(Writing writing, PlanElement child, SheetField declared) {
            int count = 0;
            for (int i = 0; i < counts.length; i++) {
                count += children.get(i).field().declaredField() == declared ? counts[i] : 0;
            }
            if (declared.max() > 0 && count > declared.max()) {
                child.problem(writing, "", "occurs", "stands " + count + " times, at most " + declared.max());
            } else if (count > 0 && count < declared.min()) {
                child.problem(writing, "", "occurs", "stands " + count + " times, at least " + declared.min());
            }
        }
    }
}
