package wirekettle.core.flow.run;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.expression.Scope;
import wirekettle.core.flow.compile.CompiledAfter;
import wirekettle.core.flow.compile.CompiledBlock;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.CompiledRead;
import wirekettle.core.flow.compile.CompiledValue;
import wirekettle.core.flow.compile.Reach;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.soap.CallRoom;
import wirekettle.core.soap.security.Masking;
import wirekettle.core.value.Node;

/**
 * One sample record through the steps of a flow, as a run would take it. The doors answer its calls: with kept replies,
 * or with supposed failures. Nothing is written and nothing is sent.
 */
public final class SampleWalk {
    private final Map<String, Scope> scopes = new LinkedHashMap<>();
    private final Map<String, String> paths = new LinkedHashMap<>();
    private final Set<String> shown = new HashSet<>();
    private final Map<String, Integer> wanted = new HashMap<>();
    private final Map<String, Integer> items = new LinkedHashMap<>();
    private String lastPath = "";
    private final Map<String, Failure> failures = new LinkedHashMap<>();
    private final Map<String, List<String[]>> rows = new LinkedHashMap<>();
    private final Map<String, Integer> ways = new LinkedHashMap<>();
    private End end;
    private Failure failure;
    private String endedAt;
    private Answer answer;
    private Scope last;

    /** Thrown by a caller that has no reply for the sample: the walk ends at its stage. */
    public static final class NoReply extends RuntimeException {
        /** Makes one. */
        public NoReply() {
            super("there is no reply kept for the sample", null, false, false);
        }
    }

    private final Map<String, Place> batches = new LinkedHashMap<>();
    private List<BatchPlace> said = List.of();
    private final SampleSet others;
    private Map<String, Node> base = Map.of();

    /**
     * The place of the sample in a batch.
     *
     * @param said what was said of it, null when nothing was yet
     */
    public record Place(int position, int of, String said) {}

    /** What stands for a key that is made for each record of a run. */
    private static final String SAMPLE_KEY = "00000000-0000-4000-8000-000000000000";

    /** Thrown where another sample comes to the batch it would go in. */
    private static final class Arrived extends RuntimeException {
        private final transient Item item;

        Arrived(Item item) {
            super("", null, false, false);
            this.item = item;
        }
    }

    private SampleWalk(SampleSet others) {
        this.others = others;
    }

    /** Takes a record through a flow as far as it comes; of items the first are shown. */
    public static SampleWalk of(CompiledFlow flow, Doors doors, RunNames names, long ordinal, Node record) {
        return of(flow, doors, names, ordinal, record, Map.of(), null);
    }

    /**
     * Takes a record through a flow as far as it comes.
     *
     * @param items which items are shown, from 1, by the ids of their Splits; the first where nothing is said
     * @param others the samples that go with it in a Batch, null for none
     */
    public static SampleWalk of(
            CompiledFlow flow,
            Doors doors,
            RunNames names,
            long ordinal,
            Node record,
            Map<String, Integer> items,
            SampleSet others) {
        SampleWalk walk = new SampleWalk(others);
        walk.wanted.putAll(items);
        walk.go(flow, doors, names, ordinal, record);
        return walk;
    }

    private void go(CompiledFlow flow, Doors doors, RunNames names, long ordinal, Node record) {
        CompiledRead source = flow.source();
        Steps.Watch watch = new Steps.Watch() {
            @Override
            public void enters(String stage, String path, Scope scope) {
                // of items the one that is taken first is shown
                scopes.putIfAbsent(stage, scope);
                paths.putIfAbsent(stage, path);
                lastPath = path;
                last = scope;
                endedAt = stage;
            }

            @Override
            public void fails(String stage, Failure why) {
                failures.putIfAbsent(stage, why);
            }

            @Override
            public void takes(String rule, String path, Scope scope) {
                scopes.putIfAbsent(rule, scope);
                paths.putIfAbsent(rule, path);
            }

            @Override
            public void adds(String stage, String path, Scope scope) {
                scopes.computeIfPresent(stage, (id, its) -> path.equals(paths.get(id)) ? scope : its);
            }

            @Override
            public void shows(String stage, String path, Scope scope) {
                takes(stage, path, scope);
                shown.add(stage);
            }

            @Override
            public int shown(String split, int count) {
                items.putIfAbsent(split, count);
                return Math.max(1, Math.min(count, wanted.getOrDefault(split, 1)));
            }

            @Override
            public List<Item> company(String batch, Item item) {
                return others == null ? List.of(item) : arriving(flow, doors, names, batch, item);
            }

            @Override
            public void together(String batch, int position, int of) {
                batches.put(batch, new Place(position, of, null));
            }
        };
        Steps steps = new Steps(flow, doors, Steps.Claims.NONE, Stop.NEVER, watch);
        Item item = item(flow, doors, names, ordinal, record);
        Scope scope = item.scope();
        Replay replay = item.replay();
        try {
            Map<String, Node> made = before(flow, doors, names, steps);
            base = made;
            source(flow, doors, names, steps, record);
            if (record == null && source != null && source.from() != null) {
                return;
            }
            steps.base(made);
            Node handedOn = handedOn(flow, doors, names, ordinal, record);
            Scope with =
                    handedOn == null ? scope : scope.with(source.stage().carry().as(), handedOn);
            item.scope(steps.based(with));
            StepResult go = steps.block(flow.block()).run(item);
            end = go == StepResult.ON ? End.DONE : End.LEFT_OUT;
            endedAt = go == StepResult.ON ? null : item.leftAt();
        } catch (NoReply e) {
            // as far as it comes
        } catch (Failed failed) {
            failed(flow, steps, item, failed);
        } catch (Stopped e) {
            throw new IllegalStateException("nothing stops a sample", e);
        }
        item.rows().forEach(each -> rows.put(each.stage(), each.rows()));
        flow.file().all().forEach(stage -> {
            Integer way = replay.way("", stage.id());
            if (way != null) {
                ways.put(stage.id(), way);
            }
        });
        said = item.company().places();
        answer = item.answer();
        last = end == null ? last : item.scope();
        if (source != null) {
            scopes.putIfAbsent(source.id(), scope);
        }
        if (end != null && flow.after() != null) {
            after(flow, doors, names, steps, item);
        }
    }

