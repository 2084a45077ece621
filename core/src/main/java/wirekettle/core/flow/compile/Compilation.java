package wirekettle.core.flow.compile;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.WirePath;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.FilledBy;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.file.BranchStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.MakesRecord;
import wirekettle.core.flow.file.MapStage;
import wirekettle.core.flow.file.NoteStage;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.record.RecordPlan;
import wirekettle.core.record.RowMaker;
import wirekettle.core.value.Column;
import wirekettle.core.value.Grouping;

/** One compilation of a flow: what it has found so far, and what the compilers of the verbs share. */
final class Compilation {
    /** The names of what {@code $failure} holds. */
    static final List<String> FAILURE =
            List.of("class", "cause", "message", "field", "value", "stage", "status", "attempts");

    private final Surroundings around;
    private final List<FlowProblem> problems = new ArrayList<>();
    private final Set<String> ids = new LinkedHashSet<>();
    private final Map<String, Compiled> stages = new LinkedHashMap<>();
    private final Map<String, CompiledLane.Rule> rules = new LinkedHashMap<>();
    private final Map<String, Reach> places = new HashMap<>();
    private Reach base;
    private List<Stage> records;
    private String source;

    Compilation(Surroundings around) {
        this.around = around;
        this.base = Reach.start(around.values());
    }

    Surroundings around() {
        return around;
    }

    /** Returns what is in reach where no record is: the run, and what was made before the first record. */
    Reach base() {
        return base;
    }

    void base(Reach other) {
        base = other;
    }

    List<FlowProblem> problems() {
        return problems;
    }

    /** Returns the compiled stages by id, wherever they stand. */
    Map<String, Compiled> stages() {
        return stages;
    }

    /** Returns the compiled rules of lanes by id. */
    Map<String, CompiledLane.Rule> rules() {
        return rules;
    }

    /** Returns what is in reach at stages and rules, by id. */
    Map<String, Reach> places() {
        return places;
    }

    void problem(String stage, String message) {
        problems.add(new FlowProblem(stage, null, null, message));
    }

    /** Compiles the stages that are run for each record. */
    CompiledBlock records(List<Stage> given) {
        records = given;
        return block(given, base);
    }

    /** Compiles the call that gives a Read its records. */
    CompiledCall source(CallStage call, Reach reach) {
        source = call.id();
        known(call.id());
        CompiledCall compiled = CompiledCall.of(call, reach, this);
        stages.put(call.id(), compiled);
        if (!call.undo().isEmpty() || !call.delivery().reads()) {
            problem(call.id(), "records come from an operation that reads: mark it so, without an undo");
        }
        return compiled;
    }

    /** Tells whether a stage is the call that gives a Read its records. */
    boolean isSource(String stage) {
        return stage != null && stage.equals(source);
    }

    /** Compiles stages that follow each other. */
    CompiledBlock block(List<Stage> given, Reach reach) {
        List<Compiled> steps = new ArrayList<>();
        Reach at = reach;
        for (Stage stage : given) {
            known(stage.id());
            places.put(stage.id(), at);
            if (stage instanceof ReadStage
                    && !(at == base && given == records && steps.stream().allMatch(Compilation::silent))) {
                problem(stage.id(), "a Read stands at the beginning of a flow and nowhere else");
                continue;
            }
            Compiled step = StageCompilers.compile(stage, at, this);
            steps.add(step);
            stages.put(stage.id(), step);
            at = step.frame().after();
        }
        return new CompiledBlock(List.copyOf(steps), at);
    }

    private static boolean silent(Compiled step) {
        return step.stage() instanceof NoteStage;
    }

    private void known(String id) {
        if (id == null || !ids.add(id)) {
            problem(id, "the stage's id is missing or used twice");
        }
    }

    /** Returns what is in reach behind a stage that makes a variable. */
    Reach making(Stage stage, Reach before, String title, Shape shape) {
        if (stage.as() == null || stage.as().isBlank()) {
            problem(stage.id(), "what it makes has no name: give it one");
            return before;
        }
        if (before.get(stage.as()) != null) {
            problem(stage.id(), "$" + stage.as() + " is there already: give what this stage makes another name");
            return before;
        }
        return before.with(new Variable(stage.as(), title, stage.id(), shape, false));
    }

    /** Returns a stage's frame; its lane is compiled with what is in reach before it. */
    Frame frame(Stage stage, Reach before, Reach after, Shape.OfFault fault) {
        Reach failing = before;
        if (after != before && stage.as() != null && after.get(stage.as()) != null) {
            failing = before.with(after.get(stage.as()).maybe());
        }
        CompiledLane lane = lane(stage.lane(), stage, failing, after, fault);
        return new Frame(stage, before, after, lane);
    }

    Frame frame(Stage stage, Reach before, Reach after) {
        return frame(stage, before, after, new Shape.OfFault(null, null));
    }

    /** Returns what is in reach where a failure is known. */
    Reach failing(Reach reach) {
        return reach.with(new Variable("failure", "why it failed", null, new Shape.OfNames(FAILURE), false));
    }

