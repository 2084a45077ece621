package wirekettle.server.flows;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.atomic.AtomicLong;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.assist.FieldCoverage;
import wirekettle.core.expression.Scope;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.CompiledMap;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.flow.run.SampleSet;
import wirekettle.core.flow.run.SampleWalk;
import wirekettle.core.request.ByteOut;
import wirekettle.core.request.FillPlan;
import wirekettle.core.request.MessageCheck;
import wirekettle.core.value.Node;

/**
 * Proofs going on: every sample's whole message held against the contract's schemas, all rows of a dataset if wanted.
 */
@ApplicationScoped
public class ProofJobs {
    private static final int KEPT = 40;
    private static final int TOLD = 50;
    private static final long ABANDONED_NANOS = 10_000_000_000L;

    @Inject
    FlowContext context;

    @Inject
    FlowRecords flowRecords;

    @Inject
    KeptReplyMapper kept;

    @Inject
    Samples samples;

    private final Map<Long, Job> jobs = new ConcurrentHashMap<>();
    private final AtomicLong ids = new AtomicLong();
    private final ExecutorService workers = Executors.newFixedThreadPool(2, task -> {
        Thread thread = new Thread(task, "proof");
        thread.setDaemon(true);
        return thread;
    });

    /** A record whose message is not valid. */
    @Schema(
            name = "InvalidMessage",
            requiredProperties = {"record", "message"})
    public record Invalid(long record, String message) {}

    /**
     * Where a proof stands.
     *
     * @param state running, done, cancelled or failed
     * @param checked how many messages were checked
     * @param total how many there are
     * @param valid how many of them are valid
     * @param invalid the first that are not
     * @param fields how every field fares so far
     * @param message why it failed
     */
    @Schema(
            name = "Proof",
            requiredProperties = {"id", "state", "checked", "total", "valid", "invalid", "fields"})
    public record State(
            long id,
            String state,
            long checked,
            long total,
            long valid,
            List<Invalid> invalid,
            Map<String, Preview.FieldValue> fields,
            String message) {}

    private static final class Job {
        private final long id;
        private volatile String state = "running";
        private volatile boolean cancelled;
        private volatile String message;
        private long checked;
        private long total;
        private long valid;
        private final List<Invalid> invalid = new ArrayList<>();
        private final Map<String, FieldCoverage> fields = new LinkedHashMap<>();

        private final String asker;
        private volatile long askedAt = System.nanoTime();

        Job(long id, String asker) {
            this.id = id;
            this.asker = asker;
        }

        /** Tells whether it is to end: it was cancelled, or nobody has asked how it stands for some seconds. */
        boolean over() {
            cancelled |= System.nanoTime() - askedAt > ABANDONED_NANOS;
            return cancelled;
        }

        /** A record that does not come to the message is not among those it is proved over. */
        synchronized void passes() {
            total = Math.max(0, total - 1);
        }

        synchronized void count(long record, Map<String, FillPlan.Computed> values, List<String> wrong) {
            checked++;
            values.forEach((path, value) ->
                    fields.computeIfAbsent(path, p -> new FieldCoverage()).count(record, value));
            if (wrong.isEmpty()) {
                valid++;
            } else if (invalid.size() < TOLD) {
                invalid.add(new Invalid(record, wrong.get(0)));
            }
        }

        synchronized State state() {
            Map<String, Preview.FieldValue> shown = new LinkedHashMap<>();
            fields.forEach((path, tally) -> shown.put(path, Preview.FieldValue.of(tally, "", null, null)));
            return new State(id, state, checked, total, valid, List.copyOf(invalid), shown, message);
        }
    }

    /**
     * Starts a proof over samples: first, random or all.
     *
     * @param asker who asks for which flow: the next proof ends the one before
     */
    long start(long flowId, ProofResource.ProofAsked asked, String asker) {
        jobs.values().stream()
                .filter(old -> old.asker.equals(asker) && old.state.equals("running"))
                .forEach(old -> old.cancelled = true);
        Job job = new Job(ids.incrementAndGet(), asker);
        if (jobs.size() >= KEPT) {
            jobs.values().removeIf(old -> !old.state.equals("running"));
        }
        jobs.put(job.id, job);
        workers.execute(() -> work(job, flowId, asked));
        return job.id;
    }

