package wirekettle.core.flow.compile;

import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.flow.file.AfterLast;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.BatchStage;
import wirekettle.core.flow.file.BranchStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.Stage;

/** A flow compiled against its surroundings: steps, and everything wrong with it. Safe for several threads. */
public final class CompiledFlow {
    private final FlowFile file;
    private final CompiledBlock before;
    private final CompiledBlock block;
    private final CompiledAfter after;
    private final CompiledRead source;
    private final CompiledLane lane;
    private final List<FlowProblem> problems;
    private final Map<String, Compiled> stages;
    private final Map<String, CompiledLane.Rule> rules;
    private final Map<String, Reach> places;

    private CompiledFlow(FlowFile file, Compilation at) {
        this.file = file;
        this.before = at.block(file.before(), at.base());
        at.base(before.after());
        this.block = at.records(file.stages());
        Reach anywhere = at.base();
        for (Compiled step : block.steps()) {
            for (Variable variable : step.frame().after().variables()) {
                boolean sure = step instanceof CompiledRead || variable.stage() == null;
                boolean known = anywhere.get(variable.name()) != null;
                anywhere = known ? anywhere : anywhere.with(sure ? variable : variable.maybe());
            }
        }
        this.lane = at.lane(file.lane(), null, anywhere, anywhere, fault(at));
        AfterLast last = file.after();
        this.after = last == null ? null : CompiledAfter.of(last, anywhere, at);
        if (file.brake() != null && file.brake().problem() != null) {
            at.problem(null, file.brake().problem());
        }
        once(file.before(), "before the first record", at);
        once(last == null ? List.of() : last.stages(), "after the last record", at);
        answers(file, at);
        batches(file.before(), false, at);
        batches(last == null ? List.of() : last.stages(), false, at);
        batches(file.stages(), true, at);
        batches(file.lane() == null ? List.of() : file.lane().stages(), false, at);
        Reach end = anywhere;
        this.source = block.steps().stream()
                .filter(CompiledRead.class::isInstance)
                .map(CompiledRead.class::cast)
                .findFirst()
                .map(read -> read.carrying(end, at))
                .orElse(null);
        if (source == null) {
            at.problem(null, "the flow has no Read: begin with the records it is about");
        }
        if (block.steps().size() < 2) {
            at.problem(null, "the flow does nothing yet: add a stage");
        }
        this.problems = List.copyOf(at.problems());
        this.stages = new LinkedHashMap<>(at.stages());
        this.rules = new LinkedHashMap<>(at.rules());
        this.places = Map.copyOf(at.places());
    }

    /** The faults a flow's lane can speak of are those of its only call, where it has one only. */
    private static Shape.OfFault fault(Compilation at) {
        List<CompiledCall> calls = at.stages().values().stream()
                .filter(CompiledCall.class::isInstance)
                .map(CompiledCall.class::cast)
                .toList();
        boolean one = calls.size() == 1 && calls.get(0).offered() != null;
        return new Shape.OfFault(
                one ? calls.get(0).contract() : null,
                one ? calls.get(0).offered().operation() : null);
    }

    /** What is run once answers nobody. */
    private static void once(List<Stage> stages, String where, Compilation at) {
        for (Stage stage : stages) {
            if (stage instanceof AnswerStage) {
                at.problem(stage.id(), "an Answer cannot stand " + where + ": no caller waits there");
            }
            once(stage.inside(), where, at);
        }
    }

    /** A Batch stands among the stages of the record or in a way. */
    private static void batches(List<Stage> stages, boolean mayBe, Compilation at) {
        for (Stage stage : stages) {
            if (stage instanceof BatchStage && !mayBe) {
                at.problem(
                        stage.id(),
                        "a Batch stands where a record goes alone: not in a Split, a failure lane, an undo, another Batch,"
                                + " or where no record is");
            }
            List<Stage> ways = stage instanceof BranchStage branch
                    ? branch.ways().stream()
                            .flatMap(way -> way.stages().stream())
                            .toList()
                    : List.of();
            batches(ways, mayBe, at);
            List<Stage> others = new ArrayList<>(stage.inside());
            others.removeAll(ways);
            batches(others, false, at);
        }
    }

