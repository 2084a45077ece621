package wirekettle.server.triggers;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jboss.logging.Logger;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.server.flows.FlowMapper;
import wirekettle.server.ledger.RunMapper;
import wirekettle.server.publish.Publication;
import wirekettle.server.publish.Publications;
import wirekettle.server.runs.RunEnded;
import wirekettle.server.web.Problem;

/** Starts flows after other flows have ended, and what waited for an end. */
@ApplicationScoped
class Following {
    private static final Logger LOG = Logger.getLogger(Following.class);
    private static final Set<String> STAYS = Set.of("paused", "interrupted");

    @Inject
    TriggerMapper mapper;

    @Inject
    Triggers triggers;

    @Inject
    RunMapper runs;

    @Inject
    FlowMapper flows;

    @Inject
    Publications publications;

    void ended(@Observes RunEnded end) {
        if (STAYS.contains(end.state())) {
            return;
        }
        try {
            RunMapper.Row run = runs.byId(end.run());
            for (TriggerMapper.Row each : mapper.active("flow")) {
                TriggerSpec spec = Triggers.spec(each);
                boolean its = run.flowId().equals(spec.after())
                        && each.environment().equals(run.environment())
                        && run.originRun() == null;
                if (its) {
                    follow(each, spec, run);
                }
            }
            for (TriggerMapper.Row each : mapper.waiting(run.flowId(), run.environment())) {
                if (mapper.waits(each.id(), false) > 0) {
                    triggers.start(each, null, false);
                }
            }
        } catch (RuntimeException e) {
            LOG.errorf(e, "what follows run %d was not started", end.run());
        }
    }

    private void follow(TriggerMapper.Row trigger, TriggerSpec spec, RunMapper.Row run) {
        long wrong = run.rejected() + run.inDoubt() + run.heldBack();
        boolean done = run.state().equals("done");
        if (!done || Boolean.TRUE.equals(spec.onlyDone()) && wrong > 0) {
            mapper.event(
                    trigger.id(),
                    "left-out",
                    "run " + run.id() + " of " + run.flowName() + " is " + run.state()
                            + (wrong > 0 ? ", with " + wrong + " records that are not done" : ""),
                    null);
            return;
        }
        triggers.start(trigger, output(trigger, run), false);
    }

    /** What the run wrote to the dataset the next flow reads; null where that is no file of its own. */
    private Path output(TriggerMapper.Row trigger, RunMapper.Row run) {
        Publication inForce = publications.inForce(trigger.flowId(), trigger.environment());
        if (inForce == null || run.outputFile() == null) {
            return null;
        }
        FlowFile next = publications.file(inForce);
        FlowFile before = FlowFile.parse(flows.file(run.flowId(), run.flowRevision()));
        String read = next.source().map(source -> source.dataset()).orElse(null);
        String written = before.results().map(WriteStage::dataset).orElse(null);
        Path file = Path.of(run.outputFile());
        boolean its = read != null && read.equals(written) && file.toString().endsWith(".csv");
        return its && Files.exists(file) ? file : null;
    }

    /**
     * Refuses a trigger that would let flows start each other in a circle.
     *
     * @param id the trigger that is saved, 0 for a new one
     */
    void mustEnd(long id, long flow, String environment, long after) {
        Map<Long, Set<Long>> next = new HashMap<>();
        Map<Long, String> names = new HashMap<>();
        for (TriggerMapper.Row each : mapper.following()) {
            names.put(each.flowId(), each.flowName());
            Long its = Triggers.spec(each).after();
            if (each.id() != id && each.environment().equals(environment) && its != null) {
                next.computeIfAbsent(its, key -> new HashSet<>()).add(each.flowId());
            }
        }
        next.computeIfAbsent(after, key -> new HashSet<>()).add(flow);
        Set<Long> seen = new HashSet<>();
        List<Long> wave = List.of(flow);
        while (!wave.isEmpty()) {
            Set<Long> following = new HashSet<>();
            for (Long each : wave) {
                following.addAll(next.getOrDefault(each, Set.of()));
            }
            if (following.contains(flow)) {
                throw new Problem(
                        409,
                        "circle",
                        "These flows would start each other without end: the one it is to follow starts after it.");
            }
            following.removeAll(seen);
            seen.addAll(following);
            wave = List.copyOf(following);
        }
    }
}
