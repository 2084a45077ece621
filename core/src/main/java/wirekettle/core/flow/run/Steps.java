package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.concurrent.Future;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.SynchronousQueue;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.function.BiFunction;
import wirekettle.core.expression.Scope;
import wirekettle.core.flow.compile.Compiled;
import wirekettle.core.flow.compile.CompiledAnswer;
import wirekettle.core.flow.compile.CompiledBatch;
import wirekettle.core.flow.compile.CompiledBlock;
import wirekettle.core.flow.compile.CompiledBranch;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFilter;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.CompiledLookUp;
import wirekettle.core.flow.compile.CompiledMap;
import wirekettle.core.flow.compile.CompiledNote;
import wirekettle.core.flow.compile.CompiledRead;
import wirekettle.core.flow.compile.CompiledSplit;
import wirekettle.core.flow.compile.CompiledWrite;
import wirekettle.core.flow.compile.GatheredUses;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.value.Node;

/** Makes the steps of a flow: the one place that lists what the verbs do. */
final class Steps {
    private static final Map<Class<? extends Compiled>, BiFunction<Compiled, Steps, Step>> VERBS = verbs();

    private static final int MOST_HELPERS = 128;

    private final FlowFile file;
    private final Doors doors;
    private final Claims claims;
    private final Stop stop;
    private final Watch watch;
    private final boolean changes;
    private final ThreadPoolExecutor helpers =
            new ThreadPoolExecutor(0, MOST_HELPERS, 10, TimeUnit.SECONDS, new SynchronousQueue<>(), task -> {
                Thread thread = new Thread(task, "run-items");
                thread.setDaemon(true);
                return thread;
            });
    private final Map<String, Integer> numbers = new LinkedHashMap<>();
    private final Reversals reversals;
    private final Batches batches = new Batches();
    private volatile Map<String, Node> base = Map.of();

    /** Claims what changes data before it is sent, and notes what became of it. */
    interface Claims {
        /** Returns when it is durable. */
        void claim(Claim claim) throws Stopped;

        /** Says what became of it; need not be durable when it returns. */
        void known(Ledger.KnownPassage known);

        /** Nothing is kept. */
        Claims NONE = new Claims() {
            @Override
            public void claim(Claim claim) {}

            @Override
            public void known(Ledger.KnownPassage known) {}
        };
    }

    /** Observes a record going through the steps. */
    interface Watch {
        /** A record, or the item of one at a path, comes to a stage with these variables. */
        void enters(String stage, String path, Scope scope);

        /** A record failed at a stage; its lanes have not been asked yet. */
        void fails(String stage, Failure failure);

        /** A rule of a lane takes a record, or the item of one at a path, with these variables. */
        void takes(String rule, String path, Scope scope);

        /** A record would come to a stage that takes something back. */
        void shows(String stage, String path, Scope scope);

        /** Returns which of so many items of a Split is looked at first, from 1. */
        int shown(String split, int items);

        /** A stage adds to what an item at a path has, for its own fills: numbers drawn, the page it asks for. */
        default void adds(String stage, String path, Scope scope) {}

        /** Returns the samples that go with one in a Batch, it among them. */
        default List<Item> company(String batch, Item item) {
            return List.of(item);
        }

        /** A sample is in a batch, at a position from 1 of so many. */
        default void together(String batch, int position, int of) {}

        /** Nobody observes. */
        Watch NONE = new Silent();

        /** One that observes nothing. */
        class Silent implements Watch {
            @Override
            public void enters(String stage, String path, Scope scope) {}

            @Override
            public void fails(String stage, Failure failure) {}

            @Override
            public void takes(String rule, String path, Scope scope) {}

            @Override
            public void shows(String stage, String path, Scope scope) {}

            @Override
            public int shown(String split, int items) {
                return 1;
            }
        }
    }

    Steps(CompiledFlow flow, Doors doors, Claims claims, Stop stop, Watch watch) {
        this.watch = watch;
        this.file = flow.file();
        this.doors = doors;
        this.claims = claims;
        this.stop = stop;
        this.changes = flow.all(CompiledCall.class).stream()
                .anyMatch(call -> !call.stage().delivery().reads());
        for (Stage stage : flow.file().all()) {
            numbers.put(stage.id(), numbers.size());
        }
        this.reversals = new Reversals(flow, this);
    }

