package wirekettle.server.flows;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.assist.FieldCoverage;
import wirekettle.core.assist.SampleProof;
import wirekettle.core.expression.Scope;
import wirekettle.core.flow.compile.CompiledBatch;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.MapStage;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.flow.run.Doors;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.flow.run.RowIndex;
import wirekettle.core.flow.run.RunNames;
import wirekettle.core.flow.run.SampleSet;
import wirekettle.core.flow.run.SampleWalk;
import wirekettle.core.value.Node;

/** Sample records taken through the steps of flows, kept from one question of a flow page to the next. */
@ApplicationScoped
class Samples {
    @Inject
    FlowContext context;

    @Inject
    FlowRecords flowRecords;

    private final Map<String, SampleSet> sets = LatestMap.of(16);
    private final Map<String, Walks> walks = LatestMap.of(16);
    private final Map<String, Proof> proofs = LatestMap.of(32);

    /**
     * The samples of a flow with the way of each.
     *
     * @param of what they were taken through
     * @param set the samples
     * @param each their ways, in the order of the set
     */
    record Walks(String of, SampleSet set, List<SampleWalk> each) {
        /** Returns the places in the set of those that come to a stage. */
        List<Integer> at(String stage) {
            List<Integer> places = new ArrayList<>();
            for (int i = 0; i < each.size(); i++) {
                if (each.get(i).at(stage) != null) {
                    places.add(i);
                }
            }
            return places;
        }
    }

    /**
     * The values of a request for samples.
     *
     * @param of the samples
     * @param usable the places of those that come to the call
     * @param values the values
     */
    record Proof(Walks of, List<Integer> usable, SampleProof values) {
        /** Returns how every field fares. */
        Map<String, FieldCoverage> tallies() {
            Map<String, FieldCoverage> tallies = new LinkedHashMap<>();
            values.values().forEach((path, each) -> {
                FieldCoverage tally = new FieldCoverage();
                for (int i = 0; i < each.length; i++) {
                    tally.count(of.set().numbers().get(usable.get(i)), each[i]);
                }
                tallies.put(path, tally);
            });
            return tallies;
        }

        /** Returns the variables in reach at the call, for each sample that comes there. */
        List<Scope> scopes(String call) {
            return usable.stream().map(i -> of.each().get(i).at(call)).toList();
        }
    }

    /** Returns the records everything is held against; samples is first or random. */
    SampleSet set(FlowRecords.Source source, String samples) throws IOException {
        List<Node> known = flowRecords.samples(source);
        if (known.isEmpty()) {
            return new SampleSet(List.of(), List.of());
        }
        if (!"random".equals(samples)) {
            return SampleSet.first(known);
        }
        String key = flowRecords.version(source);
        SampleSet set = sets.get(key);
        if (set == null) {
            try (RecordSource records = flowRecords.open(source)) {
                set = SampleSet.random(records);
            }
            sets.put(key, set);
        }
        return set;
    }

    /** What stands behind the steps when nobody is called. */
    private Doors looking(KeptReplies replies, RowIndex rows) {
        return Doors.forLooking(replies, rows, context.foldersForLooking(), context.clock())
                .with(context.numbersForLooking(replies.environment()));
    }

    private static UncheckedIOException unread(IOException e) {
        return new UncheckedIOException("what is looked up cannot be read: " + e.getMessage(), e);
    }

    private static String source(ReadStage read) {
        if (read.input() != null) {
            return "callers";
        }
        if (read.from() == null) {
            return String.valueOf(read.dataset());
        }
        return read.from().call() == null ? "" : read.from().call().operation();
    }

    private RunNames names(CompiledFlow flow, KeptReplies replies) {
        return new RunNames("sample", source(flow.source().stage()), "", context.values(replies.environment()));
    }

    /** Takes one record through a flow, in a Batch alone. */
    SampleWalk alone(CompiledFlow flow, KeptReplies replies, FlowRecords.Numbered record) {
        return walk(flow, replies, record, null, null);
    }