    /** At most one Answer on each way. */
    private static void answers(FlowFile file, Compilation at) {
        answers(file.stages(), false, at);
    }

    private static boolean answers(List<Stage> stages, boolean before, Compilation at) {
        boolean answered = before;
        for (Stage stage : stages) {
            if (stage instanceof AnswerStage) {
                if (answered) {
                    at.problem(stage.id(), "there is an Answer before it on the same way: a caller gets one only");
                }
                answered = true;
            } else if (stage instanceof BranchStage branch) {
                boolean any = false;
                for (BranchStage.Way way : branch.ways()) {
                    any |= answers(way.stages(), answered, at);
                }
                answered |= any;
            }
            if (stage.lane() != null) {
                for (Lane.Rule rule : stage.lane().rules()) {
                    boolean goesOn = rule.then() == Lane.Then.GO_ON;
                    boolean here = answers(rule.stages(), goesOn && answered, at);
                    answered |= goesOn && here;
                }
            }
        }
        return answered;
    }

    /** Compiles a flow. */
    public static CompiledFlow of(FlowFile file, Surroundings around) {
        return new CompiledFlow(file, new Compilation(around));
    }

    /** Returns the flow file. */
    public FlowFile file() {
        return file;
    }

    /** Returns everything wrong; a flow with problems can be worked on and tried, records it hits are rejected. */
    public List<FlowProblem> problems() {
        return problems;
    }

    /** Returns what is run once before the first record. */
    public CompiledBlock before() {
        return before;
    }

    /** Returns what is run once after the last record, or null. */
    public CompiledAfter after() {
        return after;
    }

    /** Returns what is run for each record. */
    public CompiledBlock block() {
        return block;
    }

    /** Returns the flow's failure lane, or null. */
    public CompiledLane lane() {
        return lane;
    }

    /** Returns where the records come from, null when the flow reads none. */
    public CompiledRead source() {
        return source;
    }

    /** Returns the compiled stage of an id, wherever it stands, or null. */
    public Compiled stage(String id) {
        return stages.get(id);
    }

    /** Returns the compiled rule of an id, in whichever lane it stands, or null. */
    public CompiledLane.Rule rule(String id) {
        return rules.get(id);
    }

    /** Returns the ids of all rules of lanes. */
    public Set<String> rules() {
        return Collections.unmodifiableSet(rules.keySet());
    }

    /** Returns all compiled stages of a kind, in order, wherever they stand. */
    public <T extends Compiled> List<T> all(Class<T> kind) {
        return file.all().stream()
                .map(stage -> stages.get(stage.id()))
                .filter(kind::isInstance)
                .map(kind::cast)
                .toList();
    }

    /** Returns what is in reach at a stage or a rule of a lane. */
    public Reach at(String id) {
        return places.getOrDefault(id, Reach.START);
    }

    /** Tells whether there is enough to run: a Read, something to do, and every stage sound. */
    public boolean runnable() {
        return source() != null
                && block.steps().size() > 1
                && stages.values().stream().allMatch(Compiled::usable)
                && stages.size() == file.all().size();
    }

    /** Returns the names of the secrets fills send, those of each call. */
    public Set<String> secrets() {
        Set<String> names = new LinkedHashSet<>();
        all(CompiledCall.class).forEach(call -> {
            names.addAll(call.secrets());
            names.addAll(call.keys());
        });
        return names;
    }

    /** Tells whether contents of replies are written to files. */
    public boolean keepsFiles() {
        return all(CompiledWrite.class).stream()
                .flatMap(write -> write.stage().fills().stream())
                .anyMatch(fill -> fill.file() != null);
    }
}