    /** Takes the run of the sample through what comes before the first record; returns what that makes. */
    private static Map<String, Node> before(CompiledFlow flow, Doors doors, RunNames names, Steps steps)
            throws Failed, Stopped {
        Map<String, Node> made = new LinkedHashMap<>();
        if (!flow.before().steps().isEmpty()) {
            Item item = item(flow, doors, names, OnceWork.BEFORE, null, "before");
            steps.block(flow.before()).run(item);
            flow.before().after().variables().forEach(variable -> {
                Node its = item.scope().get(variable.name());
                if (its != null && !Reach.GIVEN.contains(variable.name())) {
                    made.put(variable.name(), its);
                }
            });
        }
        return made;
    }

    /** Takes the run of the sample through what comes after the last record, as if there were only this one. */
    private void after(CompiledFlow flow, Doors doors, RunNames names, Steps steps, Item record) {
        Map<String, Map<String, BigDecimal>> sums = new LinkedHashMap<>();
        for (CompiledValue sum : flow.after().sums()) {
            BigDecimal value = RecordWork.number(sum, record.scope());
            sums.put(sum.name(), Map.of(end.word(), value));
        }
        List<Long> ends = new ArrayList<>();
        for (End each : End.values()) {
            ends.add(each == end ? 1L : 0L);
        }
        int written =
                record.rows().stream().mapToInt(each -> each.rows().size()).sum();
        Totals totals = new Totals(1, ends, 0, written, 0, Map.of(), sums);
        Item item = item(flow, doors, names, OnceWork.AFTER, null, "after");
        item.scope(steps.based(item.scope()
                .with("run", OnceWork.whole(totals, names, item.replay().now()))));
        scopes.put(CompiledAfter.ID, record.scope());
        Scope shown = last;
        String at = endedAt;
        String path = lastPath;
        try {
            steps.block(flow.after().block()).run(item);
        } catch (NoReply | Failed | Stopped e) {
            // it is shown as far as it comes
        }
        last = shown;
        endedAt = at;
        lastPath = path;
    }

    private static Item item(CompiledFlow flow, Doors doors, RunNames names, long ordinal, Node record) {
        return item(flow, doors, names, ordinal, record, "");
    }

    private static Item item(CompiledFlow flow, Doors doors, RunNames names, long ordinal, Node record, String path) {
        String now = doors.clock()
                .instant()
                .truncatedTo(java.time.temporal.ChronoUnit.MILLIS)
                .toString();
        // what is shown tells no secret
        Scope scope =
                RecordWork.scope(flow, doors, names, now, now, ordinal, record).knowing(name -> Masking.MASK);
        return new Item(ordinal, path, record, "", null, scope, CallRoom.NONE, Replay.starting(now, SAMPLE_KEY), false);
    }

    /** Takes the sample to the operation that gives the records. */
    private void source(CompiledFlow flow, Doors doors, RunNames names, Steps steps, Node record)
            throws Failed, Stopped {
        if (flow.source() == null || flow.source().from() == null) {
            return;
        }
        ReadStage.FromOperation from = flow.source().stage().from();
        Item item = SourceScope.item(doors, names, base, from, null, CallRoom.NONE);
        item.scope(item.scope().knowing(name -> Masking.MASK));
        try {
            steps.block(new CompiledBlock(
                            List.of(flow.source().from()),
                            flow.source().from().frame().after()))
                    .run(item);
        } catch (NoReply e) {
            if (record == null) {
                throw e;
            }
        }
    }