    private static Map<Class<? extends Compiled>, BiFunction<Compiled, Steps, Step>> verbs() {
        Map<Class<? extends Compiled>, BiFunction<Compiled, Steps, Step>> verbs = new LinkedHashMap<>();
        put(verbs, CompiledRead.class, (stage, steps) -> item -> StepResult.ON);
        put(verbs, CompiledFilter.class, (stage, steps) -> new FilterStep(stage));
        put(verbs, CompiledMap.class, MapStep::new);
        put(verbs, CompiledLookUp.class, (stage, steps) -> new LookUpStep(stage, steps.doors.lookUps()));
        put(verbs, CompiledCall.class, CallStep::new);
        put(verbs, CompiledSplit.class, SplitStep::new);
        put(verbs, CompiledBatch.class, BatchStep::new);
        put(verbs, CompiledBranch.class, BranchStep::new);
        put(verbs, CompiledWrite.class, (stage, steps) -> new WriteStep(stage));
        put(verbs, CompiledAnswer.class, (stage, steps) -> new AnswerStep(stage));
        put(verbs, CompiledNote.class, (stage, steps) -> item -> StepResult.ON);
        return Map.copyOf(verbs);
    }

    private static <C extends Compiled> void put(
            Map<Class<? extends Compiled>, BiFunction<Compiled, Steps, Step>> verbs,
            Class<C> kind,
            BiFunction<C, Steps, Step> step) {
        verbs.put(kind, (stage, steps) -> step.apply(kind.cast(stage), steps));
    }

    Doors doors() {
        return doors;
    }

    Watch watch() {
        return watch;
    }

    Claims claims() {
        return claims;
    }

    Stop stop() {
        return stop;
    }

    /** Tells whether only samples are looked at: then one item is taken after the other. */
    boolean looking() {
        return doors.replies() != null;
    }

    /**
     * Lets a thread help a record with many items; threads that have nothing to do end by themselves.
     *
     * @return what is waited for, null when all of them are busy: then the record goes on without
     */
    Future<?> helped(Callable<?> work) {
        try {
            return helpers.submit(work);
        } catch (RejectedExecutionException e) {
            return null;
        }
    }

    /** Takes what was made before the first record, which is in reach everywhere. */
    void base(Map<String, Node> made) {
        base = Map.copyOf(made);
    }

    /** Returns a scope with what was made before the first record. */
    Scope based(Scope scope) {
        Scope with = scope;
        for (Map.Entry<String, Node> each : base.entrySet()) {
            with = with.with(each.getKey(), each.getValue());
        }
        return with;
    }

    /** Returns which variables of its items stay until a Split gathers; a sample shows all of them. */
    Set<String> gathered(CompiledSplit split) {
        if (looking()) {
            return Set.copyOf(split.made());
        }
        return split.stage().gather() == null ? Set.of() : GatheredUses.of(file, split.stage(), split.made());
    }

    /** Returns where records wait for company. */
    Batches batches() {
        return batches;
    }

    /** Returns what takes back what calls changed. */
    Reversals reversals() {
        return reversals;
    }

    /** Tells whether the flow changes data: then what it made is kept with each claim. */
    boolean changes() {
        return changes;
    }

    /** Returns the step of a block: its stages one after the other. */
    Step block(CompiledBlock block) {
        List<Step> steps = new ArrayList<>();
        for (Compiled stage : block.steps()) {
            steps.add(guarded(stage));
        }
        Step[] all = steps.toArray(Step[]::new);
        Map<String, Integer> places = batches(block);
        return item -> {
            int first = item.company().member() == null
                    ? 0
                    : places.getOrDefault(item.company().member().batch(), 0);
            for (int i = first; i < all.length; i++) {
                StepResult go = all[i].run(item);
                if (go != StepResult.ON) {
                    return go;
                }
            }
            return StepResult.ON;
        };
    }

    /** Returns where in a block each Batch stands that a record can come back to: it, or the Branch it is in. */
    private static Map<String, Integer> batches(CompiledBlock block) {
        Map<String, Integer> places = new HashMap<>();
        for (int i = 0; i < block.steps().size(); i++) {
            int place = i;
            batches(block.steps().get(i)).forEach(id -> places.put(id, place));
        }
        return places;
    }

    private static List<String> batches(Compiled stage) {
        if (stage instanceof CompiledBatch) {
            return List.of(stage.id());
        }
        if (!(stage instanceof CompiledBranch branch)) {
            return List.of();
        }
        List<String> within = new ArrayList<>();
        branch.ways().forEach(way -> way.block().steps().forEach(each -> within.addAll(batches(each))));
        return within;
    }

    private Step guarded(Compiled stage) {
        int number = numbers.get(stage.id());
        Step bare = VERBS.get(stage.getClass()).apply(stage, this);
        Step counted = item -> {
            if (item.company().member() != null) {
                return bare.run(item); // it was here already
            }
            item.enters(number);
            if (item.isLooked()) {
                watch.shows(stage.id(), item.path(), item.scope());
                return bare.run(item);
            }
            watch.enters(stage.id(), item.path(), item.scope());
            try {
                return bare.run(item);
            } catch (Failed failed) {
                watch.fails(stage.id(), failed.failure());
                throw failed;
            }
        };
        return stage.frame().lane() == null
                ? counted
                : new Guard(counted, bare, new LaneRules(stage.frame().lane(), stage, this));
    }
}