    /** Compiles a lane; {@code stage} is null for the flow's. */
    CompiledLane lane(Lane lane, Stage stage, Reach before, Reach after, Shape.OfFault fault) {
        if (lane == null) {
            return null;
        }
        Reach failing = failing(before).with(new Variable("fault", "what the service said", null, fault, true));
        List<CompiledLane.Rule> rules = new ArrayList<>();
        for (Lane.Rule rule : lane.rules()) {
            known(rule.id());
            places.put(rule.id(), failing);
            Expressions.Compiled when = condition(rule.id(), null, rule.when(), failing);
            RowMaker value = null;
            CompiledOutcomes outcomes = null;
            CompiledBlock block = block(rule.stages(), failing);
            switch (rule.then()) {
                case USE -> {
                    if (stage == null || after.get(String.valueOf(stage.as())) == null) {
                        problem(rule.id(), "there is no variable here that a value could be used for");
                    }
                    value = maker(rule, failing);
                }
                case AGAIN -> {
                    if (stage == null) {
                        problem(rule.id(), "a whole flow cannot be tried again: put this rule at a stage");
                    }
                }
                case GO_ON -> {
                    if (stage == null) {
                        problem(rule.id(), "there is nothing behind a flow to go on with: reject instead");
                    }
                    shapes(rule, stage, block, after);
                }
                case ASK -> {
                    places.put(rule.id(), block.after());
                    outcomes = CompiledOutcomes.of(rule, stage, block.after(), this);
                    value = rule.columns().isEmpty() ? null : maker(rule, block.after());
                }
                default -> {}
            }
            Reach its = outcomes == null ? failing : block.after();
            rules.add(new CompiledLane.Rule(rule, when, value, block, its, outcomes));
        }
        rules.forEach(each -> this.rules.put(each.rule().id(), each));
        return new CompiledLane(List.copyOf(rules));
    }

    /** What a rule that goes on makes under the stage's name must have the stage's shape. */
    private void shapes(Lane.Rule rule, Stage stage, CompiledBlock block, Reach after) {
        Variable made = stage == null || stage instanceof BranchStage || stage.as() == null
                ? null
                : block.after().get(stage.as());
        Variable wanted = made == null ? null : after.get(stage.as());
        if (wanted != null
                && made.stage() != null
                && !made.stage().equals(stage.id())
                && !made.shape().same(wanted.shape())) {
            problem(rule.id(), "$" + stage.as() + " is made in another shape here than by the stage");
        }
    }

    /** Compiles a condition; null where there is none or it is not sound. */
    Expressions.Compiled condition(String stage, String blame, String text, Reach reach) {
        if (text == null || text.isBlank()) {
            return null;
        }
        try {
            return around.context().expressions().compile(text, reach.names());
        } catch (ExpressionProblem e) {
            problems.add(new FlowProblem(stage, null, blame, "the condition: " + e.getMessage()));
            return null;
        }
    }

    void say(String stage, List<MappingProblem> wrong) {
        wrong.forEach(
                p -> problems.add(new FlowProblem(stage, p.field(), p.fillId(), p.shortField() + " " + p.message())));
    }

    /** Tells of wires into a dataset's record that lead to no field of it. */
    void checkWires(String stage, List<Fill> fills, Reach reach) {
        checkWires(stage, fills, reach, false);
    }

    private void checkWires(String stage, List<Fill> fills, Reach reach, boolean draws) {
        for (Fill fill : fills) {
            if (!draws && draws(fill)) {
                problems.add(new FlowProblem(
                        stage,
                        fill.target(),
                        fill.id(),
                        "a number is drawn in a Map that makes one record: draw it there, and wire this field to it"));
            }
            if (fill.wire() == null || !WirePath.isPath(fill.wire())) {
                continue;
            }
            WirePath wire = WirePath.parse(fill.wire());
            Variable variable = reach.get(wire.variable());
            if (variable == null
                    || !(variable.shape() instanceof Shape.OfLayout its)
                    || wire.steps().size() != 1) {
                continue;
            }
            String step = wire.steps().get(0);
            boolean line = its.grouped() && step.equals(Grouping.LINE);
            if (!line && its.layout().columns().stream().noneMatch(c -> c.name().equals(step))) {
                problems.add(new FlowProblem(
                        stage, fill.target(), fill.id(), fill.wire() + " is not a field of the dataset any more"));
            }
        }
    }

    private static boolean draws(Fill fill) {
        FilledBy by = fill.by() instanceof FilledBy.Repeat repeat ? repeat.value() : fill.by();
        return by instanceof FilledBy.Number;
    }

    /** Compiles what makes a record or document; null when it cannot work. */
    RowMaker maker(MakesRecord made, Reach reach) {
        boolean one = made instanceof MapStage
                && made.document() == null
                && (made.rows() == null || made.rows().isBlank());
        checkWires(made.id(), made.fills(), reach, one);
        Map<String, Fill> byColumn = new HashMap<>();
        for (Fill fill : made.fills()) {
            byColumn.put(fill.target(), fill);
            if (made.columns().stream().noneMatch(c -> c.name().equals(fill.target()))) {
                problems.add(new FlowProblem(
                        made.id(), fill.target(), fill.id(), fill.target() + " is no column of the target"));
            }
        }
        List<RecordPlan.Target> targets = new ArrayList<>();
        for (Column column : made.columns()) {
            Fill fill = byColumn.get(column.name());
            if (fill == null && column.required()) {
                problems.add(
                        new FlowProblem(made.id(), column.name(), null, column.name() + " is required and not filled"));
            }
            targets.add(new RecordPlan.Target(
                    fill == null ? Fill.constant(null, column.name(), "") : fill, column.type(), column.required()));
        }
        try {
            RowMaker rows = made.document() == null
                    ? new RecordPlan(made.rows(), targets, reach.names(), around.context())
                    : new DocumentPlan(made.document(), made.groups(), targets, reach.names(), around.context());
            say(made.id(), rows.designProblems());
            return rows;
        } catch (IllegalArgumentException e) {
            problem(made.id(), "one row for each: " + e.getMessage());
            return null;
        }
    }

    /** Tells whether what is made would be nothing. */
    void needsColumns(MakesRecord made) {
        if (made.columns().isEmpty()) {
            problem(made.id(), "the record written has no columns yet: make a record of everything, or add columns");
        }
    }
}