    /** Returns what the sample before one of its key hands on, null for nothing. */
    private Node handedOn(CompiledFlow flow, Doors doors, RunNames names, long ordinal, Node record) {
        CompiledRead source = flow.source();
        String key = source == null || source.carried().isEmpty() ? null : key(source, record);
        if (key == null || key.isBlank() || others == null) {
            return null;
        }
        for (int i = others.records().size() - 1; i >= 0; i--) {
            Node before = others.records().get(i);
            if (others.numbers().get(i) < ordinal && key.equals(key(source, before))) {
                SampleWalk walk = of(flow, doors, names, others.numbers().get(i), before, Map.of(), others);
                if (walk.end != End.LEFT_OUT) {
                    return walk.end == End.DONE ? CarryOver.of(source, walk.last) : null;
                }
            }
        }
        return null;
    }

    private static String key(CompiledRead source, Node record) {
        Node key = source.key() == null || record == null
                ? null
                : source.key().first(Scope.empty().with(source.stage().as(), record));
        return key == null ? null : key.text();
    }

    /** Takes the other samples to a Batch; those that come there go with the one that is shown, in input order. */
    private List<Item> arriving(CompiledFlow flow, Doors doors, RunNames names, String batch, Item shown) {
        Steps.Watch until = new Steps.Watch.Silent() {
            @Override
            public List<Item> company(String at, Item item) {
                if (at.equals(batch)) {
                    throw new Arrived(item);
                }
                return List.of(item);
            }
        };
        Steps arriving = new Steps(flow, doors, Steps.Claims.NONE, Stop.NEVER, until);
        arriving.base(base);
        Step all = arriving.block(flow.block());
        List<Item> members = new ArrayList<>(List.of(shown));
        for (int i = 0; i < others.records().size(); i++) {
            if (others.numbers().get(i) == shown.ordinal()) {
                continue;
            }
            try {
                Item other = item(
                        flow,
                        doors,
                        names,
                        others.numbers().get(i),
                        others.records().get(i));
                other.scope(arriving.based(other.scope()));
                all.run(other);
            } catch (Arrived e) {
                members.add(e.item);
            } catch (NoReply | Failed | Stopped e) {
                // it does not come there
            }
        }
        members.sort(Comparator.comparingLong(Item::ordinal));
        return members;
    }

    private void failed(CompiledFlow flow, Steps steps, Item item, Failed failed) {
        Failed last = failed;
        if (!failed.settled()) {
            item.backRows(0);
            try {
                if (flow.lane() != null) {
                    LaneRules lane = new LaneRules(flow.lane(), null, steps);
                    lane.take(failed, item, item.mark(), lane.tries());
                }
            } catch (Failed e) {
                last = e;
            } catch (NoReply | Stopped e) {
                // the lane calls somebody
            }
        }
        failure = last.failure();
        end = failure.doubtful() ? End.IN_DOUBT : End.REJECTED;
        endedAt = failure.stage();
    }

    /** Returns the variables in reach when the sample came to a stage or a rule of a lane, null when it did not. */
    public Scope at(String stage) {
        return scopes.get(stage);
    }

    /** Tells whether the sample comes to a stage; what would take something back is only shown. */
    public boolean reaches(String stage) {
        return scopes.containsKey(stage) && !shown.contains(stage);
    }

    /** Returns which item of the sample is shown at a stage: its path, empty for the sample itself. */
    public String path(String stage) {
        return paths.getOrDefault(stage, "");
    }

    /** Returns how many items the sample has, by the ids of the Splits it comes to. */
    public Map<String, Integer> items() {
        return items;
    }

    /** Returns the places of the sample in the batches it comes to, by the ids of the Batches. */
    public Map<String, Place> batches() {
        Map<String, Place> all = new LinkedHashMap<>(batches);
        for (BatchPlace place : said) {
            all.put(place.stage(), new Place(place.position(), place.of(), place.said()));
        }
        return all;
    }

    /** Returns the path of the item that came last to a stage: the one that waits, where one does. */
    public String lastPath() {
        return lastPath;
    }

    /** Returns everything that was made as far as the sample came. */
    public Scope last() {
        return last;
    }

    /** Returns the failures met, by stage; lanes may have saved the sample from them. */
    public Map<String, Failure> failures() {
        return failures;
    }

    /** Returns the rows it gave, by the ids of Write stages. */
    public Map<String, List<String[]>> rows() {
        return rows;
    }

    /** Returns the numbers of the ways taken, by the ids of Branch stages; -1 for none of them. */
    public Map<String, Integer> ways() {
        return ways;
    }

    /** Returns how it ended, null when it only came to a call without a reply. */
    public End end() {
        return end;
    }

    /** Returns why it failed, or null. */
    public Failure failure() {
        return failure;
    }

    /** Returns the stage it came to last, null when it came to the end. */
    public String endedAt() {
        return endedAt;
    }

    /** Returns what a caller of the flow would get, or null. */
    public Answer answer() {
        return answer;
    }
}
