package wirekettle.core.flow.compile;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.record.RecordPlan;
import wirekettle.core.record.RowMaker;
import wirekettle.core.value.Column;

/** Compiles one Write stage, and says everything wrong with it. */
final class WritePreparation {
    private final Stage.Write writing;
    private final List<FlowProblem> problems;

    /** Makes a preparation; what is wrong goes to {@code problems}. */
    WritePreparation(Stage.Write writing, List<FlowProblem> problems) {
        this.writing = writing;
        this.problems = problems;
    }

    private void problem(String message) {
        problems.add(new FlowProblem(writing.id(), null, null, message));
    }

    /** Returns the stage with its rows, null in their place when they cannot be made. */
    PreparedFlow.Written prepared(Set<String> reach, MappingContext context) {
        check();
        List<RecordPlan.Target> targets = targets();
        try {
            RowMaker rows = writing.document() == null
                    ? new RecordPlan(writing.rows(), targets, reach, context)
                    : new DocumentPlan(writing.document(), writing.groups(), targets, reach, context);
            rows.designProblems()
                    .forEach(p -> problems.add(
                            new FlowProblem(writing.id(), p.field(), p.fillId(), p.shortField() + " " + p.message())));
            return new PreparedFlow.Written(writing, rows);
        } catch (IllegalArgumentException e) {
            problem("one row for each: " + e.getMessage());
            return new PreparedFlow.Written(writing, null);
        }
    }

    private void check() {
        if (writing.dataset() == null || writing.dataset().isBlank()) {
            problem("no dataset is written to: pick or add one");
        }
        if (writing.columns().isEmpty()) {
            problem("the record written has no columns yet: make a record of everything, or add columns");
        }
        if (writing.mode().equals("upsert") && writing.keys().isEmpty()) {
            problem("upsert needs the columns it is decided by");
        }
    }

    private List<RecordPlan.Target> targets() {
        Map<String, Column> columns = new HashMap<>();
        writing.columns().forEach(c -> columns.put(c.name(), c));
        List<RecordPlan.Target> targets = new ArrayList<>();
        Map<String, Fill> byColumn = new HashMap<>();
        for (Fill fill : writing.fills()) {
            byColumn.put(fill.target(), fill);
            if (!columns.containsKey(fill.target())) {
                problems.add(new FlowProblem(
                        writing.id(), fill.target(), fill.id(), fill.target() + " is no column of the target"));
            }
        }
        for (Column column : writing.columns()) {
            Fill fill = byColumn.get(column.name());
            if (fill == null && column.required()) {
                problems.add(new FlowProblem(
                        writing.id(), column.name(), null, column.name() + " is required and not filled"));
            }
            targets.add(new RecordPlan.Target(
                    fill == null ? Fill.constant(null, column.name(), "") : fill, column.type(), column.required()));
        }
        return targets;
    }
}