    private void work(Job job, long flowId, ProofResource.ProofAsked asked) {
        if (job.over()) {
            job.state = "cancelled";
            return;
        }
        try {
            CompiledFlow flow = context.compile(asked.file());
            CompiledCall call = FlowContext.call(flow, asked.stage());
            if (call == null || call.request() == null || flow.source() == null) {
                job.message = "There is no message yet: pick a dataset and an operation.";
                job.state = "failed";
                return;
            }
            FlowRecords.Source source = flowRecords.of(flow, flowId, asked.environment());
            KeptReplies replies = new KeptReplies(kept, flowId, flow, asked.environment(), null);
            Check check = new Check(flow, call, replies, job);
            if ("all".equals(asked.samples())) {
                job.total = flowRecords.records(source);
                all(source, check, job);
            } else {
                SampleSet set = samples.set(source, asked.samples());
                job.total = set.records().size();
                for (int i = 0; i < set.records().size() && !job.over(); i++) {
                    check.record(set.numbers().get(i), set.records().get(i));
                }
            }
            job.state = job.over() ? "cancelled" : "done";
        } catch (IOException | RuntimeException e) {
            job.message = e.getMessage();
            job.state = "failed";
        }
    }

    private void all(FlowRecords.Source from, Check check, Job job) throws IOException {
        try (RecordSource source = flowRecords.open(from)) {
            long number = 0;
            for (RecordSource.Item item = source.next(); item != null && !job.over(); item = source.next()) {
                number++;
                if (item.problem() != null) {
                    job.count(number, Map.of(), List.of(item.problem()));
                } else {
                    check.record(number, item.node());
                }
            }
        }
    }

    /** One record after the other: values, problems, and what the validator says of the whole message. */
    private final class Check {
        private final CompiledFlow flow;
        private final CompiledCall call;
        private final KeptReplies replies;
        private final Job job;
        private final MessageCheck whole;

        Check(CompiledFlow flow, CompiledCall call, KeptReplies replies, Job job) {
            this.flow = flow;
            this.call = call;
            this.replies = replies;
            this.job = job;
            this.whole = call.offered().operation().input().encoded()
                    ? null
                    : new MessageCheck(
                            call.contract().check(), call.offered().port().soapVersion());
        }

        void record(long number, Node record) {
            SampleWalk walk = samples.alone(flow, replies, new FlowRecords.Numbered(number, record));
            Scope scope = walk.at(call.id());
            Map<String, FillPlan.Computed> values = Map.of();
            List<String> wrong = new ArrayList<>();
            if (scope == null && walk.failure() != null) {
                wrong.add(
                        flow.stage(walk.failure().stage()) instanceof CompiledMap map
                                ? "$" + map.stage().as() + " could not be made: "
                                        + walk.failure().message()
                                : walk.failure().message());
            } else if (scope == null) {
                // it goes another way, or ends before: there is no message to prove
                job.passes();
                return;
            } else {
                ByteOut out = new ByteOut();
                values = call.request().values(scope, out);
                values.forEach((path, value) -> {
                    if (value.problem() != null) {
                        wrong.add(value.problem().sentence());
                    }
                });
                // what our own checks refuse is never sent; the validator judges all that would be
                if (wrong.isEmpty() && whole != null) {
                    wrong.addAll(whole.problems(out.bytes()));
                }
            }
            job.count(number, values, wrong);
        }
    }

    /** Returns where a proof stands, null when there is none of that number. */
    State state(long id) {
        Job job = jobs.get(id);
        if (job == null) {
            return null;
        }
        job.askedAt = System.nanoTime();
        return job.state();
    }

    /** Ends a proof. */
    void cancel(long id) {
        Job job = jobs.get(id);
        if (job != null) {
            job.cancelled = true;
        }
    }
}