    /** Takes one record through a flow; {@code items} says which items are shown, by Split, null for the first. */
    SampleWalk walk(CompiledFlow flow, KeptReplies replies, FlowRecords.Numbered record, Map<String, Integer> items) {
        boolean together = !flow.all(CompiledBatch.class).isEmpty() || carries(flow);
        return walk(flow, replies, record, items, together ? together(flow, replies) : null);
    }

    private static boolean carries(CompiledFlow flow) {
        return !flow.source().carried().isEmpty();
    }

    private SampleWalk walk(
            CompiledFlow flow,
            KeptReplies replies,
            FlowRecords.Numbered record,
            Map<String, Integer> items,
            SampleSet others) {
        try (RowIndex rows = new RowIndex(flowRecords.lookUps(replies.environment()))) {
            return SampleWalk.of(
                    flow,
                    looking(replies, rows),
                    names(flow, replies),
                    record.number(),
                    record.node(),
                    items == null ? Map.of() : items,
                    others);
        } catch (IOException e) {
            throw unread(e);
        }
    }

    /** The samples that go with one in a batch, or hand something on to it: the first. */
    private SampleSet together(CompiledFlow flow, KeptReplies replies) {
        try {
            return SampleSet.first(flowRecords.samples(flowRecords.of(flow, replies.flowId(), replies.environment())));
        } catch (IOException e) {
            throw new UncheckedIOException("the samples cannot be read: " + e.getMessage(), e);
        }
    }

    /** Takes samples through a flow; what they were taken through before is not done again. */
    Walks walks(long flowId, CompiledFlow flow, KeptReplies replies, SampleSet set, String samples) {
        String of = String.join(
                "|",
                flowRecords.version(flowRecords.of(flow, flowId, replies.environment())),
                replies.version(),
                making(flow.file()),
                context.values(replies.environment()).toString(),
                context.standIns(replies.environment()).toString(),
                Integer.toString(context.contractsVersion(flow)),
                Integer.toString(context.mapping(flow.file()).tables().hashCode()));
        String key = flowId + " " + samples;
        Walks before = walks.get(key);
        if (before != null && before.of().equals(of) && before.set().equals(set)) {
            return before;
        }
        List<SampleWalk> each = new ArrayList<>();
        try (RowIndex rows = new RowIndex(flowRecords.lookUps(replies.environment()))) {
            Doors doors = looking(replies, rows);
            for (int i = 0; i < set.records().size(); i++) {
                each.add(SampleWalk.of(
                        flow,
                        doors,
                        names(flow, replies),
                        set.numbers().get(i),
                        set.records().get(i),
                        Map.of(),
                        carries(flow) ? set : null));
            }
        } catch (IOException e) {
            throw unread(e);
        }
        Walks now = new Walks(of, set, each);
        walks.put(key, now);
        return now;
    }

    /** What decides which variables samples have where: the flow without the fills that make none. */
    private static String making(FlowFile file) {
        FlowFile bare = file;
        for (var stage : file.all()) {
            // what these fill is a variable that later stages have
            if (!(stage instanceof MapStage || stage instanceof SplitStage)) {
                bare = bare.with(bare.stage(stage.id()).orElse(stage).filled(List.of()));
            }
        }
        return bare.text();
    }

    /**
     * Returns the values of a call's request for the samples that come to it; an edit computes only what it touches.
     */
    Proof proof(long flowId, CompiledCall call, Walks walks, String samples) {
        if (call.request() == null) {
            return null;
        }
        String key = flowId + " " + samples + " " + call.id();
        Proof before = proofs.get(key);
        Proof now;
        if (before != null && before.of() == walks) {
            now = new Proof(walks, before.usable(), before.values().edited(call.request()));
        } else {
            List<Integer> usable = walks.at(call.id());
            List<Scope> scopes =
                    usable.stream().map(i -> walks.each().get(i).at(call.id())).toList();
            now = new Proof(walks, usable, SampleProof.of(call.request(), scopes));
        }
        proofs.put(key, now);
        return now;
    }
}
